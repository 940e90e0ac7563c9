/**
 * Quick tests that rule out triangles which a moving convex piece cannot reach: a plane separates them from its whole path, or from the
 * part of it that matters. They take a few dot products each, and most triangles near a path never get to the exact cast, which
 * takes many times as long.
 */
import type * as layout from '../shapes/layout.ts'
import { CAST_POINT, FRACTION, RAY_NORMAL } from './records.ts'
import { forget, support } from './support.ts'

const BODY: typeof layout.BODY = 4
const POINT_COUNT: typeof layout.POINT_COUNT = 1
const RADIUS: typeof layout.RADIUS = 3
const POINTS: typeof layout.POINTS = 0
const BOX: typeof layout.BOX = 1

/** Part of the coordinates by which a plane must keep two apart: well above the rounding by which they count as touching. */
const MARGIN = 1e-10

/** The square of a direction below which it has too few digits to say anything. */
const TINY = 1e-200

const across = new Float64Array(3)
const far = new Float64Array(3)
/** How far the piece reaches along `across`, from the least to the greatest, each by the margin farther. */
const extent = new Float64Array(2)
/** How far the triangle reaches along `across`. */
const reached = new Float64Array(2)
/** The sum of the coordinates at hand. */
const scale = new Float64Array(1)

/**
 * Whether a convex piece that moves straight may reach a triangle. Tried are the triangle's own plane, with the time at which the piece
 * comes to it, and planes along the path: through each edge of the triangle, and along the edges of a box.
 * @param line start and motion; only the motion is read
 * @param triangle a block of its own
 * @param limit the part of the way, in its first place: what comes later does not count
 */
export function mayReach(
  p: Float64Array,
  a: number,
  line: Float64Array,
  triangle: Float64Array,
  limit: Float64Array,
): boolean {
  const dx = line[3]
  const dy = line[4]
  const dz = line[5]
  const x = triangle[4]
  const y = triangle[5]
  const z = triangle[6]
  const ex = triangle[7] - x
  const ey = triangle[8] - y
  const ez = triangle[9] - z
  const fx = triangle[10] - x
  const fy = triangle[11] - y
  const fz = triangle[12] - z
  scale[0] = 0
  for (let i = 0; i < 3; i++) scale[0] += Math.abs(line[3 + i]) + Math.abs(p[a + BODY + i])
  for (let i = 4; i < 13; i++) scale[0] += Math.abs(triangle[i])
  forget()
  across[0] = ey * fz - ez * fy
  across[1] = ez * fx - ex * fz
  across[2] = ex * fy - ey * fx
  extend(p, a)
  spread(triangle)
  const closing = across[0] * dx + across[1] * dy + across[2] * dz
  if (extent[0] > reached[1] && (closing >= 0 || reached[1] - extent[0] < limit[0] * closing)) return false
  if (extent[1] < reached[0] && (closing <= 0 || reached[0] - extent[1] > limit[0] * closing)) return false
  const gx = fx - ex
  const gy = fy - ey
  const gz = fz - ez
  return !(
    isPassed(p, a, triangle, ey * dz - ez * dy, ez * dx - ex * dz, ex * dy - ey * dx) ||
    isPassed(p, a, triangle, fy * dz - fz * dy, fz * dx - fx * dz, fx * dy - fy * dx) ||
    isPassed(p, a, triangle, gy * dz - gz * dy, gz * dx - gx * dz, gx * dy - gy * dx) ||
    (p[a] === BOX && passesBeside(p, a, triangle, dx, dy, dz))
  )
}

/**
 * The plane in which a moving piece touches the best hit so far. Until then the piece stays in front of it, so whatever lies behind it
 * is met later, or never.
 */
export class TouchPlane {
  /** A normal towards the piece, and where along it the piece begins when it touches. */
  private readonly values = new Float64Array(4)

  /** Nothing lies behind it. */
  clear(): void {
    this.values[3] = -Infinity
  }

  /** @param hit the record of a cast that met something */
  set(p: Float64Array, a: number, line: Float64Array, hit: Float64Array): void {
    const { values } = this
    let closing = 0
    for (let i = 0; i < 3; i++) {
      across[i] = values[i] = hit[RAY_NORMAL + i]
      closing += across[i] * line[3 + i]
    }
    forget()
    scale[0] = 0
    for (let i = 0; i < 3; i++) scale[0] += Math.abs(line[3 + i]) + Math.abs(hit[CAST_POINT + i])
    extend(p, a)
    values[3] = closing < 0 ? extent[0] + hit[FRACTION] * closing : -Infinity
  }

  /** @param triangle a block of its own */
  hides(triangle: Float64Array): boolean {
    const { values } = this
    const nx = values[0]
    const ny = values[1]
    const nz = values[2]
    const at = values[3]
    return (
      nx * triangle[4] + ny * triangle[5] + nz * triangle[6] < at &&
      nx * triangle[7] + ny * triangle[8] + nz * triangle[9] < at &&
      nx * triangle[10] + ny * triangle[11] + nz * triangle[12] < at
    )
  }
}

/** Whether a plane along the path and along an edge of a box separates the two. */
function passesBeside(p: Float64Array, a: number, triangle: Float64Array, dx: number, dy: number, dz: number): boolean {
  for (let axis = a + BODY + 3; axis < a + BODY + 12; axis += 3) {
    const ux = p[axis]
    const uy = p[axis + 1]
    const uz = p[axis + 2]
    if (isPassed(p, a, triangle, uy * dz - uz * dy, uz * dx - ux * dz, ux * dy - uy * dx)) return true
  }
  return false
}

/** Whether the two are apart along a direction across the path. */
function isPassed(p: Float64Array, a: number, triangle: Float64Array, nx: number, ny: number, nz: number): boolean {
  across[0] = nx
  across[1] = ny
  across[2] = nz
  extend(p, a)
  spread(triangle)
  return extent[0] > reached[1] || extent[1] < reached[0]
}

/** Writes how far a triangle reaches along `across`. */
function spread(triangle: Float64Array): void {
  const nx = across[0]
  const ny = across[1]
  const nz = across[2]
  const first = nx * triangle[4] + ny * triangle[5] + nz * triangle[6]
  const second = nx * triangle[7] + ny * triangle[8] + nz * triangle[9]
  const third = nx * triangle[10] + ny * triangle[11] + nz * triangle[12]
  const low = first < second ? first : second
  const high = first > second ? first : second
  reached[0] = low < third ? low : third
  reached[1] = high > third ? high : third
}

/** Writes `extent`, without bounds where the direction is none. */
function extend(p: Float64Array, a: number): void {
  const nx = across[0]
  const ny = across[1]
  const nz = across[2]
  support(p, a, across, 1, far, 0, 0)
  const most = nx * far[0] + ny * far[1] + nz * far[2]
  let least = most
  if (p[a] !== POINTS || p[a + POINT_COUNT] > 1) {
    support(p, a, across, -1, far, 0, 1)
    least = nx * far[0] + ny * far[1] + nz * far[2]
  }
  const size = scale[0] + Math.abs(far[0]) + Math.abs(far[1]) + Math.abs(far[2])
  const square = nx * nx + ny * ny + nz * nz
  const wider = square > TINY ? (p[a + RADIUS] + MARGIN * size) * Math.sqrt(square) : Infinity
  extent[0] = least - wider
  extent[1] = most + wider
}
