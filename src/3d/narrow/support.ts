/** The farthest point of a piece's core in a direction: all that the general distance and depth ask of a convex shape. */
import type * as layout from '../shapes/layout.ts'

const BODY: typeof layout.BODY = 4
const POINT_COUNT: typeof layout.POINT_COUNT = 1
const FACE_COUNT: typeof layout.FACE_COUNT = 2
const FEW: typeof layout.FEW = 32
const BOX: typeof layout.BOX = 1
const CYLINDER: typeof layout.CYLINDER = 2
const CONE: typeof layout.CONE = 3

/** By which part of its terms a product of an edge and a direction can be wrong: two roundings each, and those of the sums. */
const ROUNDING = 6e-16
/** Sine below which an angle is zero within rounding error. */
const STRAIGHT = 1e-15

/** Where the last way over a hull ended, for each side of a pair: the next one, along a direction not far from it, begins there. */
const last = new Int32Array(2)

/** Lets the ways over hulls begin again: before each pair, so that what is found does not depend on what was asked before. */
export function forget(): void {
  last[0] = 0
  last[1] = 0
}

/**
 * Writes the point of a core (without its radius) that lies farthest along a direction of any length.
 * @param sign 1, or -1 for the opposite direction
 * @param side which of a pair it is, 0 or 1
 */
export function support(
  p: Float64Array,
  a: number,
  dir: Float64Array,
  sign: number,
  out: Float64Array,
  to: number,
  side: number,
): void {
  const dx = sign * dir[0]
  const dy = sign * dir[1]
  const dz = sign * dir[2]
  const kind = p[a]
  const b = a + BODY
  if (kind === BOX) {
    const hx = dx * p[b + 3] + dy * p[b + 4] + dz * p[b + 5] < 0 ? -p[b + 12] : p[b + 12]
    const hy = dx * p[b + 6] + dy * p[b + 7] + dz * p[b + 8] < 0 ? -p[b + 13] : p[b + 13]
    const hz = dx * p[b + 9] + dy * p[b + 10] + dz * p[b + 11] < 0 ? -p[b + 14] : p[b + 14]
    out[to] = p[b] + (hx * p[b + 3] + hy * p[b + 6] + hz * p[b + 9])
    out[to + 1] = p[b + 1] + (hx * p[b + 4] + hy * p[b + 7] + hz * p[b + 10])
    out[to + 2] = p[b + 2] + (hx * p[b + 5] + hy * p[b + 8] + hz * p[b + 11])
    return
  }
  if (kind === CYLINDER || kind === CONE) {
    const ux = p[b + 3]
    const uy = p[b + 4]
    const uz = p[b + 5]
    const hh = p[b + 6]
    const disc = p[b + 7]
    const along = dx * ux + dy * uy + dz * uz
    let rx = dx - along * ux
    let ry = dy - along * uy
    let rz = dz - along * uz
    // Once more: of a direction nearly along the axis most of what is left is rounding, and not across it.
    const rest = rx * ux + ry * uy + rz * uz
    rx -= rest * ux
    ry -= rest * uy
    rz -= rest * uz
    const across = Math.sqrt(rx * rx + ry * ry + rz * rz)
    // The tip of a cone is farther than its rim where the direction lies within the right angle of its side.
    const atTip = kind === CONE ? 2 * hh * along > disc * across : along > 0
    const rim = kind === CONE && atTip ? 0 : disc
    const half = atTip ? hh : -hh
    // Straight along the axis what is left across it is rounding: then the middle of the disc is as far as its rim.
    const part = across > STRAIGHT * (along < 0 ? -along : along) ? rim / across : 0
    out[to] = p[b] + half * ux + part * rx
    out[to + 1] = p[b + 1] + half * uy + part * ry
    out[to + 2] = p[b + 2] + half * uz + part * rz
    return
  }
  const count = p[a + POINT_COUNT]
  let best = b
  if (count > FEW) best = b + 3 * climb(p, a, count, dir, sign, side)
  else if (count > 1) {
    best = (b + 3 * last[side]) | 0
    let most = dx * p[best] + dy * p[best + 1] + dz * p[best + 2]
    const end = b + 3 * count
    for (let i = b; i < end; i += 3) {
      const here = dx * p[i] + dy * p[i + 1] + dz * p[i + 2]
      if (here > most) {
        most = here
        best = i
      }
    }
    last[side] = ((best - b) / 3) | 0
  }
  out[to] = p[best]
  out[to + 1] = p[best + 1]
  out[to + 2] = p[best + 2]
}

/**
 * From corner to neighbouring corner as long as one lies farther: on a convex shape the last is the farthest of all. What is
 * compared are the edges, so that short ones tell as well as long ones.
 */
function climb(p: Float64Array, a: number, count: number, dir: Float64Array, sign: number, side: number): number {
  const dx = sign * dir[0]
  const dy = sign * dir[1]
  const dz = sign * dir[2]
  const b = (a + BODY) | 0
  const links = (b + 3 * count + 4 * p[a + FACE_COUNT]) | 0
  let corner = last[side]
  for (;;) {
    const at = (b + 3 * corner) | 0
    const x = p[at]
    const y = p[at + 1]
    const z = p[at + 2]
    const end = (links + p[links + corner + 1]) | 0
    let next = -1
    let most = 0
    for (let k = (links + p[links + corner]) | 0; k < end; k++) {
      const i = (b + 3 * p[k]) | 0
      const ex = dx * (p[i] - x)
      const ey = dy * (p[i + 1] - y)
      const ez = dz * (p[i + 2] - z)
      const further = ex + ey + ez
      // What rounding could make of nothing does not count: around a face it would lead in a circle.
      if (further > most && further > ROUNDING * ((ex < 0 ? -ex : ex) + (ey < 0 ? -ey : ey) + (ez < 0 ? -ez : ez))) {
        most = further
        next = p[k] | 0
      }
    }
    if (next < 0) break
    corner = next
  }
  last[side] = corner
  return corner
}
