/** What the surfaces of colliders are like, and what a pair makes of two of them: where friction and restitution are mixed. */
import type { Column, Table } from '../state/table.ts'
import type { Pairs } from '../step/pairs.ts'

/** A surface: kilograms a square length (3D: cubic), friction, restitution, the speed at which it carries what lies on it (3D: a velocity). */
export const DENSITY = 0
export const FRICTION = 1
export const RESTITUTION = 2
export const SURFACE_SPEED = 3

/** Places in what a pair makes of two surfaces; of 3D the velocity is a vector, about the world. */
export const PAIR_FRICTION = 0
export const PAIR_RESTITUTION = 1
export const PAIR_SPEED = 2
export const PAIR_SURFACE = 5

export abstract class Surfaces {
  /** Surface of each collider. */
  readonly of: Column<Float64Array>
  /** Numbers of a surface. */
  readonly size: number
  protected readonly pairs: Pairs
  /** What a hook has set for a pair; and whether one has. */
  private readonly given: Column<Float64Array>
  private readonly isGiven: Column<Int32Array>

  /** @param speeds numbers that say how it carries: 1 along it (2D), 3 about the body (3D) */
  constructor(colliders: Table, pairs: Pairs, speeds: number) {
    this.size = SURFACE_SPEED + speeds
    this.of = colliders.f64(this.size)
    this.pairs = pairs
    this.given = pairs.table.f64(PAIR_SURFACE)
    this.isGiven = pairs.table.i32()
  }

  /** Writes friction, restitution and surface speed of a pair: as a hook has set them, else mixed of the two. */
  read(pair: number, out: Float64Array): void {
    const { given, isGiven, pairs, size } = this
    if (isGiven.data[pair] !== 0) {
      for (let i = 0; i < PAIR_SURFACE; i++) out[i] = given.data[PAIR_SURFACE * pair + i]
      return
    }
    const { data } = this.of
    const a = size * pairs.a.data[pair]
    const b = size * pairs.b.data[pair]
    out[PAIR_FRICTION] = Math.sqrt(data[a + FRICTION] * data[b + FRICTION])
    out[PAIR_RESTITUTION] = Math.max(data[a + RESTITUTION], data[b + RESTITUTION])
    this.mixSpeeds(pair, out)
  }

  /** Writes how fast the two surfaces carry what lies between them, to `out[PAIR_SPEED]`. */
  protected abstract mixSpeeds(pair: number, out: Float64Array): void

  /** A hook sets them, until the two part. */
  write(pair: number, from: Float64Array): void {
    this.isGiven.data[pair] = 1
    for (let i = 0; i < PAIR_SURFACE; i++) this.given.data[PAIR_SURFACE * pair + i] = from[i]
  }

  /** The two have parted: what a hook has set is over. */
  reset(pair: number): void {
    this.isGiven.data[pair] = 0
  }
}
