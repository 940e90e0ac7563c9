/**
 * A bounding-volume tree over boxes as array and index: min x, min y, max x, max y. What goes over the numbers of a box is unrolled for speed.
 */

import type { IntList } from '../../core/state/table.ts'
import { BoundsTree, type EMPTY as NO_LINK, OUTWARD } from '../../core/tree/boundsTree.ts'
import { partition } from './build.ts'
import type * as layout from './layout.ts'

const NODE: typeof layout.NODE = 12
const LINK: typeof layout.LINK = 8
const BITS: typeof layout.BITS = 10
const EMPTY: typeof NO_LINK = -1
const NONE = -1

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
    return slotSize(this.f32, (ref >> 1) * NODE + 4 * (ref & 1))
  }

  protected override hasLeftSibling(ref: number, box: Float64Array, from: number): boolean {
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

  protected override updateParent(node: number): boolean {
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

  protected override bestRotation(node: number): number {
    const { f32, i32 } = this
    const base = node * NODE
    let bestGain = 0
    let best = NONE
    for (let side = 0; side < 2; side++) {
      const child = i32[base + LINK + side]
      if (child < 0 || i32[base + LINK + (1 - side)] === EMPTY) continue
      const now = slotSize(f32, base + 4 * side)
      const other = base + 4 * (1 - side)
      const down = child * NODE
      for (let grand = 0; grand < 2; grand++) {
        // The child would hold the other side and the grandchild that stays.
        const gain = now - unionSize(f32, other, down + 4 * (1 - grand))
        if (gain <= bestGain) continue
        bestGain = gain
        best = 2 * side + grand
      }
    }
    return best
  }

  protected override unionWithBox(ref: number, box: Float64Array, from: number): number {
    const { f32 } = this
    const at = (ref >> 1) * NODE + 4 * (ref & 1)
    const width =
      (f32[at + 2] > box[from + 2] ? f32[at + 2] : box[from + 2]) - (f32[at] < box[from] ? f32[at] : box[from])
    const height =
      (f32[at + 3] > box[from + 3] ? f32[at + 3] : box[from + 3]) -
      (f32[at + 1] < box[from + 1] ? f32[at + 1] : box[from + 1])
    return width + height
  }
}

/** Half the perimeter of a child's bounds. */
function slotSize(f32: Float32Array, at: number): number {
  return f32[at + 2] - f32[at] + f32[at + 3] - f32[at + 1]
}

function unionSize(f32: Float32Array, a: number, b: number): number {
  return (
    (f32[a + 2] > f32[b + 2] ? f32[a + 2] : f32[b + 2]) -
    (f32[a] < f32[b] ? f32[a] : f32[b]) +
    (f32[a + 3] > f32[b + 3] ? f32[a + 3] : f32[b + 3]) -
    (f32[a + 1] < f32[b + 1] ? f32[a + 1] : f32[b + 1])
  )
}
