/** What tiles can be: their shape in a cell, and how those that treat others alike are put together. */
import type { LayerSet } from '../../core/filter/layers.ts'
import { finite, flag, list, notNegative, oneOf, onlyFields, record } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { DENSITY, FRICTION, RESTITUTION, SPEED } from '../../core/util/limits.ts'
import { polygon } from '../shapes/polygon.ts'
import { checkDirection, checkVec, type Vec2 } from '../vector.ts'

/** What a tile is. Fields that are left out are those of the collider. */
export interface TileKind<L extends string = string> {
  /** `'full'` fills the cell; else a convex polygon in the unit cell, x to the right and y up, both from 0 to 1. Default `'full'`. */
  readonly shape?: 'full' | readonly Vec2[] | undefined
  /** Where it is, if elsewhere than the collider. */
  readonly layer?: LayerSet<L> | undefined
  /** `'sense'`: it never presses, only senses. */
  readonly response?: 'solid' | 'sense' | undefined
  /** Kilograms a square metre. */
  readonly density?: number | undefined
  /** Of a pair, the root of the product. */
  readonly friction?: number | undefined
  /** Of a pair, the greater. */
  readonly restitution?: number | undefined
  /** Lengths a second at which it carries what lies on it. */
  readonly surfaceSpeed?: number | undefined
  /** Lets through what comes along this direction. */
  readonly oneWay?: Vec2 | null | undefined
  /** `carve` leaves it. Default false. */
  readonly firm?: boolean | undefined
}

/** The fields of a kind that are those of a collider: where they differ, tiles do not merge. */
const BEHAVIOUR = ['layer', 'response', 'density', 'friction', 'restitution', 'surfaceSpeed', 'oneWay'] as const
const FIELDS = ['shape', 'firm', ...BEHAVIOUR] as const

/** The sides of a cell, in the order of the edges of a full tile. */
export const BOTTOM = 0
export const RIGHT = 1
export const TOP = 2
export const LEFT = 3
/** The edge of a tile that is on no side of its cell. */
const WITHIN_CELL = -1

/** Corners of a tile's shape at most. */
const MOST_CORNERS = 16
const FULL = [0, 0, 1, 0, 1, 1, 0, 1]

/** The fields of a collider that a kind can set. */
export interface TileFields {
  layer?: LayerSet<string>
  sensor?: boolean
  density?: number
  friction?: number
  restitution?: number
  surfaceSpeed?: number
  oneWay?: Vec2
}

/** What tiles of the same behaviour share. */
export interface Behaviour {
  /** Fields of a collider; those that are not there are the collider's own. */
  readonly fields: Readonly<TileFields>
  /** Whether other solids are hidden behind it: it presses, and from all sides. */
  readonly holds: boolean
}

/** A kind that has passed all checks. */
export interface Kind {
  readonly sign: string
  /** x, y of each corner in the unit cell, counter-clockwise. */
  readonly corners: readonly number[]
  readonly full: boolean
  readonly firm: boolean
  /** The number of its behaviour. */
  readonly group: number
  /** Of each edge: the side of the cell that it lies on, or -1. */
  readonly sides: readonly number[]
  /** Of each side of the cell: from where to where it is covered, along x or y; 0 and 0 where it is not. */
  readonly covered: readonly number[]
}

/** Kinds by their signs, and their behaviours; the first of these is that of the collider itself. */
export interface Kinds2 {
  readonly kinds: readonly Kind[]
  readonly groups: readonly Behaviour[]
}

/** Checks the kinds of a grid. Throws KeenError. */
export function checkKinds(given: unknown, unit: string): Kinds2 {
  record(given, `'kinds' of ${unit}`)
  const entries = Object.entries(given as Record<string, TileKind>)
  if (entries.length === 0 || entries.length > 255) {
    throw new KeenError('bad-argument', `'kinds' of ${unit} must have 1 to 255 kinds, got ${entries.length}`)
  }
  const groups: Behaviour[] = [{ fields: {}, holds: true }]
  const names = ['{}']
  const kinds = entries.map(([sign, kind]) => {
    const what = `kinds[${JSON.stringify(sign)}] of ${unit}`
    onlyFields(kind, FIELDS, what)
    const fields = behaviourOf(kind, what)
    const name = JSON.stringify(fields)
    let group = names.indexOf(name)
    if (group < 0) {
      group = names.push(name) - 1
      groups.push({ fields, holds: fields.sensor !== true && fields.oneWay === undefined })
    }
    const corners = checkCorners(kind.shape ?? 'full', what)
    const sides = corners.flatMap((_, i) => (i % 2 === 0 ? [sideOf(corners, i)] : []))
    return {
      sign,
      corners,
      full: corners === FULL,
      firm: flag(kind.firm, false, `'firm' of ${what}`),
      group,
      sides,
      covered: coveredBy(corners, sides),
    }
  })
  return { kinds, groups }
}

