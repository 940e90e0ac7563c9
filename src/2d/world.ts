/** A world of the plane: bodies and colliders, watches, the tick, and queries. */
import { finite, oneOf, onlyFields, positive, record } from '../core/checks.ts'
import { KeenError, show } from '../core/errors.ts'
import { RESPONSE_NAMES, SOLID } from '../core/filter.ts'
import type { Kinds } from '../core/handle.ts'
import type { LayerSet, Layers } from '../core/layers.ts'
import { BODY_TYPES, type BodyType } from '../core/population.ts'
import { IntList } from '../core/table.ts'
import { WorldCore } from '../core/world.ts'
import { Body2, type Overlap2, type Touch2 } from './body.ts'
import { Collider2 } from './collider.ts'
import { DISTANCE, GAP_SIZE, POINT_A, POINT_B } from './narrow/words.ts'
import { Shapecast } from './query/cast.ts'
import { Nearest, Overlap } from './query/overlap.ts'
import { Raycast } from './query/ray.ts'
import { Desk } from './query/scratch.ts'
import { PLANE, type Shape2 } from './shapes/shape.ts'
import { Space2 } from './space.ts'
import { checkVec, type MutableVec2, type Vec2 } from './vector.ts'

/** A shape and how it is filtered, to be put on a body. */
export interface ColliderSpec2<K extends Kinds> {
  shape: Shape2
  /** Where it is: a layer, several, or a mask. Fills in whom it treats how, from the pair table. */
  layer: LayerSet<K['layer']>
  /** Place and turn within the body. Default: the body's own origin. */
  at?: Vec2
  angle?: number
  tags?: readonly K['tag'][]
  /** Never presses, only senses. Default false. */
  sensor?: boolean
  /** Default true. */
  enabled?: boolean
  /** What it is solid to, by hand instead of from the pair table. */
  solidBits?: LayerSet<K['layer']>
  /** What it senses, by hand instead of from the pair table. */
  senseBits?: LayerSet<K['layer']>
}

export interface BodySpec2<K extends Kinds> {
  /** `'static'` stands still, `'kinematic'` moves as it is told. */
  type: BodyType
  /** Default: the origin. */
  at?: Vec2
  angle?: number
  /** Unique among the living bodies of the world. */
  name?: string
  colliders?: readonly ColliderSpec2<K>[]
  /** Default true. */
  enabled?: boolean
  /** Metres a second; kinematic only. */
  velocity?: Vec2
  /** Radians a second; kinematic only. */
  spin?: number
  /** Anything of the user's. */
  data?: K['data']
}

export interface WorldOptions2<L extends string, T extends string, D> {
  layers: Layers<L>
  tags?: readonly T[]
  /** The type of `body.data`, given as `ofType<MyData>()`. */
  data?: D
  /** Ticks a second. Default 60. */
  rate?: number
  /** The user's lengths to a metre: 64 for a game that thinks in pixels. Scales every tolerance. Default 1. */
  unit?: number
}

const BODY_FIELDS = ['type', 'at', 'angle', 'name', 'colliders', 'enabled', 'velocity', 'spin', 'data'] as const
const COLLIDER_FIELDS = [
  'shape',
  'layer',
  'at',
  'angle',
  'tags',
  'sensor',
  'enabled',
  'solidBits',
  'senseBits',
] as const
const NO_REACH = Float64Array.of(0)
const ANY_REACH = Float64Array.of(Infinity)
const ORIGIN: Vec2 = Object.freeze({ x: 0, y: 0 })

export class World2<K extends Kinds = Kinds> extends WorldCore<K, Body2<K>, Collider2<K>, MutableVec2> {
  /** What rays meet. */
  readonly raycast: Raycast<K>
  /** What moving shapes meet. */
  readonly shapecast: Shapecast<K>
  /** What standing shapes overlap. */
  readonly overlap: Overlap<K>
  /** What is nearest to a point or a shape. */
  readonly nearest: Nearest<K>
  /** @internal */ readonly space: Space2
  private readonly gapRecord = new Float64Array(GAP_SIZE)
  private readonly found = new IntList()
  private readonly stack = new IntList()

  /** @internal */
  constructor(options: WorldOptions2<K['layer'], K['tag'], K['data']>) {
    record(options, 'the options of a world')
    onlyFields(options, ['layers', 'tags', 'data', 'rate', 'unit'], 'the options of a world')
    const unit = positive(options.unit ?? 1, "'unit' of a world")
    let space!: Space2
    super(options, (population, pairs, wanted) => {
      space = new Space2(population, pairs, wanted, unit)
      return space
    })
    this.space = space
    const desk = new Desk<K>(this, space)
    this.raycast = new Raycast<K>(desk)
    this.shapecast = new Shapecast<K>(desk)
    this.overlap = new Overlap<K>(desk)
    this.nearest = new Nearest<K>(desk)
  }

