/**
 * A bounding-volume tree over proxies (small whole numbers). A node holds the bounds of both its children as 32-bit
 * floats rounded outward, their links, and the OR of the layer bits below each, so that a walk reads one place in
 * memory to decide on two subtrees and a masked query prunes whole branches.
 *
 * Boxes come as array and index: min x, y, z, max x, y, z.
 *
 * Inserts look for the cheapest place by surface area; every change refits upwards and rotates where that shrinks the
 * area below (Kopta et al., 2012). Walks live with the queries: they read `f32` and `i32` in place.
 */
import { IntList } from '../../core/state/table.ts'
import { buildTree, type Growing } from './build.ts'
import type * as words from './layout.ts'

const NODE: typeof words.NODE = 16
const LINK: typeof words.LINK = 12
const BITS: typeof words.BITS = 14
const EMPTY: typeof words.EMPTY = -1
const OUTWARD: typeof words.OUTWARD = 1.2e-7

const NONE = -1
/** A proxy has gone away from its sibling when it would grow the sibling's bounds by so much of its own area. */
const APART = 3

/** Moves a proxy, on the average, after which a tree is worn. */
const WORN = 16

const NO_BOXES = new Float64Array(0)

export class Tree implements Growing {
  f32: Float32Array
  i32: Int32Array
  /** Number of proxies. */
  count = 0
  /** Proxies without any bit: while there are none, a walk that asks for every bit need not look at bits. */
  blank = 0
  /** Slots of nodes in use or free: no walk holds more than this many on its stack. */
  nodes = 1
  private wear = 0
  /** Boxes and bits of a build under way. */
  private source: Float64Array = NO_BOXES
  private bitsOf: (proxy: number) => number = () => 0
  private parent = new Int32Array(16)
  private leaf = new Int32Array(16).fill(NONE)
  private readonly free = new IntList()

  constructor() {
    const buffer = new ArrayBuffer(16 * NODE * 4)
    this.f32 = new Float32Array(buffer)
    this.i32 = new Int32Array(buffer)
    this.clearNode(0)
    this.parent[0] = NONE
  }

  /** Whether it has been moved about so much since it was built that building it anew pays. */
  get worn(): boolean {
    return this.count > 64 && this.wear > WORN * this.count
  }

  insert(proxy: number, box: Float64Array, at: number, bits: number): void {
    this.reserve(proxy)
    this.count++
    if (bits === 0) this.blank++
    let ref = this.emptyRootSlot()
    if (ref === NONE) ref = this.split(this.cheapestSlot(box, at))
    this.setBounds(ref, box, at)
    this.setLink(ref, -2 - proxy)
    this.i32[(ref >> 1) * NODE + BITS + (ref & 1)] = bits
    this.refit(ref >> 1)
  }

  remove(proxy: number): void {
    const ref = this.leaf[proxy]
    this.leaf[proxy] = NONE
    this.count--
    const node = ref >> 1
    if (this.i32[node * NODE + BITS + (ref & 1)] === 0) this.blank--
    const sibling = ref ^ 1
    if (node !== 0) {
      const up = this.parent[node]
      this.copySlot(sibling, up)
      this.free.push(node)
      this.refit(up >> 1)
      return
    }
    const link = this.i32[LINK + (sibling & 1)]
    if (link >= 0) {
      this.copySlot(2 * link, 0)
      this.copySlot(2 * link + 1, 1)
      this.free.push(link)
    } else this.clearSlot(ref)
  }

  /**
   * New bounds for a proxy. In place where it stayed by its sibling, which is cheapest; where it went away from it, it is
   * put in anew, or the tree would get worse from tick to tick.
   */
  move(proxy: number, box: Float64Array, from: number): void {
    this.wear++
    const ref = this.leaf[proxy]
    const node = ref >> 1
    const { f32 } = this
    if (node !== 0) {
      const at = node * NODE + 6 * (1 - (ref & 1))
      if (unionWithBox(f32, at, box, from) - slotArea(f32, at) > APART * boxArea(box, from)) {
        const bits = this.i32[node * NODE + BITS + (ref & 1)]
        this.remove(proxy)
        this.insert(proxy, box, from, bits)
        return
      }
    }
    this.setBounds(ref, box, from)
    this.refit(node)
  }

