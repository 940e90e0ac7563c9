/** What a body of 3D needs to be moved by forces: centre, inertia, forces, locks. */
import { DynamicsCore } from '../../core/solve/dynamics.ts'
import { DENSITY, type Surfaces } from '../../core/solve/surfaces.ts'
import type { Population } from '../../core/state/population.ts'
import type { Column } from '../../core/state/table.ts'
import { INERTIA, LEAST_INERTIA, LEAST_MASS, MASS } from '../../core/util/limits.ts'
import { BODY, BOX, CONE, CYLINDER, FACE_COUNT, KIND, POINT_COUNT, POINTS, RADIUS } from '../shapes/layout.ts'
import type { Inertia, Shape3 } from '../shapes/shape.ts'
import { FRAME, POSE_SIZE, type Rotation, type Vec3, writePose } from '../vector.ts'

/** Bits of {@link Dynamics3.locks}: x, y, z, then the turns about them. */
export const LOCK_X = 1
export const LOCK_TURN_X = 8
export const LOCK_NAMES = ['x', 'y', 'z', 'turn x', 'turn y', 'turn z'] as const

/** About which axes of the world a body does not turn. */
export interface TurnLocks {
  /** About the axis of x. Default false. */
  readonly x?: boolean | undefined
  /** About the axis of y. Default false. */
  readonly y?: boolean | undefined
  /** About the axis of z. Default false. */
  readonly z?: boolean | undefined
}

/** What a body cannot do. */
export interface Locks {
  /** Does not move along x. Default false. */
  readonly x?: boolean | undefined
  /** Does not move along y. Default false. */
  readonly y?: boolean | undefined
  /** Does not move along z. Default false. */
  readonly z?: boolean | undefined
  /** Does not turn: at all, or about some of the world's axes. Default false. */
  readonly turn?: boolean | TurnLocks | undefined
}

/** A shape within its body. */
interface PlacedShape {
  readonly shape: Shape3
  readonly at: Vec3
  readonly rotation: Rotation
}

/** Numbers of a symmetric tensor: xx, yy, zz, xy, xz, yz. */
export const TENSOR = 6

export class Dynamics3 extends DynamicsCore {
  /** Inertia tensor about the centre of mass and the body's axes. */
  readonly inertia: Column<Float64Array>
  /** Its inverse moments about the principal axes, and these as the columns of a matrix, about the body's axes. */
  readonly inverseMoments: Column<Float64Array>
  readonly principal: Column<Float64Array>
  /** The inverse of the mass along x, y, z; 0 where locked. */
  override readonly inverse: Column<Float64Array>
  /** Centre of mass about the body's origin. */
  readonly centre: Column<Float64Array>
  /** Force and torque until the next step has used them. */
  readonly force: Column<Float64Array>
  /** Inertia given by hand; all 0 for that of the shapes. */
  readonly givenInertia: Column<Float64Array>
  private readonly sum = new Float64Array(TENSOR)
  private readonly matrix = new Float64Array(9)
  private readonly pose = new Float64Array(POSE_SIZE)

  constructor(population: Population<object, object>, surfaces: Surfaces) {
    super(population, surfaces)
    const { bodies } = population
    this.inertia = bodies.f64(TENSOR)
    this.inverseMoments = bodies.f64(3)
    this.principal = bodies.f64(9)
    this.inverse = bodies.f64(3)
    this.centre = bodies.f64(3)
    this.force = bodies.f64(6)
    this.givenInertia = bodies.f64(TENSOR)
  }

