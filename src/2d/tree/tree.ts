/**
 * A bounding-volume tree over boxes as array and index: min x, min y, max x, max y. What goes over the numbers of a box is unrolled for speed.
 */

import type { IntList } from '../../core/state/table.ts'
import { BoundsTree, EMPTY, OUTWARD } from '../../core/tree/boundsTree.ts'
import { partition } from './build.ts'
import type * as layout from './layout.ts'

const NODE: typeof layout.NODE = 12
const LINK: typeof layout.LINK = 8
const BITS: typeof layout.BITS = 10

/** A proxy has gone away from its sibling when it would grow the sibling's bounds by so much of its own perimeter. */
const APART = 2

export class Tree extends BoundsTree {
  constructor() {
    super(4, partition)
  }

  override search(box: Float64Array, at: number, mask: number, out: IntList, stack: IntList): void {
    const { f32, i32 } = this
    const minX = box[at]
    const minY = box[at + 1]
    const maxX = box[at + 2]
    const maxY = box[at + 3]
    const masked = mask !== -1 || this.blank > 0
    stack.reserve(this.nodes + 2)
    const todo = stack.data
    let found = out.data
    let count = out.length
    let height = 1
    todo[0] = 0
    while (height > 0) {
      height = (height - 1) | 0
      const base = (todo[height] * NODE) | 0
      let hit0 =
        +(f32[base] <= maxX) &
        +(f32[(base + 1) | 0] <= maxY) &
        +(f32[(base + 2) | 0] >= minX) &
        +(f32[(base + 3) | 0] >= minY)
      let hit1 =
        +(f32[(base + 4) | 0] <= maxX) &
        +(f32[(base + 5) | 0] <= maxY) &
        +(f32[(base + 6) | 0] >= minX) &
        +(f32[(base + 7) | 0] >= minY)
      if (masked) {
        hit0 &= +((i32[(base + BITS) | 0] & mask) !== 0)
        hit1 &= +((i32[(base + BITS + 1) | 0] & mask) !== 0)
      }
      if (count + 2 > found.length) {
        out.length = count
        out.reserve(count + 2)
        found = out.data
      }
      const link0 = i32[(base + LINK) | 0]
      const link1 = i32[(base + LINK + 1) | 0]
      const leaf0 = link0 >>> 31
      const leaf1 = link1 >>> 31
      found[count] = -2 - link0
      count = (count + (hit0 & leaf0)) | 0
      found[count] = -2 - link1
      count = (count + (hit1 & leaf1)) | 0
      todo[height] = link0
      height = (height + (hit0 & (1 - leaf0))) | 0
      todo[height] = link1
      height = (height + (hit1 & (1 - leaf1))) | 0
    }
    out.length = count
  }

  protected override sizeOf(ref: number): number {
    const { f32 } = this
    const at = (ref >> 1) * NODE + 4 * (ref & 1)
    return f32[at + 2] - f32[at] + f32[at + 3] - f32[at + 1]
  }

  protected override leftSibling(ref: number, box: Float64Array, from: number): boolean {
    const { f32 } = this
    const at = (ref >> 1) * NODE + 4 * (1 - (ref & 1))
    const width = box[from + 2] - box[from]
    const height = box[from + 3] - box[from + 1]
    const right = f32[at + 2] > box[from + 2] ? f32[at + 2] : box[from + 2]
    const left = f32[at] < box[from] ? f32[at] : box[from]
    const top = f32[at + 3] > box[from + 3] ? f32[at + 3] : box[from + 3]
    const bottom = f32[at + 1] < box[from + 1] ? f32[at + 1] : box[from + 1]
    const growth = right - left + top - bottom - (f32[at + 2] - f32[at] + f32[at + 3] - f32[at + 1])
    return growth > APART * (width + height)
  }

  protected override cheapestSlot(box: Float64Array, from: number): number {
    const { f32, i32 } = this
    const minX = box[from]
    const minY = box[from + 1]
    const maxX = box[from + 2]
    const maxY = box[from + 3]
    let node = 0
    for (;;) {
      const base = node * NODE
      let best = 0
      let bestGrowth = Infinity
      let bestUnion = 0
      for (let side = 0; side < 2; side++) {
        const at = base + 4 * side
        const width = (f32[at + 2] > maxX ? f32[at + 2] : maxX) - (f32[at] < minX ? f32[at] : minX)
        const height = (f32[at + 3] > maxY ? f32[at + 3] : maxY) - (f32[at + 1] < minY ? f32[at + 1] : minY)
        const union = width + height
        const growth = i32[base + LINK + side] < 0 ? union : union - (f32[at + 2] - f32[at] + f32[at + 3] - f32[at + 1])
        if (growth >= bestGrowth) continue
        best = side
        bestGrowth = growth
        bestUnion = union
      }
      const link = i32[base + LINK + best]
      if (link < 0) return 2 * node + best
      // Stop above a subtree when pairing with it as a whole is cheaper than growing it and pairing further down.
      const down = link * NODE
      const growth = bestGrowth
      let least = Infinity
      for (let side = 0; side < 2; side++) {
        const at = down + 4 * side
        const width = (f32[at + 2] > maxX ? f32[at + 2] : maxX) - (f32[at] < minX ? f32[at] : minX)
        const height = (f32[at + 3] > maxY ? f32[at + 3] : maxY) - (f32[at + 1] < minY ? f32[at + 1] : minY)
        const own = i32[down + LINK + side] < 0 ? 0 : f32[at + 2] - f32[at] + f32[at + 3] - f32[at + 1]
        const cost = width + height - own
        if (cost < least) least = cost
      }
      if (bestUnion <= growth + least) return 2 * node + best
      node = link
    }
  }

