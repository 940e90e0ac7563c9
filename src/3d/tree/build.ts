/**
 * Splits ranges of boxes by the surface-area heuristic: where the sum of area times count of both sides is least, over bins
 * along the three axes (Wald, 2007). An explicit stack, no recursion.
 */
import { IntList } from '../../core/state/table.ts'

/** Bins along an axis, at most; fewer for a range of few, for they are gone through however many boxes there are. */
const BINS = 16
const SOME = 8
const MANY = 32

/** What the builder writes to. */
export interface Growing {
  /** A new node below a slot (2 * node + side); returns its number. */
  branch(slot: number): number
  /** Puts a proxy with its box into a slot. */
  place(slot: number, proxy: number): void
}

/** Ranges still to be split: first, end, slot. */
const work = new IntList()
const counts = new Int32Array(BINS)
/** Bounds of each bin, and from the right the cost of all from it on. */
const boxes = new Float64Array(6 * BINS)
const right = new Float64Array(BINS)
const sum = new Float64Array(6)

/**
 * @param proxies what is to be in the tree; put in another order
 * @param box min x, y, z, max x, y, z of each proxy, at 6 * proxy
 */
export function buildTree(proxies: IntList, box: Float64Array, out: Growing): void {
  const { data } = proxies
  work.clear()
  if (proxies.length === 1) {
    out.place(0, data[0])
    return
  }
  let first = 0
  let end = proxies.length
  let node = 0
  for (;;) {
    const middle = partition(data, first, end, box)
    for (let side = 0; side < 2; side++) {
      const from = side === 0 ? first : middle
      const to = side === 0 ? middle : end
      const slot = 2 * node + side
      if (to - from === 1) out.place(slot, data[from])
      else {
        work.push(from)
        work.push(to)
        work.push(slot)
      }
    }
    if (work.length === 0) return
    const slot = work.pop()
    end = work.pop()
    first = work.pop()
    node = out.branch(slot)
  }
}

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
  let i = first
  let j = end - 1
  while (i <= j) {
    const at = 6 * data[i] + bestAxis
    if (binOf(box[at] + box[at + 3], low, scale, bins) <= bestBin) i++
    else {
      const kept = data[i]
      data[i] = data[j]
      data[j] = kept
      j--
    }
  }
  return i
}

function binOf(twiceCentre: number, low: number, scale: number, bins: number): number {
  const bin = ((twiceCentre - low) * scale) | 0
  return bin < 0 ? 0 : bin >= bins ? bins - 1 : bin
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
