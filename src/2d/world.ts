/** A world of the plane: bodies and colliders, watches, the tick, and queries. */

import { PASS, RESPONSE_NAMES, SOLID } from '../core/filter/filter.ts'
import type { LayerSet, Layers } from '../core/filter/layers.ts'
import { ScratchPool } from '../core/query/scratchPool.ts'
import type { Kinds, KindsOf } from '../core/state/handle.ts'
import { BODY_TYPES, type BodyType, DYNAMIC, STATIC } from '../core/state/population.ts'
import { finite, flag, list, notNegative, oneOf, onlyFields, positive, record } from '../core/util/checks.ts'
import { KeenError } from '../core/util/errors.ts'
import {
  ACCELERATION,
  ANGLE,
  DENSITY,
  FRICTION,
  LEAST_UNIT,
  RESTITUTION,
  SPEED,
  SPIN,
  UNIT,
} from '../core/util/limits.ts'
import { WorldCore } from '../core/world.ts'
import { Body2, checkDynamic, type Overlap2, type Touch2 } from './body.ts'
import { Collider2, checkOneWay } from './collider.ts'
import { Kernel2 } from './kernel.ts'
import { DISTANCE, GAP_SIZE } from './narrow/records.ts'
import { Shapecast } from './query/cast.ts'
import { Nearest, Overlap } from './query/overlap.ts'
import { Raycast } from './query/ray.ts'
import { type Pool2, Scratch } from './query/scratch.ts'
import { writePose } from './shapes/place.ts'
import { refuseNoShape, type Shape2 } from './shapes/shape.ts'
import { DYNAMIC_FIELDS, type Locks, SURFACE_SIZE, type Sweep } from './solve/dynamics.ts'
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
  /** Kilograms a square length, for the mass of a dynamic body. Default 1. */
  density?: number
  /** 0 slides without end. Of a pair, the root of the product. Default 0.6. */
  friction?: number
  /** 0 does not bounce, 1 bounces without loss. Of a pair, the greater. Default 0. */
  restitution?: number
  /** Lengths a second at which it carries what lies on it, to the right of one who stands on it: a conveyor. Default 0. */
  surfaceSpeed?: number
  /** Lets through what comes along this direction (about the body), and holds what comes against it. Default: nothing. */
  oneWay?: Vec2 | null
}

export interface BodySpec2<K extends Kinds> {
  /** `'static'` stands still, `'kinematic'` moves as it is told, `'dynamic'` as forces and contacts have it. */
  type: BodyType
  /** Default: the origin. */
  at?: Vec2
  angle?: number
  /** Unique among the living bodies of the world. */
  name?: string
  colliders?: readonly ColliderSpec2<K>[]
  /** Default true. */
  enabled?: boolean
  /** Metres a second; not for static bodies. */
  velocity?: Vec2
  /** Radians a second; not for static bodies. */
  spin?: number
  /** Kilograms, instead of what the densities give. For dynamic bodies, as all below. */
  mass?: number
  /** Kilograms times length squared about the centre of mass, instead of what the shapes give. */
  inertia?: number
  /** How much of the world's gravity pulls it. Default 1. */
  gravityScale?: number
  /** By how much its motion slows, as a part a second. Default 0. */
  damping?: number
  /** By how much its spin slows, as a part a second. Default 0. */
  spinDamping?: number
  /** What it cannot do: move along x, along y, turn. */
  locks?: Locks
  /** Against what its way is swept when it moves fast: `'statics'` (default; kinematic bodies too), `'all'`, or `'off'`. */
  sweep?: Sweep
  /** Whether it may fall asleep. Default true. */
  sleeps?: boolean
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
  /** Lengths a second squared. Default 9.8 metres downwards. It pulls dynamic bodies only. */
  gravity?: Vec2
  /** Lengths a second at which overlapping bodies are pushed apart at most. Default 3 metres. */
  pushOut?: number
  /** Whether what was pushed apart keeps that speed: a burst. Default false. */
  burst?: boolean
  /** The user's lengths to a metre: 64 for a game that thinks in pixels. Scales every tolerance. Default 1. */
  unit?: number
}

