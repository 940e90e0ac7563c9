/**
 * Builds a tree in bulk by the surface-area heuristic: ranges are split where the sum of perimeter times count of both
 * sides is least, over bins along both axes (Wald, 2007).
 */
import { binOf, splitByBin } from '../../core/tree/grow.ts'

const BINS = 16

const counts = new Int32Array(BINS)
/** min x, min y, max x, max y of each bin, and from the right. */
const boxes = new Float64Array(4 * BINS)
const right = new Float64Array(BINS)

/** Puts a range in the order of its best split; returns where the second part begins. */
export function partition(data: Int32Array, first: number, end: number, box: Float64Array): number {
  let minX = Infinity
  let minY = Infinity
  let maxX = -Infinity
  let maxY = -Infinity
  for (let i = first; i < end; i++) {
    const at = 4 * data[i]
    const x = box[at] + box[at + 2]
    const y = box[at + 1] + box[at + 3]
    if (x < minX) minX = x
    if (x > maxX) maxX = x
    if (y < minY) minY = y
    if (y > maxY) maxY = y
  }
  let bestCost = Infinity
  let bestAxis = 0
  let bestBin = 0
  for (let axis = 0; axis < 2; axis++) {
    const low = axis === 0 ? minX : minY
    const extent = (axis === 0 ? maxX : maxY) - low
    if (!(extent > 0)) continue
    const scale = BINS / extent
    counts.fill(0)
    for (let bin = 0; bin < BINS; bin++) {
      boxes[4 * bin] = boxes[4 * bin + 1] = Infinity
      boxes[4 * bin + 2] = boxes[4 * bin + 3] = -Infinity
    }
    for (let i = first; i < end; i++) {
      const at = 4 * data[i]
      const bin = binOf(box[at + axis] + box[at + axis + 2], low, scale, BINS)
      counts[bin]++
      const b = 4 * bin
      if (box[at] < boxes[b]) boxes[b] = box[at]
      if (box[at + 1] < boxes[b + 1]) boxes[b + 1] = box[at + 1]
      if (box[at + 2] > boxes[b + 2]) boxes[b + 2] = box[at + 2]
      if (box[at + 3] > boxes[b + 3]) boxes[b + 3] = box[at + 3]
    }
    let x0 = Infinity
    let y0 = Infinity
    let x1 = -Infinity
    let y1 = -Infinity
    let count = 0
    for (let bin = BINS - 1; bin > 0; bin--) {
      const b = 4 * bin
      if (counts[bin] > 0) {
        x0 = Math.min(x0, boxes[b])
        y0 = Math.min(y0, boxes[b + 1])
        x1 = Math.max(x1, boxes[b + 2])
        y1 = Math.max(y1, boxes[b + 3])
        count += counts[bin]
      }
      right[bin] = count === 0 ? Infinity : count * (x1 - x0 + y1 - y0)
    }
    x0 = Infinity
    y0 = Infinity
    x1 = -Infinity
    y1 = -Infinity
    count = 0
    for (let bin = 0; bin + 1 < BINS; bin++) {
      const b = 4 * bin
      if (counts[bin] > 0) {
        x0 = Math.min(x0, boxes[b])
        y0 = Math.min(y0, boxes[b + 1])
        x1 = Math.max(x1, boxes[b + 2])
        y1 = Math.max(y1, boxes[b + 3])
        count += counts[bin]
      }
      if (count === 0) continue
      const cost = count * (x1 - x0 + y1 - y0) + right[bin + 1]
      if (cost < bestCost) {
        bestCost = cost
        bestAxis = axis
        bestBin = bin
      }
    }
  }
  // All in one place: halves.
  if (bestCost === Infinity) return (first + end) >> 1
  const low = bestAxis === 0 ? minX : minY
  const scale = BINS / ((bestAxis === 0 ? maxX : maxY) - low)
  const range = { first, end, axis: bestAxis, lastBin: bestBin }
  return splitByBin(data, range, { low, scale, count: BINS }, box, 2)
}
