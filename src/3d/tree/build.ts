/**
 * Splits ranges of boxes by the surface-area heuristic: where the sum of area times count of both sides is least, over bins
 * along the three axes (Wald, 2007).
 */
import { binOf, splitByBin } from '../../core/tree/grow.ts'

/** Bins along an axis, at most; fewer for a range of few, for they are gone through however many boxes there are. */
const BINS = 16
const SOME = 8
const MANY = 32

/** Of each axis: how many are in a bin, and its bounds; and from the right the cost of all from it on. */
const counts = [0, 1, 2].map(() => new Int32Array(BINS))
const boxes = [0, 1, 2].map(() => new Float64Array(6 * BINS))
const right = new Float64Array(BINS)
const sum = new Float64Array(6)

/** Where a range is split best: the axis, and the last bin of the first part; and what that costs. */
const best = { cost: Infinity, axis: 0, bin: 0 }

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
  const bins = end - first < MANY ? SOME : BINS
  const scaleX = maxX > minX ? bins / (maxX - minX) : 0
  const scaleY = maxY > minY ? bins / (maxY - minY) : 0
  const scaleZ = maxZ > minZ ? bins / (maxZ - minZ) : 0
  for (let axis = 0; axis < 3; axis++) {
    counts[axis].fill(0)
    for (let i = 0; i < 6 * bins; i += 6) emptyAt(boxes[axis], i)
  }
  // One walk for all axes: most of the time goes into reading the boxes.
  const [countsX, countsY, countsZ] = counts
  const [boxesX, boxesY, boxesZ] = boxes
  for (let i = first; i < end; i++) {
    const at = 6 * data[i]
    const binX = binOf(box[at] + box[at + 3], minX, scaleX, bins)
    const binY = binOf(box[at + 1] + box[at + 4], minY, scaleY, bins)
    const binZ = binOf(box[at + 2] + box[at + 5], minZ, scaleZ, bins)
    countsX[binX]++
    countsY[binY]++
    countsZ[binZ]++
    widen(boxesX, 6 * binX, box, at)
    widen(boxesY, 6 * binY, box, at)
    widen(boxesZ, 6 * binZ, box, at)
  }
  best.cost = Infinity
  if (scaleX > 0) choose(0, bins)
  if (scaleY > 0) choose(1, bins)
  if (scaleZ > 0) choose(2, bins)
  // All in one place: halves.
  if (best.cost === Infinity) return (first + end) >> 1
  const { axis, bin } = best
  const low = axis === 0 ? minX : axis === 1 ? minY : minZ
  const scale = axis === 0 ? scaleX : axis === 1 ? scaleY : scaleZ
  return splitByBin(data, { first, end, axis, lastBin: bin }, { low, scale, count: bins }, box, 3)
}

/** Looks for a better split along an axis. */
function choose(axis: number, bins: number): void {
  const own = boxes[axis]
  const held = counts[axis]
  let count = 0
  emptyAt(sum, 0)
  for (let bin = bins - 1; bin > 0; bin--) {
    if (held[bin] > 0) widen(sum, 0, own, 6 * bin)
    count += held[bin]
    right[bin] = count === 0 ? Infinity : count * halfArea(sum)
  }
  count = 0
  emptyAt(sum, 0)
  for (let bin = 0; bin + 1 < bins; bin++) {
    if (held[bin] === 0) continue
    widen(sum, 0, own, 6 * bin)
    count += held[bin]
    const cost = count * halfArea(sum) + right[bin + 1]
    if (cost < best.cost) {
      best.cost = cost
      best.axis = axis
      best.bin = bin
    }
  }
}

function emptyAt(box: Float64Array, at: number): void {
  box[at] = box[at + 1] = box[at + 2] = Infinity
  box[at + 3] = box[at + 4] = box[at + 5] = -Infinity
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
