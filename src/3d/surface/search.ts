/** What questions of shapes need of a surface: the triangles near a box, and boxes, ways and triangles between its own place and the world. */
import { IntList } from '../../core/state/table.ts'
import { LINK, NODE } from '../tree/layout.ts'
import type { Surface } from './surface.ts'

const stack = new IntList()

/** Appends the triangles of leaves whose bounds meet a box: min x, y, z, max x, y, z. */
export function searchSurface(surface: Surface, box: Float64Array, out: IntList): void {
  const { f32, i32 } = surface
  stack.clear()
  stack.push(0)
  while (stack.length > 0) {
    const node = stack.pop()
    for (let side = 0; side < 2; side++) {
      const at = node * NODE + 6 * side
      if (
        f32[at] > box[3] ||
        f32[at + 1] > box[4] ||
        f32[at + 2] > box[5] ||
        f32[at + 3] < box[0] ||
        f32[at + 4] < box[1] ||
        f32[at + 5] < box[2]
      ) {
        continue
      }
      const link = i32[node * NODE + LINK + side]
      if (link >= 0) stack.push(link)
      else for (let i = ~link >> 3, end = i + (~link & 7); i <= end; i++) out.push(i)
    }
  }
}

/** Writes the bounds of a box seen from a surface that is placed by a block: about its own origin. */
export function boxInto(block: Float64Array, at: number, box: Float64Array, from: number, out: Float64Array): void {
  const p = at + 4
  for (let i = 0; i < 3; i++) {
    out[i] = -Infinity
    out[3 + i] = Infinity
    let middle = 0
    let half = 0
    for (let k = 0; k < 3; k++) {
      // The turn back is the matrix read by columns.
      const m = block[p + 3 + 3 * k + i]
      middle += m * ((box[from + k] + box[from + 3 + k]) / 2 - block[p + k])
      half += (m < 0 ? -m : m) * ((box[from + 3 + k] - box[from + k]) / 2)
    }
    // Endless on one side or on both: then it is endless.
    if (!(half < Infinity)) continue
    // A little wider, by the rounding of all this.
    half += 1e-15 * (half + (middle < 0 ? -middle : middle))
    out[i] = middle - half
    out[3 + i] = middle + half
  }
}

/** Writes a motion seen from a placed surface: start and motion, six numbers. */
export function lineInto(block: Float64Array, at: number, line: Float64Array, out: Float64Array): void {
  const p = at + 4
  const x = line[0] - block[p]
  const y = line[1] - block[p + 1]
  const z = line[2] - block[p + 2]
  const dx = line[3]
  const dy = line[4]
  const dz = line[5]
  for (let i = 0; i < 3; i++) {
    const m0 = block[p + 3 + i]
    const m1 = block[p + 6 + i]
    const m2 = block[p + 9 + i]
    out[i] = m0 * x + m1 * y + m2 * z
    out[3 + i] = m0 * dx + m1 * dy + m2 * dz
  }
}

/** Writes half sizes of a box as they are about a placed surface. */
export function halfInto(block: Float64Array, at: number, half: Float64Array, out: Float64Array): void {
  const p = at + 7
  for (let i = 0; i < 3; i++) {
    const size = Math.abs(block[p + i]) * half[0] + Math.abs(block[p + 3 + i]) * half[1]
    out[i] = (size + Math.abs(block[p + 6 + i]) * half[2]) * (1 + 1e-15)
  }
}

/** Writes a triangle of a placed surface as a block of its own. */
export function triangleInto(
  surface: Surface,
  triangle: number,
  block: Float64Array,
  at: number,
  out: Float64Array,
): void {
  const p = at + 4
  const m = at + 7
  const { corners } = surface
  out[0] = 4
  out[1] = 3
  out[2] = 0
  out[3] = 0
  for (let k = 0; k < 9; k += 3) {
    const x = corners[9 * triangle + k]
    const y = corners[9 * triangle + k + 1]
    const z = corners[9 * triangle + k + 2]
    out[4 + k] = block[p] + (block[m] * x + block[m + 1] * y + block[m + 2] * z)
    out[5 + k] = block[p + 1] + (block[m + 3] * x + block[m + 4] * y + block[m + 5] * z)
    out[6 + k] = block[p + 2] + (block[m + 6] * x + block[m + 7] * y + block[m + 8] * z)
  }
}
