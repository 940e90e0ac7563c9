/**
 * A bounding-volume tree over proxies (small whole numbers), as far as it knows no dimension. A node holds the bounds of both its
 * children as 32-bit floats rounded outward, their links, and the OR of the layer bits below each, so that a walk reads one place in
 * memory to decide on two subtrees and a masked query prunes whole branches. A slot is a side of a node: 2 * node + side.
 *
 * Every change refits upwards and rotates where that shrinks the bounds below (Kopta et al., 2012). A dimension brings what goes over
 * bounds: how large they are, the best place for a new leaf, and the search. Walks read `f32` and `i32` in place.
 */
import { Restorer, type StateVisitor } from '../save/state.ts'
import { IntList } from '../state/table.ts'
import { growTree, type Partition } from './grow.ts'

/** A link that leads nowhere. Links from 0 are nodes; those below -1 are leaves of the proxy -2 - link. */
export const EMPTY = -1
/** More than the rounding of a double to a float, relative to the larger bound. */
export const OUTWARD = 1.2e-7

const NONE = -1
/** Moves of a proxy, on the average, after which a tree is worn. */
const WORN = 16
/** A tree as small as that is never worn. */
const SMALL = 64

const NO_BOXES = new Float64Array(0)

export abstract class BoundsTree {
  f32: Float32Array
  i32: Int32Array
  /** Number of proxies. */
  count = 0
  /** Proxies without any bit: while there are none, a walk that asks for every bit need not look at bits. */
  blank = 0
  /** Slots of nodes in use or free: no walk holds more than this many on its stack. */
  nodes = 1
  /** Changes since it was made: whoever keeps something of it knows by that when it is out of date. No part of the state. */
  edits = 0
  protected parent = new Int32Array(16)
  protected leaf = new Int32Array(16).fill(NONE)
  /** Numbers of a box, then where in a node the links and the bits stand, and how long it is. */
  readonly boxSize: number
  readonly link: number
  private readonly bits: number
  readonly stride: number
  private readonly partition: Partition
  private moves = 0
  /** Boxes and bits of a build under way. */
  private source: Float64Array = NO_BOXES
  private bitsOf: (proxy: number) => number = () => 0
  private readonly free = new IntList()

  /**
   * @param boxSize numbers of a box: the least coordinates, then the greatest
   * @param partition puts a range of proxies in the order of its best split
   */
  constructor(boxSize: number, partition: Partition) {
    this.boxSize = boxSize
    this.link = 2 * boxSize
    this.bits = this.link + 2
    this.stride = this.bits + 2
    this.partition = partition
    const buffer = new ArrayBuffer(16 * this.stride * 4)
    this.f32 = new Float32Array(buffer)
    this.i32 = new Int32Array(buffer)
    this.clearNode(0)
    this.parent[0] = NONE
  }

  /** Whether it has been moved about so much since it was built that rebuilding it pays. */
  get worn(): boolean {
    return this.count > SMALL && this.moves > WORN * this.count
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    if (v instanceof Restorer) this.edits++
    this.count = v.number(this.count)
    this.blank = v.number(this.blank)
    this.nodes = v.number(this.nodes)
    this.moves = v.number(this.moves)
    this.i32 = v.numbers(this.i32)
    if (this.f32.buffer !== this.i32.buffer) this.f32 = new Float32Array(this.i32.buffer as ArrayBuffer)
    this.parent = v.numbers(this.parent)
    this.leaf = v.numbers(this.leaf)
    this.free.visit(v)
  }

  insert(proxy: number, box: Float64Array, at: number, bits: number): void {
    this.edits++
    this.reserve(proxy)
    this.count++
    if (bits === 0) this.blank++
    let ref = this.emptyRootSlot()
    if (ref === NONE) ref = this.split(this.cheapestSlot(box, at))
    this.setBounds(ref, box, at)
    this.setLink(ref, -2 - proxy)
    this.i32[(ref >> 1) * this.stride + this.bits + (ref & 1)] = bits
    this.refit(ref >> 1)
  }

  remove(proxy: number): void {
    this.edits++
    const ref = this.leaf[proxy]
    this.leaf[proxy] = NONE
    this.count--
    const node = ref >> 1
    if (this.i32[node * this.stride + this.bits + (ref & 1)] === 0) this.blank--
    const sibling = ref ^ 1
    if (node !== 0) {
      const up = this.parent[node]
      this.copySlot(sibling, up)
      this.free.push(node)
      this.refit(up >> 1)
      return
    }
    const link = this.i32[this.link + (sibling & 1)]
    if (link >= 0) {
      this.copySlot(2 * link, 0)
      this.copySlot(2 * link + 1, 1)
      this.free.push(link)
    } else this.clearSlot(ref)
  }

