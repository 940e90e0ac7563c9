/** A world in which forces may move bodies: what is known and set of that in either dimension. */
import { type AnyShape, type BodySpec, type ColliderSpec, WorldOfBodies } from '../bodies.ts'
import type { AnyJointEnd } from '../joints/joint.ts'
import type { QueryFilter } from '../query/compiledFilter.ts'
import type { Vectors } from '../query/lines.ts'
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { type BodyType, DYNAMIC, STATIC } from '../state/population.ts'
import type { Kernel } from '../step/kernel.ts'
import type { BodyCaster } from '../travel/caster.ts'
import { Pusher } from '../travel/pusher.ts'
import { type RiderSpace, Riders } from '../travel/riders.ts'
import { Traveller, type TravellerSetup } from '../travel/traveller.ts'
import { flag, positive } from '../util/checks.ts'
import { KeenError } from '../util/errors.ts'
import { SPEED } from '../util/limits.ts'
import type { Activation } from './activation.ts'
import { DYNAMIC_FIELDS, type DynamicsCore } from './dynamics.ts'

/** What a dimension's forces are made of, as far as a world needs it. */
interface Forces {
  readonly dynamics: DynamicsCore
  readonly motion: {
    readonly activation: Activation
    readonly gravity: Float64Array
    isRide: (a: number, b: number) => boolean
    isHeldBy: (traveller: number, other: number) => boolean
    readonly contactRows: { push: number }
    readonly solver: { burst: boolean }
  }
  readonly joints: {
    bodyRemoved(body: number): void
    wakeJoined(body: number): void
  }
  setDynamic(body: number, dynamic: boolean): void
}

/** What a dimension brings to `travel`. */
export interface TravelParts<K extends Kinds, B, C, V> {
  readonly vectors: Vectors<V>
  readonly pool: TravellerSetup<C, V, QueryFilter<K, B, C>>['pool']
  readonly newCaster: () => BodyCaster
  readonly space: RiderSpace
  /** Velocities of bodies, and how many numbers each has. */
  readonly velocity: { readonly data: Float64Array }
  readonly velocitySize: number
}

/** The options of a world that only forces need. */
export const FORCED_OPTIONS = ['gravity', 'pushOut', 'burst'] as const
const DEFAULT_GRAVITY = 9.8
const DEFAULT_PUSH = 3

export abstract class ForcedWorld<
  K extends Kinds,
  B extends BodyHandle<K, C>,
  C extends ColliderHandle<K, B> & { readonly shape: Shape },
  V extends object,
  Shape extends AnyShape,
  Spec extends ColliderSpec<K, Shape, unknown>,
  Body extends BodySpec<K, Spec, unknown> & { readonly spin?: unknown },
  Place extends { readonly pose: Float64Array },
  Surface,
  G extends object,
  F extends Forces,
  E extends AnyJointEnd,
