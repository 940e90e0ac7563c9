/**
 * Builds a tree in bulk by the surface-area heuristic: ranges are split where the sum of perimeter times count of both
 * sides is least, over bins along both axes (Wald, 2007).
 */
import { binOf, splitByBin } from '../../core/tree/grow.ts'

/** Bins along an axis, at most; fewer for a range of few, for they are gone through however many boxes there are. */
const BINS = 16
const SOME = 8
const MANY = 32

/** Of each axis: how many are in a bin, and its min x, min y, max x, max y; and from the right the cost of all from it on. */
const counts = [new Int32Array(BINS), new Int32Array(BINS)]
const boxes = [new Float64Array(4 * BINS), new Float64Array(4 * BINS)]
const right = new Float64Array(BINS)

/** Where a range is split best: the axis, and the last bin of the first part; and what that costs. */
const best = { cost: Infinity, axis: 0, bin: 0 }

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
  const wide = maxX - minX
  const high = maxY - minY
  const bins = end - first < MANY ? SOME : BINS
  const scaleX = wide > 0 ? bins / wide : 0
  const scaleY = high > 0 ? bins / high : 0
  for (let axis = 0; axis < 2; axis++) {
    const own = boxes[axis]
    for (let bin = 0; bin < bins; bin++) {
      counts[axis][bin] = 0
      own[4 * bin] = own[4 * bin + 1] = Infinity
      own[4 * bin + 2] = own[4 * bin + 3] = -Infinity
    }
  }
  const [countsX, countsY] = counts
  const [boxesX, boxesY] = boxes
  for (let i = first; i < end; i++) {
    const at = 4 * data[i]
    const x0 = box[at]
    const y0 = box[at + 1]
    const x1 = box[at + 2]
    const y1 = box[at + 3]
    const binX = binOf(x0 + x1, minX, scaleX, bins)
    const binY = binOf(y0 + y1, minY, scaleY, bins)
    countsX[binX]++
    countsY[binY]++
    widen(boxesX, 4 * binX, x0, y0, x1, y1)
    widen(boxesY, 4 * binY, x0, y0, x1, y1)
  }
  best.cost = Infinity
  if (wide > 0) choose(0, bins)
  if (high > 0) choose(1, bins)
  // All in one place, or without end: halves.
  if (best.cost === Infinity) return (first + end) >> 1
  const { axis, bin } = best
  const low = axis === 0 ? minX : minY
  const scale = axis === 0 ? scaleX : scaleY
  return splitByBin(data, { first, end, axis, lastBin: bin }, { low, scale, count: bins }, box, 2)
}

function widen(box: Float64Array, at: number, x0: number, y0: number, x1: number, y1: number): void {
  if (x0 < box[at]) box[at] = x0
  if (y0 < box[at + 1]) box[at + 1] = y0
  if (x1 > box[at + 2]) box[at + 2] = x1
  if (y1 > box[at + 3]) box[at + 3] = y1
}

/** Looks for a better split along an axis. */
function choose(axis: number, bins: number): void {
  const own = boxes[axis]
  const held = counts[axis]
  let x0 = Infinity
  let y0 = Infinity
  let x1 = -Infinity
  let y1 = -Infinity
  let count = 0
  for (let bin = bins - 1; bin > 0; bin--) {
    const b = 4 * bin
    if (held[bin] > 0) {
      if (own[b] < x0) x0 = own[b]
      if (own[b + 1] < y0) y0 = own[b + 1]
      if (own[b + 2] > x1) x1 = own[b + 2]
      if (own[b + 3] > y1) y1 = own[b + 3]
      count += held[bin]
    }
    right[bin] = count === 0 ? Infinity : count * (x1 - x0 + y1 - y0)
  }
  x0 = y0 = Infinity
  x1 = y1 = -Infinity
  count = 0
  for (let bin = 0; bin + 1 < bins; bin++) {
    if (held[bin] === 0) continue
    const b = 4 * bin
    if (own[b] < x0) x0 = own[b]
    if (own[b + 1] < y0) y0 = own[b + 1]
    if (own[b + 2] > x1) x1 = own[b + 2]
    if (own[b + 3] > y1) y1 = own[b + 3]
    count += held[bin]
    const cost = count * (x1 - x0 + y1 - y0) + right[bin + 1]
    if (cost < best.cost) {
      best.cost = cost
      best.axis = axis
      best.bin = bin
    }
  }
}
