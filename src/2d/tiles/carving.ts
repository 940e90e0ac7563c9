/** Taking tiles away where a shape is, and pieces that nothing holds any more. */
import { finite, notNegative, oneOf, onlyFields } from '../../core/util/checks.ts'
import { KeenError } from '../../core/util/errors.ts'
import { ANGLE } from '../../core/util/limits.ts'
import { gapOfPieces } from '../narrow/pair.ts'
import { DISTANCE, GAP_SIZE } from '../narrow/records.ts'
import type { AskingShape2 } from '../query/queryShape.ts'
import { CONVEX, COUNT, HEAD, LINE, PLANE } from '../shapes/layout.ts'
import { placed, writePose } from '../shapes/place.ts'
import { refuseNoShape, type Shape2, type Tiles } from '../shapes/shape.ts'
import { checkVec, type Vec2 } from '../vector.ts'
import { Grid } from './grid.ts'
import type { Ground, GroundCollider } from './ground.ts'

/** What is to be carved. */
export interface CarveOptions {
  /** What is taken away: a convex shape or a compound of such. */
  readonly shape: AskingShape2
  /** Where its origin is in the world. */
  readonly at: Vec2
  /** Radians. Default 0. */
  readonly angle?: number | undefined
  /**
   * Which tiles go; they go whole, none is cut. `'middle'`: whose middle the shape covers; `'touched'`: all that it overlaps; `'covered'`: only
   * those that lie wholly within it. Firm ones stay. Default `'middle'`.
   */
  readonly tiles?: 'middle' | 'touched' | 'covered' | undefined
  /**
   * What is cut off by that is taken out and handed back, if it has so many tiles at most. What reaches the border of the grid or a firm tile is
   * held. Default 0: nothing is handed back.
   */
  readonly cutOff?: number | undefined
}

/** A tile that is gone. */
export interface CarvedTile {
  /** From the left, from 0. */
  readonly column: number
  /** From the top, from 0. */
  readonly row: number
  /** The sign of its kind. */
  readonly kind: string
}

/** A piece that was cut off: what to add as a body of its own. */
export interface CutOff {
  /** Its tiles as a grid of their own. */
  readonly shape: Tiles<never>
  /** Where the origin of the shape is in the world. */
  readonly at: Vec2
  /** How it is turned there, in radians. */
  readonly angle: number
  /** Which tiles of the grid it was. */
  readonly tiles: readonly CarvedTile[]
}

/** What was carved. */
export interface Carved {
  /** The tiles that the shape took away, from the top left. */
  readonly tiles: readonly CarvedTile[]
  /** What was cut off by that. */
  readonly pieces: readonly CutOff[]
}

const FIELDS = ['shape', 'at', 'angle', 'tiles', 'cutOff'] as const
const WHICH = ['middle', 'touched', 'covered'] as const
/** Tiles of a piece that is cut off at most. */
const MOST_CUT_OFF = 1e6

/** Takes tiles away. Throws `bad-argument`, `bad-number`, `bad-shape`. Cost: the tiles near the shape, and those of what may be cut off. */
export function carve(ground: Ground, collider: GroundCollider, options: CarveOptions): Carved {
  onlyFields(options, FIELDS, 'the options of carve')
  const at = checkVec(options.at, "'at' of carve")
  const angle = finite(options.angle ?? 0, "'angle' of carve", ANGLE)
  const which = oneOf(options.tiles ?? 'middle', WHICH, "'tiles' of carve")
  const most = Math.floor(notNegative(options.cutOff ?? 0, "'cutOff' of carve", MOST_CUT_OFF))
  refuseNoShape(options.shape, "'shape' of carve")
  const { grid } = ground
  // The shape as the grid sees it.
  const pose = new Float64Array(5)
  const [x, y] = ground.toLocal(collider, at.x, at.y)
  writePose({ x, y }, angle - ground.angleOf(collider), pose)
  const { kind, pieces: carving } = options.shape as Shape2
  if (carving.some(({ block }) => block[0] === PLANE || block[0] === LINE)) {
    throw new KeenError('bad-shape', `'shape' of carve must have an inside, got a ${kind}`)
  }
  const blocks = carving.map(({ block }) => {
    const piece = placed(block, pose)
    // Tiles carve with all their edges.
    piece[0] = CONVEX
    return piece
  })
  const gone: CarvedTile[] = []
  const [left, top, right, bottom] = cellsOf(grid, blocks)
  for (let row = top; row <= bottom; row++) {
    for (let column = left; column <= right; column++) {
      const number = grid.at(column, row)
      if (number === 0 || grid.kinds[number - 1].firm || !isTaken(grid, column, row, number, blocks, which)) continue
      gone.push({ column, row, kind: grid.signOf(number) })
    }
  }
  for (const { column, row } of gone) ground.put(column, row, 0)
  const pieces = most > 0 && gone.length > 0 ? takeCutOff(ground, collider, gone, most) : []
  if (gone.length > 0) ground.settle()
  return { tiles: gone, pieces }
}

/** The cells that may be touched: first and last column, first and last row. */
function cellsOf(grid: Grid, blocks: readonly Float64Array[]): [number, number, number, number] {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const block of blocks) {
    const r = block[HEAD]
    for (let i = HEAD + 1; i < block.length; i += 2) {
      minX = Math.min(minX, block[i] - r)
      minY = Math.min(minY, block[i + 1] - r)
      maxX = Math.max(maxX, block[i] + r)
      maxY = Math.max(maxY, block[i + 1] + r)
    }
  }
  return [
    Math.max(0, grid.columnAt(minX)),
    Math.max(0, grid.rowAt(maxY)),
    Math.min(grid.columns - 1, grid.columnAt(maxX)),
    Math.min(grid.rows - 1, grid.rowAt(minY)),
  ]
}

