/** A world of kernel: bodies and colliders, the tick, and queries. */

import { PASS, RESPONSE_NAMES, SOLID } from '../core/filter/filter.ts'
import type { LayerSet, Layers } from '../core/filter/layers.ts'
import { ScratchPool } from '../core/query/scratchPool.ts'
import type { Kinds, KindsOf } from '../core/state/handle.ts'
import { BODY_TYPES, type BodyType, DYNAMIC, STATIC } from '../core/state/population.ts'
import { flag, list, oneOf, onlyFields, positive, record } from '../core/util/checks.ts'
import { KeenError } from '../core/util/errors.ts'
import { LEAST_UNIT, SPEED, SPIN, UNIT } from '../core/util/limits.ts'
import { WorldCore } from '../core/world.ts'
import { Body3, type Overlap3, type Touch3 } from './body.ts'
import { Collider3 } from './collider.ts'
import { Kernel3 } from './kernel.ts'
import { DISTANCE, GAP_SIZE } from './narrow/records.ts'
import { KEPT } from './poses.ts'
import { Shapecast } from './query/cast.ts'
import { Nearest, Overlap } from './query/overlap.ts'
import { Raycast } from './query/ray.ts'
import { type Pool3, Scratch } from './query/scratch.ts'
import { refuseNoShape, type Shape3 } from './shapes/shape.ts'
import {
  checkRotation,
  checkVec,
  type MutableVec3,
  ORIGIN,
  POSE_SIZE,
  type Rotation,
  UPRIGHT,
  type Vec3,
  writePose,
} from './vector.ts'

/** A shape and how it is filtered, to be put on a body. */
export interface ColliderSpec3<K extends Kinds> {
  shape: Shape3
  /** Where it is: a layer, several, or a mask. Fills in whom it treats how, from the pair table. */
  layer: LayerSet<K['layer']>
  /** Place and rotation within the body. Default: the body's own origin. */
  at?: Vec3
  rotation?: Rotation
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

export interface BodySpec3<K extends Kinds> {
  /** `'static'` stands still, `'kinematic'` moves as it is told. */
  type: Exclude<BodyType, 'dynamic'>
  /** Default: the origin. */
  at?: Vec3
  rotation?: Rotation
  /** Unique among the living bodies of the world. */
  name?: string
  colliders?: readonly ColliderSpec3<K>[]
  /** Default true. */
  enabled?: boolean
  /** Metres a second; not for static bodies. */
  velocity?: Vec3
  /** The axis, as long as the radians a second; not for static bodies. */
  spin?: Vec3
  /** Anything of the user's. */
  data?: K['data']
}

export interface WorldOptions3<L extends string, T extends string, D> {
  layers: Layers<L>
  tags?: readonly T[]
  /** The type of `body.data`, given as `ofType<MyData>()`. */
  data?: D
  /** Ticks a second. Default 60. */
  rate?: number
  /** The user's lengths to a metre. Scales every tolerance. Default 1. */
  unit?: number
}

export const BODY_FIELDS = [
  'type',
  'at',
  'rotation',
  'name',
  'colliders',
  'enabled',
  'velocity',
  'spin',
  'data',
] as const
export const COLLIDER_FIELDS = [
  'shape',
  'layer',
  'at',
  'rotation',
  'tags',
  'sensor',
  'enabled',
  'solidBits',
  'senseBits',
] as const
const NO_REACH = Float64Array.of(0)
const ANY_REACH = Float64Array.of(Infinity)

export class World3<K extends Kinds = Kinds> extends WorldCore<K, Body3<K>, Collider3<K>, MutableVec3> {
  /** What rays meet. */
  readonly raycast: Raycast<K>
  /** What moving shapes meet. */
  readonly shapecast: Shapecast<K>
  /** What standing shapes overlap. */
  readonly overlap: Overlap<K>
  /** What is nearest to a point or a shape. */
  readonly nearest: Nearest<K>
  /** @internal */ readonly kernel: Kernel3
  private readonly gapRecord = new Float64Array(GAP_SIZE)
  private readonly pose = new Float64Array(KEPT)

  /** @internal */
  constructor(options: WorldOptions3<K['layer'], K['tag'], K['data']>) {
    record(options, 'the options of a world')
    onlyFields(options, ['layers', 'tags', 'data', 'rate', 'unit'], 'the options of a world')
    const unit = positive(options.unit ?? 1, "'unit' of a world", UNIT, LEAST_UNIT)
    let kernel!: Kernel3
    super(options, unit, (setup) => {
      kernel = new Kernel3(setup)
      return kernel
    })
    this.kernel = kernel
    const pool: Pool3<K> = new ScratchPool<K, Body3<K>, Collider3<K>, Scratch<K>, Kernel3>(
      this,
      kernel,
      () => new Scratch<K>(this),
    )
    this.raycast = new Raycast<K>(pool)
    this.shapecast = new Shapecast<K>(pool)
    this.overlap = new Overlap<K>(pool)
    this.nearest = new Nearest<K>(pool)
    Object.seal(this)
  }