  /**
   * New bounds for a proxy. In place where it stayed by its sibling, which is cheapest; where it went away from it, it is
   * inserted again, or the tree would get worse from tick to tick.
   */
  move(proxy: number, box: Float64Array, from: number): void {
    this.edits++
    this.moves++
    const ref = this.leaf[proxy]
    const node = ref >> 1
    if (node !== 0 && this.hasLeftSibling(ref, box, from)) {
      const bits = this.i32[node * this.stride + this.bits + (ref & 1)]
      this.remove(proxy)
      this.insert(proxy, box, from, bits)
      return
    }
    this.setBounds(ref, box, from)
    this.refit(node)
  }

  /**
   * Rebuilds the tree from these proxies, in bulk. Puts them in the order of the tree.
   * @param box the box of each proxy, at its number times the size of a box
   * @param bitsOf layer bits of a proxy
   */
  build(proxies: IntList, box: Float64Array, bitsOf: (proxy: number) => number): void {
    this.edits++
    this.moves = 0
    this.blank = 0
    this.leaf.fill(NONE)
    this.free.clear()
    this.nodes = 1
    this.count = proxies.length
    this.clearNode(0)
    if (proxies.length === 0) return
    this.source = box
    this.bitsOf = bitsOf
    growTree(proxies, box, this.partition, this)
    // Children have higher numbers than their parents: from the last node to the first, bounds and bits go up.
    for (let node = this.nodes - 1; node > 0; node--) this.updateParent(node)
  }

  /** Calls every proxy by a new number. */
  renumber(by: Int32Array): void {
    this.edits++
    this.leaf.fill(NONE)
    for (let slot = 0; slot < 2 * this.nodes; slot++) {
      const link = this.i32[(slot >> 1) * this.stride + this.link + (slot & 1)]
      if (link < EMPTY) this.setLink(slot, -2 - by[-2 - link])
    }
  }

  /** For the builder: a new node below a slot; returns its number. @internal */
  branch(slot: number): number {
    const node = this.claimNode()
    this.setLink(slot, node)
    return node
  }

  /** For the builder: a proxy with its box in a slot. @internal */
  place(slot: number, proxy: number): void {
    this.reserve(proxy)
    this.setBounds(slot, this.source, this.boxSize * proxy)
    this.setLink(slot, -2 - proxy)
    const bits = this.bitsOf(proxy)
    if (bits === 0) this.blank++
    this.i32[(slot >> 1) * this.stride + this.bits + (slot & 1)] = bits
  }

  /** New layer bits for a proxy. */
  setBits(proxy: number, bits: number): void {
    this.edits++
    const { i32, parent, stride, bits: bitsAt } = this
    let ref = this.leaf[proxy]
    const before = i32[(ref >> 1) * stride + bitsAt + (ref & 1)]
    if (before === 0 && bits !== 0) this.blank--
    if (before !== 0 && bits === 0) this.blank++
    for (;;) {
      const at = (ref >> 1) * stride + bitsAt + (ref & 1)
      if (i32[at] === bits) return
      i32[at] = bits
      const node = ref >> 1
      if (node === 0) return
      bits = i32[node * stride + bitsAt] | i32[node * stride + bitsAt + 1]
      ref = parent[node]
    }
  }

  /** Appends to `out` every proxy with one of the bits in `mask`. */
  all(mask: number, out: IntList, stack: IntList): void {
    const { i32 } = this
    const bottom = stack.length
    stack.push(0)
    while (stack.length > bottom) {
      const base = stack.pop() * this.stride
      for (let side = 0; side < 2; side++) {
        if ((i32[base + this.bits + side] & mask) === 0) continue
        const link = i32[base + this.link + side]
        if (link >= 0) stack.push(link)
        else out.push(-2 - link)
      }
    }
  }

  /**
   * Appends to `out` every proxy with one of the bits in `mask` whose bounds meet the box at `box[at]`. Whether a child is
   * met cannot be predicted, so nothing branches on it: both children are written behind the ends of the lists, and the
   * ends move on by 0 or 1.
   */
  abstract search(box: Float64Array, at: number, mask: number, out: IntList, stack: IntList): void

  /** Half the surface of the bounds in a slot; in 2D half the perimeter. */
  protected abstract sizeOf(ref: number): number

  /**
   * Which rotation at a node shrinks the bounds of a child the most: the side of that child, times two, and which of its children
   * goes to the other side. Negative where none does.
   */
  protected abstract bestRotation(node: number): number

  /** The same of the bounds that hold those of a slot and a box. */
  protected abstract unionWithBox(ref: number, box: Float64Array, from: number): number

  /** Whether a leaf that gets new bounds goes away from its sibling. */
  protected abstract hasLeftSibling(ref: number, box: Float64Array, from: number): boolean

  protected abstract setBounds(ref: number, box: Float64Array, from: number): void

  /** Takes bounds and bits of a node's children over into the slot above it; whether they were others before. */
  protected abstract updateParent(node: number): boolean