  /**
   * Adds a body with its colliders. Queries see it at once; what it meets begins with the next step, cause `added`.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, `unknown-layer`, `unknown-tag`, `duplicate-name`
   */
  add(spec: BodySpec2<K>): Body2<K> {
    this.population.guard('add')
    record(spec, 'a body')
    onlyFields(spec, BODY_FIELDS, 'a body')
    const type = oneOf(spec.type, BODY_TYPES, "'type' of a body")
    const name = this.checkName(spec.name)
    const at = checkVec(spec.at ?? ORIGIN, "'at' of a body")
    const angle = finite(spec.angle ?? 0, "'angle' of a body")
    const enabled = flag(spec.enabled, true, "'enabled' of a body")
    const colliders = (spec.colliders ?? []).map((each, index) => this.checkCollider(each, type, `colliders[${index}]`))
    if (type === 'static' && (spec.velocity !== undefined || spec.spin !== undefined)) {
      throw new KeenError('bad-argument', "a static body takes no 'velocity' and no 'spin'; make it kinematic")
    }
    if (spec.velocity !== undefined) checkVec(spec.velocity, "'velocity' of a body")
    if (spec.spin !== undefined) finite(spec.spin, "'spin' of a body")

    const slot = this.population.addBody(BODY_TYPES.indexOf(type), enabled)
    const body = new Body2<K>(this, slot, name, spec.data as K['data'])
    this.register(body)
    this.space.addBody(slot, at.x, at.y, angle)
    for (const each of colliders) this.put(body, each)
    if (spec.velocity !== undefined) body.velocity = spec.velocity
    if (spec.spin !== undefined) body.spin = spec.spin
    return body
  }

  /** The collider behind a number that `raycast.batch` wrote; null when it is gone or was -1. */
  colliderAt(id: number): Collider2<K> | null {
    return this.population.colliderHandles[id] ?? null
  }

  /** @internal */
  attach(body: Body2<K>, spec: ColliderSpec2<K>): Collider2<K> {
    return this.put(body, this.checkCollider(spec, body.type, 'a collider'))
  }

  /** @internal */
  reshape(collider: Collider2<K>, shape: Shape2): void {
    checkShape(shape, collider.body.type, String(collider))
    const { slot, at, angle } = collider
    this.space.reshape(slot, shape, at.x, at.y, angle)
    this.population.markReshaped(slot)
  }

  /** @internal */
  teleport(body: number, x: number, y: number, angle: number): void {
    this.space.teleport(body, x, y, angle)
    this.population.markTeleported(body)
  }

  /** @internal */
  overlapsOf(body: Body2<K>): Overlap2<K>[] {
    this.population.guardQuery()
    const { space, population, found, stack, gapRecord } = this
    const { filter } = population
    const overlaps: Overlap2<K>[] = []
    space.refresh()
    const { first, bounds } = space.geometry
    for (const mine of body.colliders) {
      const c = mine.slot
      const near = new Set<number>()
      for (let piece = first.data[c]; piece >= 0; piece = space.geometry.after(piece)) {
        found.clear()
        for (const tree of space.trees) {
          if (space.geometry.kindOf(piece) === PLANE) tree.all(filter.meet.data[c], found, stack)
          else tree.search(bounds.data, 4 * piece, filter.meet.data[c], found, stack)
        }
        for (let i = 0; i < found.length; i++) near.add(space.geometry.ownerOf(found.data[i]))
      }
      for (let i = 0; i < space.planes.length; i++) near.add(space.geometry.ownerOf(space.planes.data[i]))
      for (const d of [...near].sort((p, q) => population.serial.data[p] - population.serial.data[q])) {
        const response = filter.respond(c, d)
        if (response === 0) continue
        space.gaps.gapOf(c, d, NO_REACH, gapRecord)
        if (gapRecord[DISTANCE] > 0) continue
        const other = population.colliderHandles[d]!
        overlaps.push({ mine, other, body: other.body, response: RESPONSE_NAMES[response] as 'solid' | 'sense' })
      }
    }
    return overlaps
  }