  protected override setBounds(ref: number, box: Float64Array, from: number): void {
    const { f32 } = this
    const minX = box[from]
    const minY = box[from + 1]
    const maxX = box[from + 2]
    const maxY = box[from + 3]
    const at = (ref >> 1) * NODE + 4 * (ref & 1)
    const marginX = OUTWARD * ((minX < 0 ? -minX : minX) + (maxX < 0 ? -maxX : maxX))
    const marginY = OUTWARD * ((minY < 0 ? -minY : minY) + (maxY < 0 ? -maxY : maxY))
    f32[at] = minX - marginX
    f32[at + 1] = minY - marginY
    f32[at + 2] = maxX + marginX
    f32[at + 3] = maxY + marginY
  }

  protected override pull(node: number): boolean {
    const { f32, i32 } = this
    const ref = this.parent[node]
    const base = node * NODE
    const at = (ref >> 1) * NODE + 4 * (ref & 1)
    const bitsAt = (ref >> 1) * NODE + BITS + (ref & 1)
    const minX = f32[base] < f32[base + 4] ? f32[base] : f32[base + 4]
    const minY = f32[base + 1] < f32[base + 5] ? f32[base + 1] : f32[base + 5]
    const maxX = f32[base + 2] > f32[base + 6] ? f32[base + 2] : f32[base + 6]
    const maxY = f32[base + 3] > f32[base + 7] ? f32[base + 3] : f32[base + 7]
    const bits = i32[base + BITS] | i32[base + BITS + 1]
    if (
      f32[at] === minX &&
      f32[at + 1] === minY &&
      f32[at + 2] === maxX &&
      f32[at + 3] === maxY &&
      i32[bitsAt] === bits
    )
      return false
    f32[at] = minX
    f32[at + 1] = minY
    f32[at + 2] = maxX
    f32[at + 3] = maxY
    i32[bitsAt] = bits
    return true
  }

  protected override rotate(node: number): void {
    const { i32 } = this
    const base = node * NODE
    let bestGain = 0
    let bestSide = 0
    let bestGrand = 0
    for (let side = 0; side < 2; side++) {
      const child = i32[base + LINK + side]
      if (child < 0 || i32[base + LINK + (1 - side)] === EMPTY) continue
      const now = this.sizeOf(2 * node + side)
      for (let grand = 0; grand < 2; grand++) {
        // The child would hold the other side and the grandchild that stays.
        const gain = now - this.unionPerimeter(2 * node + 1 - side, 2 * child + 1 - grand)
        if (gain <= bestGain) continue
        bestGain = gain
        bestSide = side
        bestGrand = grand
      }
    }
    if (bestGain <= 0) return
    const child = i32[base + LINK + bestSide]
    this.swapSlots(2 * node + 1 - bestSide, 2 * child + bestGrand)
    const { f32 } = this
    const at = base + 4 * bestSide
    const down = child * NODE
    f32[at] = f32[down] < f32[down + 4] ? f32[down] : f32[down + 4]
    f32[at + 1] = f32[down + 1] < f32[down + 5] ? f32[down + 1] : f32[down + 5]
    f32[at + 2] = f32[down + 2] > f32[down + 6] ? f32[down + 2] : f32[down + 6]
    f32[at + 3] = f32[down + 3] > f32[down + 7] ? f32[down + 3] : f32[down + 7]
    i32[base + BITS + bestSide] = i32[down + BITS] | i32[down + BITS + 1]
  }

  private swapSlots(one: number, other: number): void {
    const { f32, i32 } = this
    const nodeA = (one >> 1) * NODE
    const nodeB = (other >> 1) * NODE
    const a = nodeA + 4 * (one & 1)
    const b = nodeB + 4 * (other & 1)
    for (let i = 0; i < 4; i++) {
      const kept = f32[a + i]
      f32[a + i] = f32[b + i]
      f32[b + i] = kept
    }
    const bits = i32[nodeA + BITS + (one & 1)]
    i32[nodeA + BITS + (one & 1)] = i32[nodeB + BITS + (other & 1)]
    i32[nodeB + BITS + (other & 1)] = bits
    const link = i32[nodeA + LINK + (one & 1)]
    this.setLink(one, i32[nodeB + LINK + (other & 1)])
    this.setLink(other, link)
  }

  private unionPerimeter(one: number, other: number): number {
    const { f32 } = this
    const a = (one >> 1) * NODE + 4 * (one & 1)
    const b = (other >> 1) * NODE + 4 * (other & 1)
    return (
      (f32[a + 2] > f32[b + 2] ? f32[a + 2] : f32[b + 2]) -
      (f32[a] < f32[b] ? f32[a] : f32[b]) +
      (f32[a + 3] > f32[b + 3] ? f32[a + 3] : f32[b + 3]) -
      (f32[a + 1] < f32[b + 1] ? f32[a + 1] : f32[b + 1])
    )
  }
}