  override weigh(body: number): void {
    const { population, surfaces, mass, inverse, centre, locks, sum, matrix } = this
    const { size, of: surface } = surfaces
    sum.fill(0)
    let total = 0
    let x = 0
    let y = 0
    let z = 0
    let slender = Infinity
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const placed = population.handles.of(c) as unknown as PlacedShape
      const { shape } = placed
      for (const piece of shape.pieces) slender = Math.min(slender, halfWidth(piece.block))
      const density = population.isSensor(c) ? 0 : surface.data[size * c + DENSITY]
      const m = shape.volume * density
      if (!(m > 0) || m === Infinity) continue
      this.addPlaced(placed, density, m)
      const { pose } = this
      total += m
      x += m * pose[0]
      y += m * pose[1]
      z += m * pose[2]
    }
    const dynamic = this.isDynamic(body)
    const cx = total > 0 ? x / total : 0
    const cy = total > 0 ? y / total : 0
    const cz = total > 0 ? z / total : 0
    const own = this.givenMass.data[body]
    const m = own > 0 ? own : total > 0 ? Math.min(Math.max(total, LEAST_MASS), MASS) : 1
    this.aboutCentre(cx, cy, cz, total, m, slender < Infinity ? slender : 1)
    const given = this.givenInertia.data.subarray(TENSOR * body, TENSOR * (body + 1))
    if (given[0] > 0) sum.set(given)
    const at = 3 * body
    centre.data[at] = dynamic ? cx : 0
    centre.data[at + 1] = dynamic ? cy : 0
    centre.data[at + 2] = dynamic ? cz : 0
    mass.data[body] = dynamic ? m : 0
    for (let i = 0; i < TENSOR; i++) this.inertia.data[TENSOR * body + i] = dynamic ? sum[i] : 0
    findPrincipal(sum, matrix)
    for (let i = 0; i < 9; i++) this.principal.data[9 * body + i] = matrix[i]
    const locked = locks.data[body]
    for (let k = 0; k < 3; k++) {
      inverse.data[at + k] = dynamic && (locked & (LOCK_X << k)) === 0 ? 1 / m : 0
      const moment = Math.min(Math.max(sum[k], LEAST_INERTIA), INERTIA)
      this.inverseMoments.data[at + k] = dynamic ? 1 / moment : 0
    }
    this.halfWidth.data[body] = slender === Infinity ? 0 : slender
  }

  /** Adds the second moments about the body's origin of a shape in its place; leaves where its centre is in `pose`. */
  private addPlaced({ shape, at, rotation }: PlacedShape, density: number, m: number): void {
    const { sum, pose } = this
    const { centroid, inertia } = shape
    writePose(at, rotation, 'a collider', pose)
    const row = (i: number, px: number, py: number, pz: number): number =>
      pose[FRAME + 3 * i] * px + pose[FRAME + 3 * i + 1] * py + pose[FRAME + 3 * i + 2] * pz
    const turned = (i: number, k: number): number =>
      row(
        i,
        row(k, inertia.xx, inertia.xy, inertia.xz),
        row(k, inertia.xy, inertia.yy, inertia.yz),
        row(k, inertia.xz, inertia.yz, inertia.zz),
      )
    const x = pose[0] + row(0, centroid.x, centroid.y, centroid.z)
    const y = pose[1] + row(1, centroid.x, centroid.y, centroid.z)
    const z = pose[2] + row(2, centroid.x, centroid.y, centroid.z)
    sum[0] += density * turned(0, 0) + m * (y * y + z * z)
    sum[1] += density * turned(1, 1) + m * (x * x + z * z)
    sum[2] += density * turned(2, 2) + m * (x * x + y * y)
    sum[3] += density * turned(0, 1) - m * x * y
    sum[4] += density * turned(0, 2) - m * x * z
    sum[5] += density * turned(1, 2) - m * y * z
    pose[0] = x
    pose[1] = y
    pose[2] = z
  }

  /** Moves the sum from the origin to the centre (by the rule of parallel axes), and scales it from what the shapes weigh to a mass. */
  private aboutCentre(x: number, y: number, z: number, total: number, m: number, slender: number): void {
    const { sum } = this
    if (!(total > 0)) {
      sum.fill(0)
      for (let k = 0; k < 3; k++) sum[k] = m * slender * slender
      return
    }
    sum[0] -= total * (y * y + z * z)
    sum[1] -= total * (x * x + z * z)
    sum[2] -= total * (x * x + y * y)
    sum[3] += total * x * y
    sum[4] += total * x * z
    sum[5] += total * y * z
    for (let i = 0; i < TENSOR; i++) sum[i] *= m / total
  }
}