export const BODY_FIELDS = [
  'type',
  'at',
  'angle',
  'name',
  'colliders',
  'enabled',
  'velocity',
  'spin',
  'mass',
  'inertia',
  'gravityScale',
  'damping',
  'spinDamping',
  'locks',
  'sweep',
  'sleeps',
  'data',
] as const
export const COLLIDER_FIELDS = [
  'shape',
  'layer',
  'at',
  'angle',
  'tags',
  'sensor',
  'enabled',
  'solidBits',
  'senseBits',
  'density',
  'friction',
  'restitution',
  'surfaceSpeed',
  'oneWay',
] as const
const DEFAULT_DENSITY = 1
const DEFAULT_FRICTION = 0.6
const DEFAULT_GRAVITY = 9.8
const DEFAULT_PUSH = 3
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
  /** @internal */ readonly kernel: Kernel2
  private readonly gapRecord = new Float64Array(GAP_SIZE)

  /** @internal */
  constructor(options: WorldOptions2<K['layer'], K['tag'], K['data']>) {
    record(options, 'the options of a world')
    onlyFields(
      options,
      ['layers', 'tags', 'data', 'rate', 'unit', 'gravity', 'pushOut', 'burst'],
      'the options of a world',
    )
    const unit = positive(options.unit ?? 1, "'unit' of a world", UNIT, LEAST_UNIT)
    let kernel!: Kernel2
    super(options, unit, (setup) => {
      kernel = new Kernel2(setup, (c) => this.population.colliderHandles[c]!)
      return kernel
    })
    this.kernel = kernel
    this.gravity = options.gravity ?? { x: 0, y: -DEFAULT_GRAVITY * unit }
    this.pushOut = options.pushOut ?? DEFAULT_PUSH * unit
    this.burst = flag(options.burst, false, "'burst' of a world")
    const pool: Pool2<K> = new ScratchPool<K, Body2<K>, Collider2<K>, Scratch<K>, Kernel2>(
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
  add(spec: BodySpec2<K>): Body2<K> {
    this.population.guard('add')
    record(spec, 'a body')
    onlyFields(spec, BODY_FIELDS, 'a body')
    const type = oneOf(spec.type, BODY_TYPES, "'type' of a body")
    const name = this.checkName(spec.name)
    const at = checkVec(spec.at ?? ORIGIN, "'at' of a body")
    const angle = finite(spec.angle ?? 0, "'angle' of a body", ANGLE)
    const enabled = flag(spec.enabled, true, "'enabled' of a body")
    const colliders = list(spec.colliders ?? [], "'colliders' of a body").map((each, index) =>
      this.checkCollider(each as ColliderSpec2<K>, type, `colliders[${index}]`),
    )
    if (type === 'static' && (spec.velocity !== undefined || spec.spin !== undefined)) {
      throw new KeenError('bad-argument', "a static body takes no 'velocity' and no 'spin'; make it kinematic")
    }
    if (spec.velocity !== undefined) checkVec(spec.velocity, "'velocity' of a body", SPEED * this.unit)
    if (spec.spin !== undefined) finite(spec.spin, "'spin' of a body", SPIN)

    for (const field of DYNAMIC_FIELDS) {
      if (type === 'dynamic' || spec[field] === undefined) continue
      throw new KeenError('bad-argument', `'${field}' of a body is for dynamic bodies, and this one is ${type}`)
    }

    checkDynamic(spec)

    const slot = this.population.addBody(BODY_TYPES.indexOf(type), enabled)
    const body = new Body2<K>(this, slot, name, spec.data as K['data'])
    this.register(body)
    this.kernel.addBody(slot, at.x, at.y, angle)
    this.kernel.dynamics.begin(slot)
    if (type === 'dynamic') this.kernel.setDynamic(slot, true)
    for (const each of colliders) this.put(body, each)
    this.setUp(body, spec)
    if (spec.velocity !== undefined) body.velocity = spec.velocity
    if (spec.spin !== undefined) body.spin = spec.spin
    return body
  }

  /** Lengths a second squared, on dynamic bodies. Setting it wakes everything. */
  get gravity(): Vec2 {
    const { gravity } = this.kernel.motion
    return Object.freeze({ x: gravity[0], y: gravity[1] })
  }

  set gravity(value: Vec2) {
    this.population.guard('gravity')
    const { x, y } = checkVec(value, "'gravity' of a world", ACCELERATION * this.unit)
    const { motion } = this.kernel
    motion.gravity[0] = x
    motion.gravity[1] = y
    motion.wakeAll()
  }

  /** Lengths a second at which overlapping bodies are pushed apart at most; Infinity for no bound. */
  get pushOut(): number {
    return this.kernel.motion.solver.push
  }

  set pushOut(value: number) {
    this.population.guard('pushOut')
    if (value !== Infinity) positive(value, "'pushOut' of a world", SPEED * this.unit)
    this.kernel.motion.solver.push = value
  }

  /** Whether what is pushed apart keeps the speed of it. */
  get burst(): boolean {
    return this.kernel.motion.solver.burst
  }

  set burst(value: boolean) {
    this.population.guard('burst')
    this.kernel.motion.solver.burst = flag(value, false, "'burst' of a world")
  }

  private setUp(body: Body2<K>, spec: BodySpec2<K>): void {
    if (spec.mass !== undefined) body.mass = spec.mass
    if (spec.inertia !== undefined) body.inertia = spec.inertia
    if (spec.gravityScale !== undefined) body.gravityScale = spec.gravityScale
    if (spec.damping !== undefined) body.damping = spec.damping
    if (spec.spinDamping !== undefined) body.spinDamping = spec.spinDamping
    if (spec.locks !== undefined) body.locks = spec.locks
    if (spec.sweep !== undefined) body.sweep = spec.sweep
    if (spec.sleeps !== undefined) body.sleeps = spec.sleeps
  }

  /** The collider behind a number that `raycast.batch` wrote; null when it is gone or was -1. */
  colliderAt(id: number): Collider2<K> | null {
    return (typeof id === 'number' ? this.population.colliderHandles[id] : null) ?? null
  }

  /** @internal */
  attach(body: Body2<K>, spec: ColliderSpec2<K>): Collider2<K> {
    return this.put(body, this.checkCollider(spec, body.type, 'a collider'))
  }

  /** @internal */
  reshape(collider: Collider2<K>, shape: Shape2): void {
    checkShape(shape, collider.body.type, String(collider))
    const { slot, at, angle } = collider
    const pose = new Float64Array(5)
    writePose(at, angle, pose)
    this.kernel.broadPhase.reshape(slot, shape.pieces, pose)
    this.population.markReshaped(slot)
    this.kernel.wakeTouching(slot)
  }

  /** @internal */
  teleport(body: number, x: number, y: number, angle: number): void {
    this.kernel.teleport(body, x, y, angle)
    this.population.markTeleported(body)
  }

  /** @internal */
  overlapsOf(body: Body2<K>): Overlap2<K>[] {
    this.population.guardQuery()
    const { kernel, population, gapRecord } = this
    const overlaps: Overlap2<K>[] = []
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
  touchesOf(body: Body2<K>): Touch2<K>[] {
    this.population.guardQuery()
    const { pairs, population, kernel, gapRecord } = this
    const { filter, type } = population
    kernel.refresh()
    const touches: Touch2<K>[] = []
    for (const mine of body.colliders) {
      const c = mine.slot
      const own: Touch2<K>[] = []
      const push = (d: number, normal: Vec2, impulse: number): void => {
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
    const { population, kernel } = this
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const { shape } = population.colliderHandles[c]!
      checkShape(shape, BODY_TYPES[type], String(population.colliderHandles[c]))
      kernel.wakeTouching(c)
    }
    if (population.type.data[body] === DYNAMIC) kernel.setDynamic(body, false)
    if (type === DYNAMIC) kernel.setDynamic(body, true)
    super.retype(body, type)
    if (type === STATIC) kernel.poses.velocity.data.fill(0, 3 * body, 3 * body + 3)
    kernel.poses.hasTarget.data[body] = 0
    kernel.dynamics.weigh(body)
  }

  /** Weighs a body anew after a change of its colliders, and wakes it. @internal */
  reweigh(body: number): void {
    if (this.population.type.data[body] !== DYNAMIC) return
    this.kernel.dynamics.weigh(body)
    this.kernel.motion.wake(body)
  }

  protected buried(body: number): void {
    if (this.population.type.data[body] === DYNAMIC) this.kernel.setDynamic(body, false)
  }

  protected refiltered(c: number): void {
    this.kernel.broadPhase.refilter(c)
    this.reweigh(this.population.filter.body.data[c])
  }

  protected takenOut(c: number): void {
    this.kernel.broadPhase.takeOut(c)
    this.reweigh(this.population.filter.body.data[c])
  }

  protected lastHeld(): number {
    return this.kernel.poses.held
  }

  protected lastTests(): number {
    return this.kernel.distances.tests
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
      angle: finite(spec.angle ?? 0, `'angle' of ${what}`, ANGLE),
      tags: this.tags.set(spec.tags ?? [], `'tags' of ${what}`),
      sensor: flag(spec.sensor, false, `'sensor' of ${what}`),
      enabled: flag(spec.enabled, true, `'enabled' of ${what}`),
      surface: [
        notNegative(spec.density ?? DEFAULT_DENSITY, `'density' of ${what}`, DENSITY),
        notNegative(spec.friction ?? DEFAULT_FRICTION, `'friction' of ${what}`, FRICTION),
        notNegative(spec.restitution ?? 0, `'restitution' of ${what}`, RESTITUTION),
        finite(spec.surfaceSpeed ?? 0, `'surfaceSpeed' of ${what}`, SPEED * this.unit),
      ],
      oneWay: checkOneWay(spec.oneWay, `'oneWay' of ${what}`),
    }
  }

  private put(body: Body2<K>, checked: CheckedCollider<K>): Collider2<K> {
    const { population, kernel } = this
    const { spec, at, angle } = checked
    const slot = population.addCollider(body.slot, this.layers, checked.layer, checked.enabled, checked.sensor)
    population.tagSet.data[slot] = checked.tags
    const collider = new Collider2<K>(this, slot, body, spec.shape, at, angle)
    population.colliderHandles[slot] = collider
    body.setColliders([...body.colliders, collider])
    const pose = new Float64Array(5)
    writePose(at, angle, pose)
    kernel.broadPhase.add(slot, spec.shape.pieces, pose)
    for (let i = 0; i < SURFACE_SIZE; i++) kernel.dynamics.surface.data[SURFACE_SIZE * slot + i] = checked.surface[i]
    kernel.dynamics.setOneWay(slot, checked.oneWay)
    this.reweigh(body.slot)
    if (checked.solid !== null) collider.solidBits = checked.solid >>> 0
    if (checked.sense !== null) collider.senseBits = checked.sense >>> 0
    return collider
  }
}

function checkShape(shape: unknown, type: BodyType, what: string): void {
  refuseNoShape(shape, `'shape' of ${what}`)
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
  surface: readonly number[]
  oneWay: Vec2
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
