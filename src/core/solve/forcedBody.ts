/** A body that forces may move: what is known and set of that in either dimension. */
import type { Kinds } from '../state/handle.ts'
import { type BodyHost, PlacedBody } from '../state/placedBody.ts'
import { finite, flag, notNegative, oneOf, positive, refuseAssignment } from '../util/checks.ts'
import { KeenError } from '../util/errors.ts'
import { LEAST_MASS, MASS, DAMPING as MOST_DAMPING, SCALE } from '../util/limits.ts'
import type { Activation } from './activation.ts'
import { DAMPING, type DynamicsCore, GRAVITY_SCALE, SPIN_DAMPING, SWEEPS, type Sweep, TUNING } from './dynamics.ts'

/** What moves bodies by forces, as far as a body needs it. */
interface Forces {
  readonly dynamics: DynamicsCore
  readonly motion: { readonly activation: Activation }
}

interface ForcedHost<F, B, C, V, Spec> extends BodyHost<B, C, V, Spec> {
  /** `forces` is null where nothing is moved by any. */
  readonly kernel: { readonly forces: F | null }
  /** Sums mass and inertia again. */
  weigh(body: number): void
}

export abstract class ForcedBody<
  F extends Forces,
  K extends Kinds,
  B,
  C extends { readonly layerBits: number },
  V extends object,
  Pose,
  MutablePose,
  Spec,
> extends PlacedBody<K, B, C, V, Pose, MutablePose, Spec> {
  /** @internal */ protected abstract override readonly host: ForcedHost<F, B, C, V, Spec>

  /** Kilograms: as given, or the densities times the sizes of its colliders; 0 for what is not dynamic. */
  get mass(): number {
    return this.forces()?.dynamics.mass.data[this.slot] ?? 0
  }

  /** A number of kilograms, or null for what the densities give. */
  set mass(value: number | null) {
    const { givenMass } = this.useDynamic('mass').dynamics
    givenMass.data[this.slot] = value === null ? 0 : checkMass(value)
    this.host.weigh(this.slot)
  }

  /** How much of the world's gravity pulls it. */
  get gravityScale(): number {
    return this.tuning(GRAVITY_SCALE)
  }

  set gravityScale(value: number) {
    this.tune(GRAVITY_SCALE, finite(value, "'gravityScale' of a body", SCALE), 'gravityScale')
  }

  /** The rate at which its motion slows, a second: after t seconds e^(-damping t) of it is left, 0.37 after one at 1. */
  get damping(): number {
    return this.tuning(DAMPING)
  }

  set damping(value: number) {
    this.tune(DAMPING, notNegative(value, "'damping' of a body", MOST_DAMPING), 'damping')
  }

  /** By how much its spin slows, as a part a second. */
  get spinDamping(): number {
    return this.tuning(SPIN_DAMPING)
  }

  set spinDamping(value: number) {
    this.tune(SPIN_DAMPING, notNegative(value, "'spinDamping' of a body", MOST_DAMPING), 'spinDamping')
  }

  /** What it is swept against when it moves fast. */
  get sweep(): Sweep {
    return SWEEPS[this.forces()?.dynamics.sweep.data[this.slot] ?? 0]
  }

  set sweep(value: Sweep) {
    const { dynamics } = this.useDynamic('sweep')
    dynamics.sweep.data[this.slot] = SWEEPS.indexOf(oneOf(value, SWEEPS, "'sweep' of a body"))
  }

  /** Whether it may fall asleep. */
  get sleeps(): boolean {
    return this.forces()?.dynamics.maySleep.data[this.slot] === 1
  }

  set sleeps(value: boolean) {
    const { dynamics } = this.useDynamic('sleeps')
    dynamics.maySleep.data[this.slot] = flag(value ?? null, true, "'sleeps' of a body") ? 1 : 0
    this.wakeUp()
  }

  /**
   * Whether it sleeps: nothing on its island has moved for half a second, and the solver passes over it until something touches it
   * or changes. Its pairs last meanwhile.
   */
  get asleep(): boolean {
    return this.type === 'dynamic' && this.forces()?.motion.activation.islands.isAwake.data[this.slot] === 0
  }

  /** Wakes it, and what fell asleep together with it. */
  wake(): void {
    this.useDynamic('wake')
    this.wakeUp()
  }

  private tuning(field: number): number {
    return this.forces()?.dynamics.tuning.data[TUNING * this.slot + field] ?? 0
  }

  private tune(field: number, value: number, name: string): void {
    this.useDynamic(name).dynamics.tuning.data[TUNING * this.slot + field] = value
    this.wakeUp()
  }

  protected wakeUp(): void {
    this.forces()?.motion.activation.wake(this.slot)
  }

  /** What moves it by forces; null after removal, and in a world without any. */
  protected forces(): F | null {
    return this.alive ? this.host.kernel.forces : null
  }

  protected useDynamic(what: string): F {
    this.change(what)
    const forces = this.forces()
    if (forces !== null && this.type === 'dynamic') return forces
    throw new KeenError(
      'bad-argument',
      `${what}: ${this} is ${this.type}; only a dynamic body has it: set its type first`,
    )
  }

  protected useMover(what: string): void {
    this.change(what)
    if (this.type !== 'static') return
    throw new KeenError(
      'bad-argument',
      `${what}: ${this} is static and does not move; teleport it, or make it kinematic`,
    )
  }
}

function checkMass(value: unknown): number {
  return positive(value, "'mass' of a body", MASS, LEAST_MASS)
}

/** What a dynamic body may be made with, in either dimension. */
export interface ForcedSpec {
  /** Kilograms, instead of what the densities give. For dynamic bodies, as all below. */
  mass?: number | undefined
  /** How much of the world's gravity pulls it. Default 1. */
  gravityScale?: number | undefined
  /** By how much its motion slows, as a part a second. Default 0. */
  damping?: number | undefined
  /** By how much its spin slows, as a part a second. Default 0. */
  spinDamping?: number | undefined
  /** What it is swept against when it moves fast: `'statics'` (default; kinematic bodies too), `'all'`, or `'off'`. */
  sweep?: Sweep | undefined
  /** Whether it may fall asleep. Default true. */
  sleeps?: boolean | undefined
}

/** Checks what a dynamic body is made with, before anything of it is. */
export function checkForced({ mass, gravityScale, damping, spinDamping, sweep, sleeps }: ForcedSpec): void {
  if (mass !== undefined) checkMass(mass)
  if (gravityScale !== undefined) finite(gravityScale, "'gravityScale' of a body", SCALE)
  if (damping !== undefined) notNegative(damping, "'damping' of a body", MOST_DAMPING)
  if (spinDamping !== undefined) notNegative(spinDamping, "'spinDamping' of a body", MOST_DAMPING)
  if (sweep !== undefined) oneOf(sweep, SWEEPS, "'sweep' of a body")
  if (sleeps !== undefined) flag(sleeps, true, "'sleeps' of a body")
}

/** Gives a new body what its specification says of all this. */
export function setForced(body: Required<ForcedSpec>, spec: ForcedSpec): void {
  if (spec.mass !== undefined) body.mass = spec.mass
  if (spec.gravityScale !== undefined) body.gravityScale = spec.gravityScale
  if (spec.damping !== undefined) body.damping = spec.damping
  if (spec.spinDamping !== undefined) body.spinDamping = spec.spinDamping
  if (spec.sweep !== undefined) body.sweep = spec.sweep
  if (spec.sleeps !== undefined) body.sleeps = spec.sleeps
}

refuseAssignment(ForcedBody.prototype, {
  asleep: 'wake() wakes it; what rests falls asleep by itself',
})
