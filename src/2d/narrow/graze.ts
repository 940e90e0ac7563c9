/**
 * A ray that runs along a solid without going into it, to rounding: between which fractions it does, and on which side of the ray
 * the solid lies. Rare: only asked where a ray has passed very near.
 */
import { ENTER, EXIT, FRONT, SECTOR_FROM, SECTOR_TO } from '../../core/query/seams.ts'
import { COUNT, KIND, LINE, PLANE } from '../shapes/layout.ts'

/** A few units in the last place of a coordinate, as a part of it. */
export const ROUNDING = 4.5e-16

/**
 * Whether a ray runs along a piece, to the rounding of the coordinates of both.
 * @param line start x, y and motion x, y, which is not zero; in the sixth place lengths by which coordinates may be wrong besides
 * @param out a graze record of `core/seams.ts`
 */
export function grazeOf(p: Float64Array, at: number, line: Float64Array, out: Float64Array): boolean {
  const kind = p[at + KIND]
  if (kind === PLANE) return grazePlane(p, at, line, out)
  return kind !== LINE && grazeConvex(p, at, line, out)
}

function grazePlane(p: Float64Array, at: number, line: Float64Array, out: Float64Array): boolean {
  const nx = p[at + 1]
  const ny = p[at + 2]
  const away = line[0] * nx + line[1] * ny - p[at]
  const slack = ROUNDING * (Math.abs(line[0] * nx) + Math.abs(line[1] * ny) + Math.abs(p[at])) + line[5]
  if (Math.abs(away) > slack) return false
  const speed = line[2] * nx + line[3] * ny
  if (Math.abs(speed) > ROUNDING * (Math.abs(line[2] * nx) + Math.abs(line[3] * ny))) return false
  out[ENTER] = -Infinity
  out[EXIT] = Infinity
  writeSide(line[2] * ny - line[3] * nx < 0, out)
  return true
}

function grazeConvex(p: Float64Array, at: number, line: Float64Array, out: Float64Array): boolean {
  const n = p[at + COUNT] | 0
  const r = p[at]
  const [ox, oy, dx, dy] = line
  const square = dx * dx + dy * dy
  const length = Math.sqrt(square)
  let far = 0
  let most = -Infinity
  let least = Infinity
  for (let i = at + 1; i <= at + 2 * n; i += 2) {
    far = Math.max(far, Math.abs(p[i]) + Math.abs(p[i + 1]))
    const side = (dx * (p[i + 1] - oy) - dy * (p[i] - ox)) / length
    most = Math.max(most, side)
    least = Math.min(least, side)
  }
  // Lengths across the ray by which the piece may lie elsewhere.
  const slack = 2 * ROUNDING * (far + r + Math.abs(ox) + Math.abs(oy)) + line[5]
  const left = Math.abs(least - r) <= slack
  if (!left && Math.abs(most + r) > slack) return false
  // What is as thin as rounding lies on neither side.
  if (most - least + 2 * r <= 4 * slack) return false
  const edge = left ? least : most
  let first = at + 1
  out[ENTER] = Infinity
  out[EXIT] = -Infinity
  for (let i = at + 1; i <= at + 2 * n; i += 2) {
    const side = (dx * (p[i + 1] - oy) - dy * (p[i] - ox)) / length
    if (Math.abs(side - edge) > 2 * slack) continue
    const t = (dx * (p[i] - ox) + dy * (p[i + 1] - oy)) / square
    if (t < out[ENTER]) {
      out[ENTER] = t
      first = i
    }
    if (t > out[EXIT]) out[EXIT] = t
  }
  writeSide(left, out)
  writeFront(p, at, first, line, out)
  return true
}

function writeSide(left: boolean, out: Float64Array): void {
  out[SECTOR_FROM] = left ? 0 : 2
  out[SECTOR_TO] = left ? 2 : 4
}

/** The normal of that edge at a corner which faces the ray most; of what is round there, against the ray. */
function writeFront(p: Float64Array, at: number, corner: number, line: Float64Array, out: Float64Array): void {
  const n = p[at + COUNT] | 0
  const length = Math.sqrt(line[2] * line[2] + line[3] * line[3])
  out[FRONT] = -line[2] / length
  out[FRONT + 1] = -line[3] / length
  if (p[at] > 0 || n < 3) return
  const last = at + 2 * n - 1
  const before = corner === at + 1 ? last : corner - 2
  const after = corner === last ? at + 1 : corner + 2
  let best = 0
  for (let k = 0; k < 2; k++) {
    const i = k === 0 ? before : corner
    const j = k === 0 ? corner : after
    const ux = p[j + 1] - p[i + 1]
    const uy = p[i] - p[j]
    const size = Math.sqrt(ux * ux + uy * uy)
    const facing = (ux * line[2] + uy * line[3]) / size
    if (facing >= best) continue
    best = facing
    out[FRONT] = ux / size
    out[FRONT + 1] = uy / size
  }
}
