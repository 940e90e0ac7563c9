/**
 * A bounding-volume tree over boxes as array and index: min x, y, z, max x, y, z. What goes over the numbers of a box is unrolled for speed.
 */

import type { IntList } from '../../core/state/table.ts'
import { BoundsTree, type EMPTY as NO_LINK, OUTWARD } from '../../core/tree/boundsTree.ts'
import { partition } from './build.ts'
import type * as layout from './layout.ts'

const NODE: typeof layout.NODE = 16
const LINK: typeof layout.LINK = 12
const BITS: typeof layout.BITS = 14
const EMPTY: typeof NO_LINK = -1
const NONE = -1

/** A proxy has gone away from its sibling when it would grow the sibling's bounds by so much of its own area. */
const APART = 2

export class Tree extends BoundsTree {
  constructor() {
    super(6, partition)
  }

  override search(box: Float64Array, at: number, mask: number, out: IntList, stack: IntList): void {
    const { f32, i32 } = this
    const minX = box[at]
    const minY = box[at + 1]
    const minZ = box[at + 2]
    const maxX = box[at + 3]
    const maxY = box[at + 4]
    const maxZ = box[at + 5]
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
        +(f32[(base + 2) | 0] <= maxZ) &
        +(f32[(base + 3) | 0] >= minX) &
        +(f32[(base + 4) | 0] >= minY) &
        +(f32[(base + 5) | 0] >= minZ)
      let hit1 =
        +(f32[(base + 6) | 0] <= maxX) &
        +(f32[(base + 7) | 0] <= maxY) &
        +(f32[(base + 8) | 0] <= maxZ) &
        +(f32[(base + 9) | 0] >= minX) &
        +(f32[(base + 10) | 0] >= minY) &
        +(f32[(base + 11) | 0] >= minZ)
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
    return slotSize(this.f32, (ref >> 1) * NODE + 6 * (ref & 1))
  }

  protected override hasLeftSibling(ref: number, box: Float64Array, from: number): boolean {
    const at = (ref >> 1) * NODE + 6 * (1 - (ref & 1))
    return unionWithBox(this.f32, at, box, from) - slotSize(this.f32, at) > APART * boxSize(box, from)
  }

  protected override setBounds(ref: number, box: Float64Array, from: number): void {
    const { f32 } = this
    const at = (ref >> 1) * NODE + 6 * (ref & 1)
    for (let i = 0; i < 3; i++) {
      const min = box[from + i]
      const max = box[from + 3 + i]
      const margin = OUTWARD * ((min < 0 ? -min : min) + (max < 0 ? -max : max))
      f32[at + i] = min - margin
      f32[at + 3 + i] = max + margin
    }
  }

  protected override updateParent(node: number): boolean {
    const { f32, i32 } = this
    const ref = this.parent[node]
    const base = node * NODE
    const at = (ref >> 1) * NODE + 6 * (ref & 1)
    const bitsAt = (ref >> 1) * NODE + BITS + (ref & 1)
    const bits = i32[base + BITS] | i32[base + BITS + 1]
    const minX = f32[base] < f32[base + 6] ? f32[base] : f32[base + 6]
    const minY = f32[base + 1] < f32[base + 7] ? f32[base + 1] : f32[base + 7]
    const minZ = f32[base + 2] < f32[base + 8] ? f32[base + 2] : f32[base + 8]
    const maxX = f32[base + 3] > f32[base + 9] ? f32[base + 3] : f32[base + 9]
    const maxY = f32[base + 4] > f32[base + 10] ? f32[base + 4] : f32[base + 10]
    const maxZ = f32[base + 5] > f32[base + 11] ? f32[base + 5] : f32[base + 11]
    if (
      f32[at] === minX &&
      f32[at + 1] === minY &&
      f32[at + 2] === minZ &&
      f32[at + 3] === maxX &&
      f32[at + 4] === maxY &&
      f32[at + 5] === maxZ &&
      i32[bitsAt] === bits
    )
      return false
    f32[at] = minX
    f32[at + 1] = minY
    f32[at + 2] = minZ
    f32[at + 3] = maxX
    f32[at + 4] = maxY
    f32[at + 5] = maxZ
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
      const now = slotSize(f32, base + 6 * side)
      const other = base + 6 * (1 - side)
      const minX = f32[other]
      const minY = f32[other + 1]
      const minZ = f32[other + 2]
      const maxX = f32[other + 3]
      const maxY = f32[other + 4]
      const maxZ = f32[other + 5]
      for (let grand = 0; grand < 2; grand++) {
        // The child would hold the other side and the grandchild that stays.
        const at = child * NODE + 6 * (1 - grand)
        const x = (f32[at + 3] > maxX ? f32[at + 3] : maxX) - (f32[at] < minX ? f32[at] : minX)
        const y = (f32[at + 4] > maxY ? f32[at + 4] : maxY) - (f32[at + 1] < minY ? f32[at + 1] : minY)
        const z = (f32[at + 5] > maxZ ? f32[at + 5] : maxZ) - (f32[at + 2] < minZ ? f32[at + 2] : minZ)
        const gain = now - (x * y + y * z + z * x)
        if (gain <= bestGain) continue
        bestGain = gain
        best = 2 * side + grand
      }
    }
    return best
  }

  protected override unionWithBox(ref: number, box: Float64Array, from: number): number {
    return unionWithBox(this.f32, (ref >> 1) * NODE + 6 * (ref & 1), box, from)
  }
}

/** Half the surface of a child's bounds. */
function slotSize(f32: Float32Array, at: number): number {
  const x = f32[at + 3] - f32[at]
  const y = f32[at + 4] - f32[at + 1]
  const z = f32[at + 5] - f32[at + 2]
  return x * y + y * z + z * x
}

function boxSize(box: Float64Array, at: number): number {
  const x = box[at + 3] - box[at]
  const y = box[at + 4] - box[at + 1]
  const z = box[at + 5] - box[at + 2]
  return x * y + y * z + z * x
}

function unionWithBox(f32: Float32Array, at: number, box: Float64Array, from: number): number {
  const x = (f32[at + 3] > box[from + 3] ? f32[at + 3] : box[from + 3]) - (f32[at] < box[from] ? f32[at] : box[from])
  const y =
    (f32[at + 4] > box[from + 4] ? f32[at + 4] : box[from + 4]) -
    (f32[at + 1] < box[from + 1] ? f32[at + 1] : box[from + 1])
  const z =
    (f32[at + 5] > box[from + 5] ? f32[at + 5] : box[from + 5]) -
    (f32[at + 2] < box[from + 2] ? f32[at + 2] : box[from + 2])
  return x * y + y * z + z * x
}