  /**
   * Makes the tree anew from these proxies, in bulk.
   * @param box the box of each proxy, at 6 * proxy
   * @param bitsOf layer bits of a proxy
   */
  build(proxies: IntList, box: Float64Array, bitsOf: (proxy: number) => number): void {
    this.wear = 0
    this.blank = 0
    this.leaf.fill(NONE)
    this.free.clear()
    this.nodes = 1
    this.count = proxies.length
    this.clearNode(0)
    if (proxies.length === 0) return
    this.source = box
    this.bitsOf = bitsOf
    buildTree(proxies, box, this)
    // Children have higher numbers than their parents: from the last node to the first, bounds and bits go up.
    for (let node = this.nodes - 1; node > 0; node--) this.pull(node)
  }

  /** Calls every proxy by a new number. */
  renumber(by: Int32Array): void {
    const { i32 } = this
    this.leaf.fill(NONE)
    for (let slot = 0; slot < 2 * this.nodes; slot++) {
      const link = i32[(slot >> 1) * NODE + LINK + (slot & 1)]
      if (link < EMPTY) this.setLink(slot, -2 - by[-2 - link])
    }
  }

  /** For the builder: a new node below a slot. @internal */
  branch(slot: number): number {
    const node = this.claimNode()
    this.setLink(slot, node)
    return node
  }

  /** For the builder: a proxy in a slot. @internal */
  place(slot: number, proxy: number): void {
    this.reserve(proxy)
    this.setBounds(slot, this.source, 6 * proxy)
    this.setLink(slot, -2 - proxy)
    const bits = this.bitsOf(proxy)
    if (bits === 0) this.blank++
    this.i32[(slot >> 1) * NODE + BITS + (slot & 1)] = bits
  }

  /** New layer bits for a proxy. */
  setBits(proxy: number, bits: number): void {
    const { i32, parent } = this
    let ref = this.leaf[proxy]
    const before = this.i32[(ref >> 1) * NODE + BITS + (ref & 1)]
    if (before === 0 && bits !== 0) this.blank--
    if (before !== 0 && bits === 0) this.blank++
    for (;;) {
      const at = (ref >> 1) * NODE + BITS + (ref & 1)
      if (i32[at] === bits) return
      i32[at] = bits
      const node = ref >> 1
      if (node === 0) return
      bits = i32[node * NODE + BITS] | i32[node * NODE + BITS + 1]
      ref = parent[node]
    }
  }