/** The fields of a collider that a kind sets. Layers are checked by the world. */
function behaviourOf(kind: TileKind, what: string): TileFields {
  const fields: TileFields = {}
  if (kind.layer !== undefined) fields.layer = checkLayer(kind.layer, what)
  if (kind.response !== undefined) {
    if (oneOf(kind.response, ['solid', 'sense'], `'response' of ${what}`) === 'sense') fields.sensor = true
  }
  if (kind.density !== undefined) fields.density = notNegative(kind.density, `'density' of ${what}`, DENSITY)
  if (kind.friction !== undefined) fields.friction = notNegative(kind.friction, `'friction' of ${what}`, FRICTION)
  if (kind.restitution !== undefined)
    fields.restitution = notNegative(kind.restitution, `'restitution' of ${what}`, RESTITUTION)
  if (kind.surfaceSpeed !== undefined)
    fields.surfaceSpeed = finite(kind.surfaceSpeed, `'surfaceSpeed' of ${what}`, SPEED)
  if (kind.oneWay !== undefined && kind.oneWay !== null)
    fields.oneWay = checkDirection(kind.oneWay, `'oneWay' of ${what}`)
  return fields
}

/** Names or a mask; whether there are such layers the world says. */
function checkLayer(layer: unknown, what: string): LayerSet<string> {
  const names = Array.isArray(layer) ? layer : [layer]
  if (typeof layer === 'number' || names.every((name) => typeof name === 'string')) return layer as LayerSet<string>
  throw new KeenError('bad-argument', `'layer' of ${what} is a name, a list of names or a mask, got ${show(layer)}`)
}

function checkCorners(shape: unknown, what: string): readonly number[] {
  if (shape === 'full') return FULL
  if (typeof shape === 'string') {
    throw new KeenError('bad-shape', `'shape' of ${what} is 'full' or the corners of a polygon, got ${show(shape)}`)
  }
  const given = list(shape, `'shape' of ${what}`).map((each, i) => {
    const point = checkVec(each, `shape[${i}] of ${what}`)
    if (point.x < 0 || point.x > 1 || point.y < 0 || point.y > 1) {
      throw new KeenError(
        'bad-shape',
        `shape[${i}] of ${what} must lie in the unit cell, x and y from 0 to 1, got (${point.x}, ${point.y})`,
      )
    }
    return point
  })
  const { points, pieces } = polygon(given)
  if (pieces.length > 1 || points.length > MOST_CORNERS) {
    throw new KeenError('bad-shape', `'shape' of ${what} must be convex, with at most ${MOST_CORNERS} corners`)
  }
  const corners = points.flatMap(({ x, y }) => [x + 0, y + 0])
  return isFull(corners) ? FULL : corners
}

function isFull(corners: readonly number[]): boolean {
  return corners.length === 8 && corners.every((each) => each === 0 || each === 1)
}

/** The side of the cell that the edge from corner `i` lies on. */
function sideOf(corners: readonly number[], i: number): number {
  const j = (i + 2) % corners.length
  const [ax, ay, bx, by] = [corners[i], corners[i + 1], corners[j], corners[j + 1]]
  if (ay === 0 && by === 0) return BOTTOM
  if (ax === 1 && bx === 1) return RIGHT
  if (ay === 1 && by === 1) return TOP
  return ax === 0 && bx === 0 ? LEFT : WITHIN_CELL
}

function coveredBy(corners: readonly number[], sides: readonly number[]): number[] {
  const covered = [0, 0, 0, 0, 0, 0, 0, 0]
  sides.forEach((side, edge) => {
    if (side === WITHIN_CELL) return
    const i = 2 * edge
    const j = (i + 2) % corners.length
    const axis = side === BOTTOM || side === TOP ? 0 : 1
    covered[2 * side] = Math.min(corners[i + axis], corners[j + axis])
    covered[2 * side + 1] = Math.max(corners[i + axis], corners[j + axis])
  })
  return covered
}
