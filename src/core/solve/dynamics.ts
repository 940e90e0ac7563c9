/** What a body of either dimension needs to be moved by forces: mass, damping, whether it sleeps and is swept. */
import { DYNAMIC, type Population } from '../state/population.ts'
import type { Column } from '../state/table.ts'
import type { Surfaces } from './surfaces.ts'

/** How a body's way is swept: not at all, against what is not dynamic, against everything. */
export const SWEEPS = ['off', 'statics', 'all'] as const
/** Places in that list. */
export const OFF = 0
export const ALL = 2
/** Against what a fast body is swept. */
export type Sweep = (typeof SWEEPS)[number]

/** What only dynamic bodies have, by the names of the fields that a body is made from. */
export const DYNAMIC_FIELDS = [
  'mass',
  'inertia',
  'gravityScale',
  'damping',
  'spinDamping',
  'locks',
  'sweep',
  'sleeps',
] as const

/** Places in {@link DynamicsCore.tuning}. */
export const GRAVITY_SCALE = 0
export const DAMPING = 1
export const SPIN_DAMPING = 2
export const TUNING = 3

export abstract class DynamicsCore {
  /** Kilograms; of what is not dynamic, 0. */
  readonly mass: Column<Float64Array>
  /** Kilograms given by hand; 0 for those of the shapes. */
  readonly givenMass: Column<Float64Array>
  /** Scale of gravity, damping of motion, damping of spin (both a second). */
  readonly tuning: Column<Float64Array>
  /** What it cannot do, as bits; a dimension says which. */
  readonly locks: Column<Int32Array>
  readonly sweep: Column<Int32Array>
  /** 1 for bodies that may fall asleep. */
  readonly maySleep: Column<Int32Array>
  /** One over the mass along each axis, 0 where it is locked: three numbers. */
  abstract readonly inverse: Column<Float64Array>
  /** Half the least width of a body's shapes: what moves further than a part of that in a tick is swept. */
  readonly halfWidth: Column<Float64Array>
  protected readonly population: Population<object, object>
  protected readonly surfaces: Surfaces

  constructor(population: Population<object, object>, surfaces: Surfaces) {
    const { bodies } = population
    this.population = population
    this.surfaces = surfaces
    this.mass = bodies.f64()
    this.givenMass = bodies.f64()
    this.tuning = bodies.f64(TUNING)
    this.locks = bodies.i32()
    this.sweep = bodies.i32()
    this.maySleep = bodies.i32()
    this.halfWidth = bodies.f64()
  }

  /** A new body: all as it is by default. */
  begin(body: number): void {
    this.tuning.data[TUNING * body + GRAVITY_SCALE] = 1
    this.sweep.data[body] = SWEEPS.indexOf('statics')
    this.maySleep.data[body] = 1
    this.weigh(body)
  }

  /**
   * Sums mass, centre and inertia of a body from the size and density of its colliders that are no sensors, or takes what was given.
   * A dynamic body whose shapes weigh nothing weighs 1 kg, at its origin.
   */
  abstract weigh(body: number): void

  /** For explanations: what moves a dynamic body, in a few words. Cold. @param locked names of what it cannot do */
  describe(body: number, noGravity: boolean, locked: readonly string[], asleep: boolean): string {
    const scale = this.tuning.data[TUNING * body + GRAVITY_SCALE]
    const words = [`weighs ${Number(this.mass.data[body].toPrecision(3))} kg`]
    if (noGravity) words.push('no gravity')
    else if (scale === 0) words.push('its gravity is scaled to 0')
    else if (scale !== 1) words.push(`gravity scaled by ${scale}`)
    if (locked.length > 0) words.push(`locked in ${locked.join(', ')}`)
    if (asleep) words.push('asleep')
    return words.join(', ')
  }

  protected isDynamic(body: number): boolean {
    return this.population.type.data[body] === DYNAMIC
  }
}