  /**
   * Adds a body with its colliders. Queries see it at once; what it meets begins with the next step, cause `added`.
   * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`, `unknown-layer`, `unknown-tag`, `duplicate-name`
   */
  add(spec: BodySpec3<K>): Body3<K> {
    this.population.guard('add')
    record(spec, 'a body')
    onlyFields(spec, BODY_FIELDS, 'a body')
    const type = oneOf(spec.type as BodyType, BODY_TYPES, "'type' of a body")
    refuseDynamic(type)
    const name = this.checkName(spec.name)
    const at = checkVec(spec.at ?? ORIGIN, "'at' of a body")
    const pose = new Float64Array(KEPT)
    pose[0] = at.x
    pose[1] = at.y
    pose[2] = at.z
    checkRotation(spec.rotation ?? UPRIGHT, "'rotation' of a body", pose, 3)
    const enabled = flag(spec.enabled, true, "'enabled' of a body")
    const colliders = list(spec.colliders ?? [], "'colliders' of a body").map((each, index) =>
      this.checkCollider(each as ColliderSpec3<K>, type, `colliders[${index}]`),
    )
    if (type === 'static' && (spec.velocity !== undefined || spec.spin !== undefined)) {
      throw new KeenError('bad-argument', "a static body takes no 'velocity' and no 'spin'; make it kinematic")
    }
    if (spec.velocity !== undefined) checkVec(spec.velocity, "'velocity' of a body", SPEED * this.unit)
    if (spec.spin !== undefined) checkVec(spec.spin, "'spin' of a body", SPIN)

    const slot = this.population.addBody(BODY_TYPES.indexOf(type), enabled)
    const body = new Body3<K>(this, slot, name, spec.data as K['data'])
    this.register(body)
    this.kernel.addBody(slot, pose)
    for (const each of colliders) this.put(body, each)
    if (spec.velocity !== undefined) body.velocity = spec.velocity
    if (spec.spin !== undefined) body.spin = spec.spin
    return body
  }

  /** The collider behind a number that `raycast.batch` wrote; null when it is gone or was -1. */
  colliderAt(id: number): Collider3<K> | null {
    return (typeof id === 'number' ? this.population.colliderHandles[id] : null) ?? null
  }

  /** @internal */
  attach(body: Body3<K>, spec: ColliderSpec3<K>): Collider3<K> {
    return this.put(body, this.checkCollider(spec, body.type, 'a collider'))
  }

  /** @internal */
  reshape(collider: Collider3<K>, shape: Shape3): void {
    checkShape(shape, collider.body.type, String(collider))
    const pose = new Float64Array(POSE_SIZE)
    writePose(collider.at, collider.rotation, 'a collider', pose)
    this.kernel.broadPhase.reshape(collider.slot, shape.pieces, pose)
    this.population.markReshaped(collider.slot)
  }

  /** @internal */
  teleport(body: number, pose: Float64Array): void {
    this.kernel.teleport(body, pose)
    this.population.markTeleported(body)
  }

  /** @internal */
  overlapsOf(body: Body3<K>): Overlap3<K>[] {
    this.population.guardQuery()
    const { kernel, population, gapRecord } = this
    const overlaps: Overlap3<K>[] = []
    kernel.refresh()
    for (const mine of body.colliders) {
      for (const d of kernel.around(mine.slot)) {
        const response = population.filter.respond(mine.slot, d)
        if (response === PASS) continue
        kernel.distances.between(mine.slot, d, NO_REACH, gapRecord)
        if (gapRecord[DISTANCE] > 0) continue
        const other = population.colliderHandles[d]!
        overlaps.push({ mine, other, body: other.body, response: RESPONSE_NAMES[response] as 'solid' | 'sense' })
      }
    }
    return overlaps
  }

  /** @internal */
  touchesOf(body: Body3<K>): Touch3<K>[] {
    this.population.guardQuery()
    const { pairs, population, kernel, gapRecord } = this
    const { filter, type } = population
    kernel.refresh()
    const touches: Touch3<K>[] = []
    for (const mine of body.colliders) {
      const c = mine.slot
      const own: Touch3<K>[] = []
      const push = (d: number, normal: Vec3, impulse: number): void => {
        const other = population.colliderHandles[d]!
        own.push({
          mine,
          other,
          body: other.body,
          response: 'solid',
          point: kernel.middleOf(gapRecord),
          normal,
          impulse,
        })
      }
      for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        if (pairs.state.data[pair] !== SOLID) continue
        const isA = (edge & 1) === 0
        const d = (isA ? pairs.b : pairs.a).data[pair]
        kernel.distances.between(c, d, ANY_REACH, gapRecord)
        push(d, kernel.normalTowards(pair, isA), pairs.impulse.data[pair])
      }
      // A pair that nobody presses apart is on the books only as long as somebody watches it.
      const unpressed = type.data[body.slot] === DYNAMIC ? [] : kernel.around(c)
      for (const d of unpressed) {
        if (filter.respond(c, d) !== SOLID || filter.isPressed(c, d) || kernel.pairOf(c, d) >= 0) continue
        if (kernel.touches(c, d, gapRecord)) push(d, kernel.normalTowardsFirst(gapRecord), 0)
      }
      own.sort((a, b) => a.other.serial - b.other.serial)
      for (const touch of own) touches.push(touch)
    }
    return touches
  }

