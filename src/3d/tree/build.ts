/**
 * Splits ranges of boxes by the surface-area heuristic: where the sum of area times count of both sides is least, over bins
 * along the three axes (Wald, 2007).
 */
import { binOf, splitByBin } from '../../core/tree/grow.ts'

/** Bins along an axis, at most; fewer for a range of few, for they were removed through however many boxes there are. */
const BINS = 16
const SOME = 8
const MANY = 32

const counts = new Int32Array(BINS)
/** Bounds of each bin, and from the right the cost of all from it on. */
const boxes = new Float64Array(6 * BINS)
const right = new Float64Array(BINS)
const sum = new Float64Array(6)

/** Puts a range in the order of its best split; returns where the second part begins. */
export function partition(data: Int32Array, first: number, end: number, box: Float64Array): number {
  let minX = Infinity
  let minY = Infinity
  let minZ = Infinity
  let maxX = -Infinity
  let maxY = -Infinity
  let maxZ = -Infinity
  for (let i = first; i < end; i++) {
    const at = 6 * data[i]
    const x = box[at] + box[at + 3]
    const y = box[at + 1] + box[at + 4]
    const z = box[at + 2] + box[at + 5]
    if (x < minX) minX = x
    if (x > maxX) maxX = x
    if (y < minY) minY = y
    if (y > maxY) maxY = y
    if (z < minZ) minZ = z
    if (z > maxZ) maxZ = z
  }
  let bestCost = Infinity
  let bestAxis = 0
  let bestBin = 0
  const bins = end - first < MANY ? SOME : BINS
  for (let axis = 0; axis < 3; axis++) {
    const low = axis === 0 ? minX : axis === 1 ? minY : minZ
    const extent = (axis === 0 ? maxX : axis === 1 ? maxY : maxZ) - low
    if (!(extent > 0)) continue
    const scale = bins / extent
    for (let bin = 0; bin < bins; bin++) counts[bin] = 0
    for (let i = 0; i < 6 * bins; i += 6) {
      boxes[i] = boxes[i + 1] = boxes[i + 2] = Infinity
      boxes[i + 3] = boxes[i + 4] = boxes[i + 5] = -Infinity
    }
    for (let i = first; i < end; i++) {
      const at = 6 * data[i]
      const bin = binOf(box[at + axis] + box[at + axis + 3], low, scale, bins)
      counts[bin]++
      widen(boxes, 6 * bin, box, at)
    }
    let count = 0
    empty(sum)
    for (let bin = bins - 1; bin > 0; bin--) {
      if (counts[bin] > 0) widen(sum, 0, boxes, 6 * bin)
      count += counts[bin]
      right[bin] = count === 0 ? Infinity : count * halfArea(sum)
    }
    count = 0
    empty(sum)
    for (let bin = 0; bin + 1 < bins; bin++) {
      if (counts[bin] > 0) widen(sum, 0, boxes, 6 * bin)
      count += counts[bin]
      if (count === 0) continue
      const cost = count * halfArea(sum) + right[bin + 1]
      if (cost < bestCost) {
        bestCost = cost
        bestAxis = axis
        bestBin = bin
      }
    }
  }
  // All in one place: halves.
  if (bestCost === Infinity) return (first + end) >> 1
  const low = bestAxis === 0 ? minX : bestAxis === 1 ? minY : minZ
  const scale = bins / ((bestAxis === 0 ? maxX : bestAxis === 1 ? maxY : maxZ) - low)
  const range = { first, end, axis: bestAxis, lastBin: bestBin }
  return splitByBin(data, range, { low, scale, count: bins }, box, 3)
}

function empty(box: Float64Array): void {
  box[0] = box[1] = box[2] = Infinity
  box[3] = box[4] = box[5] = -Infinity
}

function widen(box: Float64Array, at: number, by: Float64Array, from: number): void {
  if (by[from] < box[at]) box[at] = by[from]
  if (by[from + 1] < box[at + 1]) box[at + 1] = by[from + 1]
  if (by[from + 2] < box[at + 2]) box[at + 2] = by[from + 2]
  if (by[from + 3] > box[at + 3]) box[at + 3] = by[from + 3]
  if (by[from + 4] > box[at + 4]) box[at + 4] = by[from + 4]
  if (by[from + 5] > box[at + 5]) box[at + 5] = by[from + 5]
}

function halfArea(box: Float64Array): number {
  const x = box[3] - box[0]
  const y = box[4] - box[1]
  const z = box[5] - box[2]
  return x * y + y * z + z * x
}
