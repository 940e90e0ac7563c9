/** What a body of 2D needs to be moved by forces: centre, inertia, forces, locks. */

import { DynamicsCore } from '../../core/solve/dynamics.ts'
import { DENSITY, type Surfaces } from '../../core/solve/surfaces.ts'
import type { Population } from '../../core/state/population.ts'
import type { Column } from '../../core/state/table.ts'
import { INERTIA, LEAST_INERTIA, LEAST_MASS, MASS } from '../../core/util/limits.ts'
import { cosSin } from '../../core/util/maths.ts'
import { COUNT, HEAD } from '../shapes/layout.ts'
import type { Shape2 } from '../shapes/shape.ts'
import type { Vec2 } from '../vector.ts'

/** Bits of {@link Dynamics.locks}. */
export const LOCK_X = 1
export const LOCK_Y = 2
export const LOCK_TURN = 4

/** What a body cannot do. */
export interface Locks {
  /** Does not move along x. Default false. */
  readonly x?: boolean | undefined
  /** Does not move along y. Default false. */
  readonly y?: boolean | undefined
  /** Does not turn. Default false. */
  readonly turn?: boolean | undefined
}

/** A shape within its body. */
export interface PlacedShape {
  readonly shape: Shape2
  readonly at: Vec2
  readonly angle: number
}

export class Dynamics extends DynamicsCore {
  /** Inertia about the centre (kg times length squared); of what is not dynamic, 0. */
  readonly inertia: Column<Float64Array>
  /** The inverses of mass and inertia: along x, along y, of the turn. 0 where locked. */
  override readonly inverse: Column<Float64Array>
  /** Centre of mass about the body's origin. */
  readonly centre: Column<Float64Array>
  /** Force x, y and torque until the next step has used them. */
  readonly force: Column<Float64Array>
  /** Inertia given by hand; 0 for that of the shapes. */
  readonly givenInertia: Column<Float64Array>
  private readonly shapeOf: (c: number) => PlacedShape

  constructor(population: Population<object, object>, surfaces: Surfaces, shapeOf: (c: number) => PlacedShape) {
    super(population, surfaces)
    const { bodies } = population
    this.shapeOf = shapeOf
    this.inertia = bodies.f64()
    this.inverse = bodies.f64(3)
    this.centre = bodies.f64(2)
    this.force = bodies.f64(3)
    this.givenInertia = bodies.f64()
  }

  override weigh(body: number): void {
    const { population, mass, inverse, centre, locks } = this
    const { of: surface, size } = this.surfaces
    let sum = 0
    let x = 0
    let y = 0
    let second = 0
    let slender = Infinity
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const placed = this.shapeOf(c)
      const { shape } = placed
      for (const piece of shape.pieces) slender = Math.min(slender, halfWidth(piece.block))
      const m = population.isSensor(c) ? 0 : shape.area * surface.data[size * c + DENSITY]
      if (!(m > 0) || m === Infinity) continue
      turn[0] = placed.angle
      cosSin(turn, 0)
      const cx = placed.at.x + turn[1] * shape.centroid.x - turn[2] * shape.centroid.y
      const cy = placed.at.y + turn[2] * shape.centroid.x + turn[1] * shape.centroid.y
      sum += m
      x += m * cx
      y += m * cy
      second += (m / shape.area) * shape.inertia + m * (cx * cx + cy * cy)
    }
    const dynamic = this.isDynamic(body)
    const cx = sum > 0 ? x / sum : 0
    const cy = sum > 0 ? y / sum : 0
    const about = sum > 0 ? Math.max(second - sum * (cx * cx + cy * cy), 0) : 0
    const own = this.givenMass.data[body]
    const m = own > 0 ? own : sum > 0 ? Math.min(Math.max(sum, LEAST_MASS), MASS) : 1
    const shaped = sum > 0 ? (about * m) / sum : slender < Infinity ? m * slender * slender : m
    const given = this.givenInertia.data[body]
    const inertia = given > 0 ? given : Math.min(Math.max(shaped, LEAST_INERTIA), INERTIA)
    centre.data[2 * body] = dynamic ? cx : 0
    centre.data[2 * body + 1] = dynamic ? cy : 0
    mass.data[body] = dynamic ? m : 0
    this.inertia.data[body] = dynamic ? inertia : 0
    const locked = locks.data[body]
    inverse.data[3 * body] = dynamic && (locked & LOCK_X) === 0 ? 1 / m : 0
    inverse.data[3 * body + 1] = dynamic && (locked & LOCK_Y) === 0 ? 1 / m : 0
    inverse.data[3 * body + 2] = dynamic && (locked & LOCK_TURN) === 0 && inertia > 0 ? 1 / inertia : 0
    this.halfWidth.data[body] = slender === Infinity ? 0 : slender
  }
}

/** Angle, cos, sin. */
const turn = new Float64Array(3)

/** Half the least width of a convex piece. */
export function halfWidth(block: Float64Array): number {
  const n = block[HEAD + COUNT]
  const points = block.subarray(HEAD + 1)
  let least = n < 3 ? 0 : Infinity
  for (let i = 0; i < n && n >= 3; i++) {
    const j = (i + 1) % n
    const ex = points[2 * j] - points[2 * i]
    const ey = points[2 * j + 1] - points[2 * i + 1]
    const length = Math.sqrt(ex * ex + ey * ey)
    let most = 0
    for (let k = 0; k < n; k++) {
      const height = (ex * (points[2 * k + 1] - points[2 * i + 1]) - ey * (points[2 * k] - points[2 * i])) / length
      if (height > most) most = height
    }
    if (most < least) least = most
  }
  return block[HEAD] + least / 2
}