  /** @internal */
  override retype(body: number, type: number): void {
    if (type === DYNAMIC) refuseDynamic('dynamic')
    const { population, kernel } = this
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const { shape } = population.colliderHandles[c]!
      checkShape(shape, BODY_TYPES[type], String(population.colliderHandles[c]))
    }
    super.retype(body, type)
    if (type === STATIC) {
      kernel.poses.velocity.data.fill(0, 6 * body, 6 * body + 6)
      kernel.poses.rest(body)
    }
    kernel.poses.hasTarget.data[body] = 0
  }

  protected buried(): void {}

  protected refiltered(c: number): void {
    this.kernel.broadPhase.refilter(c)
  }

  protected takenOut(c: number): void {
    this.kernel.broadPhase.takeOut(c)
  }

  protected lastHeld(): number {
    return this.kernel.poses.held
  }

  protected lastTests(): number {
    return this.kernel.distances.tests
  }

  private checkCollider(spec: ColliderSpec3<K>, type: BodyType, what: string): CheckedCollider<K> {
    record(spec, what)
    onlyFields(spec, COLLIDER_FIELDS, what)
    checkShape(spec.shape, type, what)
    if (spec.layer === undefined) throw new KeenError('bad-argument', `${what} needs a 'layer'`)
    const word = (set: LayerSet<K['layer']> | undefined, field: string): number | null =>
      set === undefined ? null : this.layers.word(set, `'${field}' of ${what}`)
    const { pose } = this
    checkRotation(spec.rotation ?? UPRIGHT, `'rotation' of ${what}`, pose, 3)
    return {
      spec,
      layer: this.layers.word(spec.layer, `'layer' of ${what}`),
      solid: word(spec.solidBits, 'solidBits'),
      sense: word(spec.senseBits, 'senseBits'),
      at: checkVec(spec.at ?? ORIGIN, `'at' of ${what}`),
      rotation: { x: pose[3], y: pose[4], z: pose[5], w: pose[6] },
      tags: this.tags.set(spec.tags ?? [], `'tags' of ${what}`),
      sensor: flag(spec.sensor, false, `'sensor' of ${what}`),
      enabled: flag(spec.enabled, true, `'enabled' of ${what}`),
    }
  }

  private put(body: Body3<K>, checked: CheckedCollider<K>): Collider3<K> {
    const { population, kernel } = this
    const { spec, at, rotation } = checked
    const slot = population.addCollider(body.slot, this.layers, checked.layer, checked.enabled, checked.sensor)
    population.tagSet.data[slot] = checked.tags
    const collider = new Collider3<K>(this, slot, body, spec.shape, at, rotation)
    population.colliderHandles[slot] = collider
    body.setColliders([...body.colliders, collider])
    const pose = new Float64Array(POSE_SIZE)
    writePose(at, rotation, 'a collider', pose)
    kernel.broadPhase.add(slot, spec.shape.pieces, pose)
    if (checked.solid !== null) collider.solidBits = checked.solid >>> 0
    if (checked.sense !== null) collider.senseBits = checked.sense >>> 0
    return collider
  }
}

function refuseDynamic(type: BodyType): void {
  if (type !== 'dynamic') return
  throw new KeenError(
    'bad-argument',
    "'type' of a body in space must be 'static' or 'kinematic': no forces move bodies in 3D",
  )
}

function checkShape(shape: unknown, type: BodyType, what: string): void {
  refuseNoShape(shape, `'shape' of ${what}`)
  if ((shape as Shape3).kind === 'halfspace' && type !== 'static') {
    throw new KeenError('bad-shape', `${what} is a halfspace, which belongs on a static body`)
  }
}

interface CheckedCollider<K extends Kinds> {
  spec: ColliderSpec3<K>
  layer: number
  solid: number | null
  sense: number | null
  at: Vec3
  rotation: Rotation
  tags: number
  sensor: boolean
  enabled: boolean
}

/**
 * A new, empty world.
 * @throws KeenError `bad-argument`, `bad-number`, `duplicate-name`
 * @example const world = createWorld({ layers: defineLayers(['rock', 'crawler']), tags: ['player'], rate: 60 })
 */
export function createWorld<const L extends string, const T extends string = never, D = unknown>(
  options: WorldOptions3<L, T, D>,
): World3<KindsOf<L, T, D>> {
  return new World3<KindsOf<L, T, D>>(options)
}
