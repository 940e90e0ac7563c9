/**
 * Builds the tree of a surface: by surface area for what is asked often, or by sorting along a curve through space (Morton
 * codes; Lauterbach et al., 2009), several times faster to build and a little slower to ask. No recursion. Every triangle is of
 * every layer: what its collider is, the world has asked.
 */
import { IntList } from '../../core/state/table.ts'
import { EMPTY, OUTWARD } from '../../core/tree/boundsTree.ts'
import { partition } from '../tree/build.ts'
import { BITS, LINK, NODE } from '../tree/layout.ts'

/** Triangles a leaf holds at most. */
const LEAF = 6
const CODE_BITS = 10
/** Part of the greatest coordinate by which all bounds are wider: a touch must not be lost to rounding where they are flat. */
const SLACK = 1e-9

export interface Nodes {
  /** The triangles in the order of the leaves. */
  readonly order: Int32Array
  /** Nodes: see tree/layout.ts. */
  readonly words: Int32Array
  readonly nodes: number
  readonly depth: number
}

/** @param boxes min x, y, z, max x, y, z of each triangle */
export function buildNodes(boxes: Float64Array, count: number, bounds: readonly number[], quality: boolean): Nodes {
  const order = Int32Array.from({ length: count }, (_, i) => i)
  const codes = quality ? null : sortByCode(order, boxes, bounds)
  const slack = SLACK * bounds.reduce((most, bound) => Math.max(most, Math.abs(bound)), 0)
  const words = new Int32Array(NODE * Math.max(1, count))
  const f32 = new Float32Array(words.buffer)
  let nodes = 1
  let deepest = 1
  const work = new IntList()
  const split = (first: number, end: number): number =>
    codes === null ? partition(order, first, end, boxes) : splitByCode(codes, first, end)
  // A range of few stands in the first child of the root.
  if (count <= LEAF) {
    for (let i = 6; i < 12; i++) f32[i] = i < 9 ? Infinity : -Infinity
    words[LINK] = ~(count - 1)
    words[BITS] = -1
    words[LINK + 1] = EMPTY
    fill(f32, 0, order, 0, count, boxes, slack)
    return { order, words, nodes, depth: 1 }
  }
  let first = 0
  let end = count
  let node = 0
  let level = 1
  for (;;) {
    words[NODE * node + BITS] = words[NODE * node + BITS + 1] = -1
    const middle = split(first, end)
    for (let side = 1; side >= 0; side--) {
      const from = side === 0 ? first : middle
      const to = side === 0 ? middle : end
      if (to - from <= LEAF) {
        words[NODE * node + LINK + side] = ~(8 * from + to - from - 1)
        fill(f32, NODE * node + 6 * side, order, from, to, boxes, slack)
        continue
      }
      work.push(from)
      work.push(to)
      work.push(2 * node + side)
      work.push(level)
    }
    if (work.length === 0) break
    level = work.pop() + 1
    if (level > deepest) deepest = level
    const slot = work.pop()
    end = work.pop()
    first = work.pop()
    node = nodes++
    words[NODE * (slot >> 1) + LINK + (slot & 1)] = node
  }
  fillAbove(f32, words, nodes)
  return { order, words, nodes, depth: deepest }
}

/** Writes the bounds of nodes into those above them. A node's number is greater than that of the one above it. */
function fillAbove(f32: Float32Array, words: Int32Array, nodes: number): void {
  for (let node = nodes - 1; node >= 0; node--) {
    for (let side = 0; side < 2; side++) {
      const below = words[NODE * node + LINK + side]
      if (below < 0) continue
      const at = NODE * node + 6 * side
      const from = NODE * below
      for (let i = 0; i < 6; i++) {
        const one = f32[from + i]
        const other = f32[from + 6 + i]
        f32[at + i] = one < other === i < 3 ? one : other
      }
    }
  }
}

/** Writes the bounds of a range, rounded outward. */
function fill(
  f32: Float32Array,
  at: number,
  order: Int32Array,
  first: number,
  end: number,
  boxes: Float64Array,
  slack: number,
): void {
  for (let axis = 0; axis < 3; axis++) {
    let min = Infinity
    let max = -Infinity
    for (let i = first; i < end; i++) {
      const box = 6 * order[i]
      if (boxes[box + axis] < min) min = boxes[box + axis]
      if (boxes[box + 3 + axis] > max) max = boxes[box + 3 + axis]
    }
    const margin = OUTWARD * (Math.abs(min) + Math.abs(max)) + slack
    f32[at + axis] = min - margin
    f32[at + 3 + axis] = max + margin
  }
}

/** Sorts triangles by the Morton code of their middle; returns the codes in that order. */
function sortByCode(order: Int32Array, boxes: Float64Array, bounds: readonly number[]): Int32Array {
  const count = order.length
  const cells = 2 ** CODE_BITS
  let codes = new Int32Array(count)
  for (let i = 0; i < count; i++) {
    let code = 0
    for (let axis = 0; axis < 3; axis++) {
      const extent = bounds[3 + axis] - bounds[axis]
      const middle = (boxes[6 * i + axis] + boxes[6 * i + 3 + axis]) / 2 - bounds[axis]
      const cell = extent > 0 ? Math.min(cells - 1, Math.floor((middle / extent) * cells)) : 0
      code |= spread(cell) << axis
    }
    codes[i] = code
  }
  // Three passes of ten bits.
  let from = order.slice()
  let to = new Int32Array(count)
  let next = new Int32Array(count)
  const places = new Int32Array(cells + 1)
  for (let shift = 0; shift < 3 * CODE_BITS; shift += CODE_BITS) {
    places.fill(0)
    for (let i = 0; i < count; i++) places[((codes[i] >> shift) & (cells - 1)) + 1]++
    for (let i = 0; i < cells; i++) places[i + 1] += places[i]
    for (let i = 0; i < count; i++) {
      const place = places[(codes[i] >> shift) & (cells - 1)]++
      to[place] = from[i]
      next[place] = codes[i]
    }
    ;[from, to] = [to, from]
    ;[codes, next] = [next, codes]
  }
  order.set(from)
  return codes
}

/** Puts two zero bits between the ten bits of a number. */
function spread(x: number): number {
  x = (x | (x << 16)) & 0x030000ff
  x = (x | (x << 8)) & 0x0300f00f
  x = (x | (x << 4)) & 0x030c30c3
  return (x | (x << 2)) & 0x09249249
}

/** Where the highest bit that differs within a range of sorted codes becomes 1; the middle where none differs. */
function splitByCode(codes: Int32Array, first: number, end: number): number {
  const differing = codes[first] ^ codes[end - 1]
  if (differing === 0) return (first + end) >> 1
  const bit = 1 << (31 - Math.clz32(differing))
  let low = first + 1
  let high = end - 1
  while (low < high) {
    const middle = (low + high) >> 1
    if ((codes[middle] & bit) !== 0) high = middle
    else low = middle + 1
  }
  return low
}