const gap = new Float64Array(GAP_SIZE)
const point = Float64Array.of(CONVEX, 1, 0, 0, 0)

function isTaken(
  grid: Grid,
  column: number,
  row: number,
  number: number,
  blocks: readonly Float64Array[],
  which: (typeof WHICH)[number],
): boolean {
  const { corners } = grid.kinds[number - 1]
  const { cell } = grid
  const count = corners.length / 2
  const y = grid.rows - 1 - row
  if (which === 'touched') {
    const block = new Float64Array(HEAD + 1 + corners.length)
    block[0] = CONVEX
    block[HEAD + COUNT] = count
    for (let i = 0; i < corners.length; i += 2) {
      block[HEAD + 1 + i] = (column + corners[i]) * cell
      block[HEAD + 2 + i] = (y + corners[i + 1]) * cell
    }
    return blocks.some((each) => {
      gapOfPieces(each, HEAD, block, HEAD, gap)
      // To touch is not to overlap.
      return gap[DISTANCE] < -TOUCHING * cell
    })
  }
  const isWithin = (px: number, py: number): boolean =>
    blocks.some((each) => {
      point[HEAD + 1] = px * cell
      point[HEAD + 2] = py * cell
      gapOfPieces(point, HEAD, each, HEAD, gap)
      return gap[DISTANCE] <= 0
    })
  if (which === 'covered') {
    for (let i = 0; i < corners.length; i += 2) if (!isWithin(column + corners[i], y + corners[i + 1])) return false
    return true
  }
  let [mx, my] = [0, 0]
  for (let i = 0; i < corners.length; i += 2) {
    mx += corners[i] / count
    my += corners[i + 1] / count
  }
  return isWithin(column + mx, y + my)
}

/** Part of a cell by which a shape may reach into a tile without overlapping it. */
const TOUCHING = 1e-9
const SIDEWAYS = [0, 1, 0, -1]
const DOWN = [1, 0, -1, 0]

/** Takes out what was cut off beside tiles that are gone. */
function takeCutOff(ground: Ground, collider: GroundCollider, gone: readonly CarvedTile[], most: number): CutOff[] {
  const { grid } = ground
  const seen = new Set<number>()
  const pieces: CutOff[] = []
  for (const { column, row } of gone) {
    for (let side = 0; side < 4; side++) {
      const [x, y] = [column + SIDEWAYS[side], row + DOWN[side]]
      if (!isSolid(grid, x, y) || seen.has(y * grid.columns + x)) continue
      const loose = looseFrom(grid, x, y, most, seen)
      if (loose !== null) pieces.push(takeOut(ground, collider, loose))
    }
  }
  return pieces
}

function isSolid(grid: Grid, column: number, row: number): boolean {
  return grid.isOf(grid.at(column, row), -1)
}

/** The tiles that hang together with one, or null if they are held or too many. */
function looseFrom(grid: Grid, column: number, row: number, most: number, seen: Set<number>): number[] | null {
  const found = [row * grid.columns + column]
  const own = new Set(found)
  let held = false
  for (let i = 0; i < found.length && !held; i++) {
    const x = found[i] % grid.columns
    const y = Math.floor(found[i] / grid.columns)
    const kind = grid.kinds[grid.cells[found[i]] - 1]
    held = kind.firm || x === 0 || y === 0 || x === grid.columns - 1 || y === grid.rows - 1 || found.length > most
    for (let side = 0; side < 4 && !held; side++) {
      const [nx, ny] = [x + SIDEWAYS[side], y + DOWN[side]]
      const next = ny * grid.columns + nx
      if (!isSolid(grid, nx, ny) || own.has(next)) continue
      const there = grid.kinds[grid.cells[next] - 1].covered
      const facing = 2 * ((side + 2) % 4)
      // They hang together where they share a part of a side.
      const low = Math.max(kind.covered[2 * side], there[facing])
      const high = Math.min(kind.covered[2 * side + 1], there[facing + 1])
      if (!(high > low)) continue
      own.add(next)
      found.push(next)
    }
  }
  for (const each of found) seen.add(each)
  return held || found.length > most ? null : found
}

/** Takes tiles out of the grid, as a piece of its own. */
function takeOut(ground: Ground, collider: GroundCollider, loose: readonly number[]): CutOff {
  const { grid } = ground
  const places = loose.map((at) => ({ column: at % grid.columns, row: Math.floor(at / grid.columns), at }))
  places.sort((a, b) => a.at - b.at)
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (const { column, row } of places) {
    left = Math.min(left, column)
    right = Math.max(right, column)
    top = Math.min(top, row)
    bottom = Math.max(bottom, row)
  }
  const columns = right - left + 1
  const cells = new Uint8Array(columns * (bottom - top + 1))
  const tiles = places.map(({ column, row, at }) => {
    const number = grid.cells[at]
    cells[(row - top) * columns + column - left] = number
    return { column, row, kind: grid.signOf(number) }
  })
  for (const { column, row } of places) ground.put(column, row, 0)
  const shape = ground.pieceOf(new Grid(grid.cell, columns, bottom - top + 1, grid.kinds, grid.groups, cells))
  const at = ground.toWorld(collider, left * grid.cell, grid.floorOf(bottom))
  return { shape, at, angle: ground.angleOf(collider), tiles }
}