> extends WorldOfBodies<K, B, C, V, Shape, Spec, Body, Place, Surface, E> {
  /** @internal */ abstract override readonly kernel: Kernel<V> & { readonly forces: F | null }

  /** What a new world is told of forces, or what it does by default. */
  protected setOptions(options: {
    gravity?: G | undefined
    pushOut?: number | undefined
    burst?: boolean | undefined
  }): void {
    const { gravity, pushOut, burst } = options
    const { forces } = this.kernel
    if (gravity !== undefined) this.gravity = gravity
    else if (forces !== null) forces.motion.gravity[1] = -DEFAULT_GRAVITY * this.unit
    if (forces !== null || pushOut !== undefined) this.pushOut = pushOut ?? DEFAULT_PUSH * this.unit
    if (forces !== null || burst !== undefined) this.burst = flag(burst, false, "'burst' of a world")
  }

  /** Lengths a second squared, on dynamic bodies; zero in a world without forces. Setting it wakes everything. */
  get gravity(): G {
    return this.readGravity(this.kernel.forces?.motion.gravity ?? NO_GRAVITY)
  }

  set gravity(value: G) {
    this.population.guard('gravity')
    this.checkGravity(value, "'gravity' of a world")
    const { motion } = this.forces("'gravity'")
    this.writeGravity(value, motion.gravity)
    motion.activation.wakeAll()
  }

  /** Lengths a second at which overlapping bodies are pushed apart at most; Infinity for no bound. */
  get pushOut(): number {
    return this.kernel.forces?.motion.contactRows.push ?? Infinity
  }

  set pushOut(value: number) {
    this.population.guard('pushOut')
    if (value !== Infinity) positive(value, "'pushOut' of a world", SPEED * this.unit)
    this.forces("'pushOut'").motion.contactRows.push = value
  }

  /** Whether what is pushed apart keeps the speed of it. */
  get burst(): boolean {
    return this.kernel.forces?.motion.solver.burst ?? false
  }

  set burst(value: boolean) {
    this.population.guard('burst')
    this.forces("'burst'").motion.solver.burst = flag(value, false, "'burst' of a world")
  }

  /** What forces do; throws in a world without any. */
  protected forces(what: string): F {
    const { forces, dimension } = this.kernel
    if (forces !== null) return forces
    throw new KeenError(
      'bad-argument',
      `${what}: this world has no forces; import createWorld from 'keen-sentry/${dimension}d' instead of 'keen-sentry/${dimension}d/kinematic'`,
    )
  }

  /** Weighs a body again after a change of its colliders, and wakes it. @internal */
  override weigh(body: number): void {
    if (this.population.type.data[body] !== DYNAMIC) return
    const { dynamics, motion } = this.forces('weigh')
    dynamics.weigh(body)
    motion.activation.wake(body)
  }

  protected override checkType(type: BodyType): void {
    if (type === 'dynamic') this.forces('a dynamic body')
  }

  /** Throws for what a body of this type cannot be made with. */
  protected checkForcedFields(spec: object, type: BodyType): void {
    for (const field of DYNAMIC_FIELDS) {
      if (type === 'dynamic' || (spec as Record<string, unknown>)[field] === undefined) continue
      throw new KeenError('bad-argument', `'${field}' of a body is for dynamic bodies, and this one is ${type}`)
    }
  }

  /** Writes the numbers of a collider's surface. */
  protected writeNumbers(collider: number, numbers: readonly number[]): void {
    const { size, of } = this.kernel.surfaces
    for (let i = 0; i < size; i++) of.data[size * collider + i] = numbers[i]
  }

  protected override begin(body: number, pose: Float64Array, type: BodyType): void {
    const { forces } = this.kernel
    this.kernel.addBody(body, pose)
    forces?.dynamics.begin(body)
    if (type === 'dynamic') forces?.setDynamic(body, true)
  }

  protected override changeType(body: number, type: number): void {
    const { forces } = this.kernel
    if (this.population.type.data[body] === DYNAMIC) forces?.setDynamic(body, false)
    if (type === DYNAMIC) forces?.setDynamic(body, true)
  }

  protected override typeChanged(body: number): void {
    const { poses, ways, riders } = this.kernel
    poses.hasTarget.data[body] = 0
    if (this.population.type.data[body] === STATIC) poses.isLed.data[body] = 0
    else poses.takeDone(body)
    ways.drop(body)
    riders?.forget(body)
    this.kernel.forces?.dynamics.weigh(body)
  }

  /** @internal */
  override teleport(body: number, pose: Float64Array): void {
    super.teleport(body, pose)
    this.kernel.forces?.joints.wakeJoined(body)
  }

  protected override buried(body: number): void {
    super.buried(body)
    this.kernel.forces?.joints.bodyRemoved(body)
    if (this.population.type.data[body] === DYNAMIC) this.kernel.forces?.setDynamic(body, false)
  }

  protected override makeTraveller(): Traveller<K, B, C, V> {
    const { kernel, population } = this
    const { vectors, pool, newCaster, space, velocity, velocitySize } = this.travelParts()
    const riders = new Riders(space)
    kernel.riders = riders
    const { forces } = kernel
    if (forces !== null) {
      forces.motion.isRide = (a, b) => riders.isRide(a, b)
      forces.motion.isHeldBy = (traveller, other) => kernel.ways.holds(traveller, other)
    }
    return new Traveller<K, B, C, V>({
      kernel,
      vectors,
      pool,
      caster: newCaster(),
      riders,
      pusher: forces === null ? null : this.makePusher(forces, newCaster(), velocity, velocitySize),
      unit: this.unit,
      hooks: (kept) => this.lastWord(kept),
      colliderOf: (slot) => population.handles.of(slot),
    })
  }

  private makePusher(
    { dynamics, motion }: F,
    caster: BodyCaster,
    velocity: { readonly data: Float64Array },
    velocitySize: number,
  ): Pusher {
    return new Pusher({
      population: this.population,
      caster,
      inverse: dynamics.inverse,
      velocity,
      velocitySize,
      gravity: motion.gravity,
      tuning: dynamics.tuning,
      dt: this.dt,
      wake: (body) => motion.activation.wake(body),
    })
  }

  // What a dimension brings.

  /** What travel needs of it. */
  protected abstract travelParts(): TravelParts<K, B, C, V>
  protected abstract checkGravity(value: unknown, what: string): void
  protected abstract readGravity(gravity: Float64Array): G
  protected abstract writeGravity(value: G, out: Float64Array): void
}

const NO_GRAVITY = Float64Array.of(0, 0, 0)