  /** The slot next to which a new leaf adds the least to the bounds, found greedily from the root. */
  private cheapestSlot(box: Float64Array, from: number): number {
    const { i32, stride, link: linkAt } = this
    let node = 0
    for (;;) {
      let best = 0
      let bestGrowth = Infinity
      let bestUnion = 0
      for (let side = 0; side < 2; side++) {
        const ref = 2 * node + side
        const union = this.unionWithBox(ref, box, from)
        const growth = i32[node * stride + linkAt + side] < 0 ? union : union - this.sizeOf(ref)
        if (growth >= bestGrowth) continue
        best = side
        bestGrowth = growth
        bestUnion = union
      }
      const link = i32[node * stride + linkAt + best]
      if (link < 0) return 2 * node + best
      // Stop above a subtree when pairing with it as a whole is cheaper than growing it and pairing further down.
      let least = Infinity
      for (let side = 0; side < 2; side++) {
        const ref = 2 * link + side
        const own = i32[link * stride + linkAt + side] < 0 ? 0 : this.sizeOf(ref)
        const cost = this.unionWithBox(ref, box, from) - own
        if (cost < least) least = cost
      }
      if (bestUnion <= bestGrowth + least) return 2 * node + best
      node = link
    }
  }

  /** Swaps a child with a grandchild on the other side where that shrinks the bounds of the other child the most. */
  private rotate(node: number): void {
    const best = this.bestRotation(node)
    if (best < 0) return
    const side = best >> 1
    const child = this.i32[node * this.stride + this.link + side]
    this.swapSlots(2 * node + 1 - side, 2 * child + (best & 1))
    this.updateParent(child)
  }

  private emptyRootSlot(): number {
    if (this.i32[this.link] === EMPTY) return 0
    return this.i32[this.link + 1] === EMPTY ? 1 : NONE
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
      if (!this.updateParent(node)) return
      node = parent[node] >> 1
    }
    this.rotate(0)
  }

  private swapSlots(one: number, other: number): void {
    const { f32, i32, boxSize, stride, bits: bitsAt, link: linkAt } = this
    const nodeA = (one >> 1) * stride
    const nodeB = (other >> 1) * stride
    const a = nodeA + boxSize * (one & 1)
    const b = nodeB + boxSize * (other & 1)
    for (let i = 0; i < boxSize; i++) {
      const kept = f32[a + i]
      f32[a + i] = f32[b + i]
      f32[b + i] = kept
    }
    const bits = i32[nodeA + bitsAt + (one & 1)]
    i32[nodeA + bitsAt + (one & 1)] = i32[nodeB + bitsAt + (other & 1)]
    i32[nodeB + bitsAt + (other & 1)] = bits
    const link = i32[nodeA + linkAt + (one & 1)]
    this.setLink(one, i32[nodeB + linkAt + (other & 1)])
    this.setLink(other, link)
  }

  private copySlot(from: number, to: number): void {
    const { f32, i32, boxSize, stride, bits } = this
    const source = (from >> 1) * stride
    const target = (to >> 1) * stride
    for (let i = 0; i < boxSize; i++) f32[target + boxSize * (to & 1) + i] = f32[source + boxSize * (from & 1) + i]
    i32[target + bits + (to & 1)] = i32[source + bits + (from & 1)]
    this.setLink(to, i32[source + this.link + (from & 1)])
  }

  /** Writes a link and the way back from what it leads to. */
  private setLink(ref: number, link: number): void {
    this.i32[(ref >> 1) * this.stride + this.link + (ref & 1)] = link
    if (link >= 0) this.parent[link] = ref
    else if (link !== EMPTY) this.leaf[-2 - link] = ref
  }

  private clearSlot(ref: number): void {
    const { boxSize } = this
    const at = (ref >> 1) * this.stride
    for (let i = 0; i < boxSize; i++) this.f32[at + boxSize * (ref & 1) + i] = 2 * i < boxSize ? Infinity : -Infinity
    this.i32[at + this.link + (ref & 1)] = EMPTY
    this.i32[at + this.bits + (ref & 1)] = 0
  }

  private clearNode(node: number): void {
    this.clearSlot(2 * node)
    this.clearSlot(2 * node + 1)
  }

  private claimNode(): number {
    const claimed = this.free.length > 0 ? this.free.pop() : this.nodes++
    if (claimed >= this.parent.length) {
      const size = 2 * this.parent.length
      const buffer = new ArrayBuffer(size * this.stride * 4)
      const words = new Int32Array(buffer)
      words.set(this.i32)
      this.i32 = words
      this.f32 = new Float32Array(buffer)
      const parent = new Int32Array(size)
      parent.set(this.parent)
      this.parent = parent
    }
    return claimed
  }

  private reserve(proxy: number): void {
    if (proxy < this.leaf.length) return
    const wider = new Int32Array(Math.max(2 * this.leaf.length, proxy + 1)).fill(NONE)
    wider.set(this.leaf)
    this.leaf = wider
  }
}