  /** @internal */
  touchesOf(body: Body2<K>): Touch2<K>[] {
    this.population.guardQuery()
    const { pairs, population, space, gapRecord: record } = this
    space.refresh()
    const touches: Touch2<K>[] = []
    for (const mine of body.colliders) {
      const own: Touch2<K>[] = []
      for (let edge = pairs.firstEdge(mine.slot); edge >= 0; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        if (pairs.state.data[pair] !== SOLID) continue
        const isA = (edge & 1) === 0
        const other = population.colliderHandles[(isA ? pairs.b : pairs.a).data[pair]]!
        space.gaps.gapOf(mine.slot, other.slot, ANY_REACH, record)
        const point = { x: (record[POINT_A] + record[POINT_B]) / 2, y: (record[POINT_A + 1] + record[POINT_B + 1]) / 2 }
        own.push({ mine, other, body: other.body, response: 'solid', point, normal: space.normalTowards(pair, isA) })
      }
      touches.push(...own.sort((a, b) => a.other.serial - b.other.serial))
    }
    return touches
  }

  protected wordsOf(c: number): void {
    this.space.wordsOf(c)
  }

  protected takenOut(c: number): void {
    this.space.takenOut(c)
  }

  protected lastTests(): number {
    return this.space.gaps.tests
  }

  private checkCollider(spec: ColliderSpec2<K>, type: BodyType, what: string): CheckedCollider<K> {
    record(spec, what)
    onlyFields(spec, COLLIDER_FIELDS, what)
    checkShape(spec.shape, type, what)
    if (spec.layer === undefined) throw new KeenError('bad-argument', `${what} needs a 'layer'`)
    const word = (set: LayerSet<K['layer']> | undefined, field: string): number | null =>
      set === undefined ? null : this.layers.word(set, `'${field}' of ${what}`)
    return {
      spec,
      layer: this.layers.word(spec.layer, `'layer' of ${what}`),
      solid: word(spec.solidBits, 'solidBits'),
      sense: word(spec.senseBits, 'senseBits'),
      at: checkVec(spec.at ?? ORIGIN, `'at' of ${what}`),
      angle: finite(spec.angle ?? 0, `'angle' of ${what}`),
      tags: this.tags.set(spec.tags ?? []),
      sensor: flag(spec.sensor, false, `'sensor' of ${what}`),
      enabled: flag(spec.enabled, true, `'enabled' of ${what}`),
    }
  }

  private put(body: Body2<K>, checked: CheckedCollider<K>): Collider2<K> {
    const { population, space } = this
    const { spec, at, angle } = checked
    const slot = population.addCollider(body.slot, this.layers, checked.layer, checked.enabled, checked.sensor)
    population.tagSet.data[slot] = checked.tags
    const collider = new Collider2<K>(this, slot, body, spec.shape, at, angle)
    population.colliderHandles[slot] = collider
    body.setColliders([...body.colliders, collider])
    space.addCollider(slot, spec.shape, at.x, at.y, angle)
    if (checked.solid !== null) collider.solidBits = checked.solid >>> 0
    if (checked.sense !== null) collider.senseBits = checked.sense >>> 0
    return collider
  }
}

function checkShape(shape: unknown, type: BodyType, what: string): void {
  if (typeof shape !== 'object' || shape === null || !('pieces' in shape)) {
    throw new KeenError(
      'bad-shape',
      `'shape' of ${what} must be made by circle(), box(), polygon() or another function for shapes, got ${show(shape)}`,
    )
  }
  if ((shape as Shape2).kind === 'halfspace' && type !== 'static') {
    throw new KeenError('bad-shape', `${what} is a halfspace, which belongs on a static body`)
  }
}

interface CheckedCollider<K extends Kinds> {
  spec: ColliderSpec2<K>
  layer: number
  solid: number | null
  sense: number | null
  at: Vec2
  angle: number
  tags: number
  sensor: boolean
  enabled: boolean
}

function flag(value: unknown, otherwise: boolean, what: string): boolean {
  if (value === undefined) return otherwise
  if (typeof value === 'boolean') return value
  throw new KeenError('bad-argument', `${what} must be true or false, got ${show(value)}`)
}

/** The names and data that type a world. */
export interface KindsOf<L extends string, T extends string, D> extends Kinds {
  layer: L
  tag: T
  data: D
}

/** Stands for a type where a value is wanted: `createWorld({ layers, data: ofType<{ oxygen: number }>() })`. */
export function ofType<D>(): D {
  return undefined as D
}

/**
 * A new, empty world.
 * @throws KeenError `bad-argument`, `bad-number`, `duplicate-name`
 * @example const world = createWorld({ layers: defineLayers(['rock', 'craft']), tags: ['player'], rate: 60 })
 */
export function createWorld<const L extends string, const T extends string = never, D = unknown>(
  options: WorldOptions2<L, T, D>,
): World2<KindsOf<L, T, D>> {
  return new World2<KindsOf<L, T, D>>(options)
}