/** Part of the moments below which a product is rounding. */
const NO_PRODUCT = 1e-14
/** Rounds of rotations: each makes the products much smaller. */
const ROUNDS = 12

/**
 * Turns a tensor into its moments about its principal axes, and writes these as the columns of a matrix: rotations that take away one
 * product after the other (Jacobi, 1846). A tensor without products keeps the axes as they are.
 */
function findPrincipal(tensor: Float64Array, axes: Float64Array): void {
  axes.fill(0)
  axes[0] = axes[4] = axes[8] = 1
  const least = NO_PRODUCT * (tensor[0] + tensor[1] + tensor[2])
  for (let round = 0; round < ROUNDS; round++) {
    if (Math.abs(tensor[3]) + Math.abs(tensor[4]) + Math.abs(tensor[5]) <= least) break
    for (let pair = 0; pair < 3; pair++) {
      const i = pair === 2 ? 1 : 0
      const k = pair === 0 ? 1 : 2
      const product = tensor[3 + pair]
      if (product === 0) continue
      const half = (tensor[k] - tensor[i]) / (2 * product)
      const t = (half < 0 ? -1 : 1) / (Math.abs(half) + Math.sqrt(half * half + 1))
      const c = 1 / Math.sqrt(t * t + 1)
      const s = t * c
      tensor[i] -= t * product
      tensor[k] += t * product
      tensor[3 + pair] = 0
      // The two products with the third axis.
      const other = 3 - i - k
      const withI = 3 + pairOf(i, other)
      const withK = 3 + pairOf(k, other)
      const p = tensor[withI]
      const q = tensor[withK]
      tensor[withI] = c * p - s * q
      tensor[withK] = s * p + c * q
      for (let row = 0; row < 9; row += 3) {
        const u = axes[row + i]
        const v = axes[row + k]
        axes[row + i] = c * u - s * v
        axes[row + k] = s * u + c * v
      }
    }
  }
  tensor[3] = tensor[4] = tensor[5] = 0
}

/** Which product belongs to two axes: xy, xz, yz. */
function pairOf(i: number, k: number): number {
  return i + k - 1
}

/** How far the middle of a convex piece is from its surface: half its least width, or less; 0 for what is thin. */
export function halfWidth(block: Float64Array): number {
  const kind = block[KIND]
  const radius = block[RADIUS]
  if (kind === BOX) return radius + Math.min(block[BODY + 12], block[BODY + 13], block[BODY + 14])
  if (kind === CYLINDER) return radius + Math.min(block[BODY + 6], block[BODY + 7])
  if (kind === CONE) {
    const height = 2 * block[BODY + 6]
    const disc = block[BODY + 7]
    // Half way up it is half as wide; its side leans.
    return radius + Math.min(height / 2, (disc * height) / (2 * Math.sqrt(height * height + disc * disc)))
  }
  if (kind !== POINTS) return 0
  const count = block[POINT_COUNT]
  const faces = BODY + 3 * count
  let least = block[FACE_COUNT] > 0 ? Infinity : 0
  for (let f = 0; f < block[FACE_COUNT]; f++) {
    const face = faces + 4 * f
    let mean = 0
    for (let at = BODY; at < faces; at += 3) {
      mean += (block[face] * block[at] + block[face + 1] * block[at + 1] + block[face + 2] * block[at + 2]) / count
    }
    least = Math.min(least, block[face + 3] - mean)
  }
  return radius + Math.max(least, 0)
}

/** Whether three moments and three products are those of something: all turns take energy. */
export function isPositive({ xx, yy, zz, xy, xz, yz }: Inertia): boolean {
  const minor = xx * yy - xy * xy
  return xx > 0 && minor > 0 && minor * zz + 2 * xy * xz * yz - xx * yz * yz - yy * xz * xz > 0
}