  /**
   * Appends to `out` every proxy with one of the bits in `mask` whose bounds meet the box at `box[at]`. Whether a child is
   * met cannot be foretold, so nothing branches on it: both children are written behind the ends of the lists, and the
   * ends move on by 0 or 1.
   */
  search(box: Float64Array, at: number, mask: number, out: IntList, stack: IntList): void {
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

  /** Appends to `out` every proxy with one of the bits in `mask`. */
  all(mask: number, out: IntList, stack: IntList): void {
    const { i32 } = this
    const bottom = stack.length
    stack.push(0)
    while (stack.length > bottom) {
      const base = stack.pop() * NODE
      for (let side = 0; side < 2; side++) {
        if ((i32[base + BITS + side] & mask) === 0) continue
        const link = i32[base + LINK + side]
        if (link >= 0) stack.push(link)
        else out.push(-2 - link)
      }
    }
  }

  /** Depth of the deepest leaf and the sum of all inner areas: how good the tree is. Cold. */
  quality(): { depth: number; cost: number } {
    let depth = 0
    let cost = 0
    const walk: [number, number][] = [[0, 1]]
    for (let top = walk.pop(); top !== undefined; top = walk.pop()) {
      const [node, level] = top
      if (level > depth) depth = level
      for (let side = 0; side < 2; side++) {
        const link = this.i32[node * NODE + LINK + side]
        if (link < 0) continue
        cost += slotArea(this.f32, node * NODE + 6 * side)
        walk.push([link, level + 1])
      }
    }
    return { depth, cost }
  }

  private emptyRootSlot(): number {
    if (this.i32[LINK] === EMPTY) return 0
    return this.i32[LINK + 1] === EMPTY ? 1 : NONE
  }

  /** The slot next to which a new leaf adds the least area, found greedily from the root. */
  private cheapestSlot(box: Float64Array, from: number): number {
    const { f32, i32 } = this
    let node = 0
    for (;;) {
      const base = node * NODE
      let best = 0
      let bestGrowth = Infinity
      let bestUnion = 0
      for (let side = 0; side < 2; side++) {
        const at = base + 6 * side
        const union = unionWithBox(f32, at, box, from)
        const growth = i32[base + LINK + side] < 0 ? union : union - slotArea(f32, at)
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
        const at = down + 6 * side
        const own = i32[down + LINK + side] < 0 ? 0 : slotArea(f32, at)
        const cost = unionWithBox(f32, at, box, from) - own
        if (cost < least) least = cost
      }
      if (bestUnion <= growth + least) return 2 * node + best
      node = link
    }
  }

  /** Puts a new node in a slot, with what was there as its first child; returns the slot of the second. */
  private split(ref: number): number {
    const node = this.claimNode()
    this.copySlot(ref, 2 * node)
    this.setLink(ref, node)
    return 2 * node + 1
  }

  /** Recomputes bounds and bits from a node upwards, rotating on the way, as long as something changes. */
  private refit(node: number): void {
    const { parent } = this
    while (node !== 0) {
      this.rotate(node)
      if (!this.pull(node)) return
      node = parent[node] >> 1
    }
    this.rotate(0)
  }

  /** Takes bounds and bits of a node's children over into the slot above it; whether they were others before. */
  private pull(node: number): boolean {
    const { f32, i32 } = this
    const ref = this.parent[node]
    const base = node * NODE
    const at = (ref >> 1) * NODE + 6 * (ref & 1)
    const bitsAt = (ref >> 1) * NODE + BITS + (ref & 1)
    const bits = i32[base + BITS] | i32[base + BITS + 1]
    let changed = i32[bitsAt] !== bits
    for (let i = 0; i < 6; i++) {
      const one = f32[base + i]
      const other = f32[base + 6 + i]
      const bound = i < 3 ? (one < other ? one : other) : one > other ? one : other
      if (f32[at + i] === bound) continue
      f32[at + i] = bound
      changed = true
    }
    if (!changed) return false
    i32[bitsAt] = bits
    return true
  }

  /** Swaps a child with a grandchild on the other side where that makes the other child's area smallest. */
  private rotate(node: number): void {
    const { i32 } = this
    const base = node * NODE
    let bestGain = 0
    let bestSide = 0
    let bestGrand = 0
    for (let side = 0; side < 2; side++) {
      const child = i32[base + LINK + side]
      if (child < 0 || i32[base + LINK + (1 - side)] === EMPTY) continue
      const now = slotArea(this.f32, base + 6 * side)
      for (let grand = 0; grand < 2; grand++) {
        // The child would hold the other side and the grandchild that stays.
        const gain = now - unionOfSlots(this.f32, base + 6 - 6 * side, child * NODE + 6 - 6 * grand)
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
    const at = base + 6 * bestSide
    const down = child * NODE
    for (let i = 0; i < 3; i++) {
      f32[at + i] = f32[down + i] < f32[down + 6 + i] ? f32[down + i] : f32[down + 6 + i]
      f32[at + 3 + i] = f32[down + 3 + i] > f32[down + 9 + i] ? f32[down + 3 + i] : f32[down + 9 + i]
    }
    i32[base + BITS + bestSide] = i32[down + BITS] | i32[down + BITS + 1]
  }

  private setBounds(ref: number, box: Float64Array, from: number): void {
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

  /** Writes a link and the way back from what it leads to. */
  private setLink(ref: number, link: number): void {
    this.i32[(ref >> 1) * NODE + LINK + (ref & 1)] = link
    if (link >= 0) this.parent[link] = ref
    else if (link !== EMPTY) this.leaf[-2 - link] = ref
  }

  private copySlot(from: number, to: number): void {
    const { f32, i32 } = this
    const source = (from >> 1) * NODE
    const target = (to >> 1) * NODE
    for (let i = 0; i < 6; i++) f32[target + 6 * (to & 1) + i] = f32[source + 6 * (from & 1) + i]
    i32[target + BITS + (to & 1)] = i32[source + BITS + (from & 1)]
    this.setLink(to, i32[source + LINK + (from & 1)])
  }

  private swapSlots(one: number, other: number): void {
    const { f32, i32 } = this
    const a = (one >> 1) * NODE
    const b = (other >> 1) * NODE
    for (let i = 0; i < 6; i++) {
      const kept = f32[a + 6 * (one & 1) + i]
      f32[a + 6 * (one & 1) + i] = f32[b + 6 * (other & 1) + i]
      f32[b + 6 * (other & 1) + i] = kept
    }
    const bits = i32[a + BITS + (one & 1)]
    i32[a + BITS + (one & 1)] = i32[b + BITS + (other & 1)]
    i32[b + BITS + (other & 1)] = bits
    const link = i32[a + LINK + (one & 1)]
    this.setLink(one, i32[b + LINK + (other & 1)])
    this.setLink(other, link)
  }

  private clearSlot(ref: number): void {
    const at = (ref >> 1) * NODE
    for (let i = 0; i < 6; i++) this.f32[at + 6 * (ref & 1) + i] = i < 3 ? Infinity : -Infinity
    this.i32[at + LINK + (ref & 1)] = EMPTY
    this.i32[at + BITS + (ref & 1)] = 0
  }

  private clearNode(node: number): void {
    this.clearSlot(2 * node)
    this.clearSlot(2 * node + 1)
  }

  private claimNode(): number {
    const reused = this.free.length > 0 ? this.free.pop() : this.nodes++
    if (reused >= this.parent.length) {
      const size = 2 * this.parent.length
      const buffer = new ArrayBuffer(size * NODE * 4)
      const words = new Int32Array(buffer)
      words.set(this.i32)
      this.i32 = words
      this.f32 = new Float32Array(buffer)
      const parent = new Int32Array(size)
      parent.set(this.parent)
      this.parent = parent
    }
    return reused
  }

  private reserve(proxy: number): void {
    if (proxy < this.leaf.length) return
    const wider = new Int32Array(Math.max(2 * this.leaf.length, proxy + 1)).fill(NONE)
    wider.set(this.leaf)
    this.leaf = wider
  }
}

/** Half the surface of a child's bounds. */
function slotArea(f32: Float32Array, at: number): number {
  const x = f32[at + 3] - f32[at]
  const y = f32[at + 4] - f32[at + 1]
  const z = f32[at + 5] - f32[at + 2]
  return x * y + y * z + z * x
}

function boxArea(box: Float64Array, at: number): number {
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

function unionOfSlots(f32: Float32Array, a: number, b: number): number {
  const x = (f32[a + 3] > f32[b + 3] ? f32[a + 3] : f32[b + 3]) - (f32[a] < f32[b] ? f32[a] : f32[b])
  const y = (f32[a + 4] > f32[b + 4] ? f32[a + 4] : f32[b + 4]) - (f32[a + 1] < f32[b + 1] ? f32[a + 1] : f32[b + 1])
  const z = (f32[a + 5] > f32[b + 5] ? f32[a + 5] : f32[b + 5]) - (f32[a + 2] < f32[b + 2] ? f32[a + 2] : f32[b + 2])
  return x * y + y * z + z * x
}
