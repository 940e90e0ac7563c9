/** Makes a tree from the top down: splits ranges of proxies until each is alone. An explicit stack, no recursion. */
import { IntList } from '../state/table.ts'

/** Puts a range of proxies in the order of its best split; returns where the second part begins. */
export type Partition = (proxies: Int32Array, first: number, end: number, box: Float64Array) => number

/** What the builder writes to. */
interface Growing {
  /** A new node below a slot (2 * node + side); returns its number. */
  branch(slot: number): number
  /** Puts a proxy with its box into a slot. */
  place(slot: number, proxy: number): void
}

/** Ranges still to be split: first, end, slot. */
const work = new IntList()

/** @param proxies what is to be in the tree; put in another order */
export function growTree(proxies: IntList, box: Float64Array, partition: Partition, out: Growing): void {
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

/** Puts the proxies of the lower bins first; returns where the others begin. Bins are told from twice the centre of a box. */
export function splitByBin(
  proxies: Int32Array,
  range: { first: number; end: number; axis: number; lastBin: number },
  bins: { low: number; scale: number; count: number },
  box: Float64Array,
  axes: number,
): number {
  const { axis, lastBin } = range
  const { low, scale, count } = bins
  let i = range.first
  let j = range.end - 1
  while (i <= j) {
    const at = 2 * axes * proxies[i] + axis
    if (binOf(box[at] + box[at + axes], low, scale, count) <= lastBin) i++
    else {
      const kept = proxies[i]
      proxies[i] = proxies[j]
      proxies[j] = kept
      j--
    }
  }
  return i
}

export function binOf(twiceCentre: number, low: number, scale: number, count: number): number {
  const bin = ((twiceCentre - low) * scale) | 0
  return bin < 0 ? 0 : bin >= count ? count - 1 : bin
}
