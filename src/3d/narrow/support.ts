/** The farthest point of a piece's core in a direction: all that the general distance and depth ask of a convex shape. */
import type * as words from '../shapes/words.ts'

const BODY: typeof words.BODY = 4
const POINT_COUNT: typeof words.POINT_COUNT = 1
const BOX: typeof words.BOX = 1
const CYLINDER: typeof words.CYLINDER = 2
const CONE: typeof words.CONE = 3

/** Sine of an angle that is none, to rounding. */
const STRAIGHT = 1e-15

/**
 * Writes the point of a core (without its radius) that lies farthest along a direction of any length.
 * @param sign 1, or -1 for the opposite direction
 */
export function support(
  p: Float64Array,
  a: number,
  dir: Float64Array,
  sign: number,
  out: Float64Array,
  to: number,
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
  if (count > 1) {
    let most = dx * p[b] + dy * p[b + 1] + dz * p[b + 2]
    const end = b + 3 * count
    for (let i = b + 3; i < end; i += 3) {
      const here = dx * p[i] + dy * p[i + 1] + dz * p[i + 2]
      if (here > most) {
        most = here
        best = i
      }
    }
  }
  out[to] = p[best]
  out[to + 1] = p[best + 1]
  out[to + 2] = p[best + 2]
}
