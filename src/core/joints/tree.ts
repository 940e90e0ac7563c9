/**
 * Joints that hold in both directions, as far as they make no loops, solved exactly and in a time that grows with their number (Baraff,
 * 1996): bodies and joints are the nodes of a tree, and from the leaves on each is put into its parent. So what hangs on the end of a chain is felt at
 * its top in the same pass, however heavy it is. What closes a loop is left to the passes over single blocks.
 */
import { ANSWER, BLOCK, BODY_A, BODY_B, COUNT, FIRST, GIVE } from './rows.ts'

const NONE = -1
/** Above a body that is a root. */
const ROOT = -2
/**
 * The softness in the matrix of a second joint to the world, as a part of its answer: it has no mass below it, and would divide by nothing. The passes
 * make up for it.
 */
const LEAST_GIVE = 1e-5

/** The rows of a tick. */
export interface TreeRows {
  readonly rows: Float64Array
  readonly blocks: Int32Array
  readonly blockCount: number
  /** The width of a row, and the numbers of a velocity. */
  readonly width: number
  readonly speeds: number
  /** The rows of bodies of the tick. */
  readonly bodyCount: number
  /** Whether a body has a mass of its own, so that it is a node. */
  isFree(body: number): boolean
  /** Whether a block can be in the tree: it has no bounds. */
  isOpen(block: number): boolean
  /** Writes the mass of a body, as a matrix. */
  writeMass(body: number, out: Float64Array, at: number): void
}

export class JointTree {
  /** 1 for blocks that are in the tree. */
  inTree = new Uint8Array(16)
  /** Bodies and blocks from the roots on; a block is told by a number below zero. */
  private order = new Int32Array(32)
  private length = 0
  /** Of a body: the block towards its root; the first of its ends of blocks. */
  private parent = new Int32Array(32)
  private first = new Int32Array(32)
  private root = new Int32Array(32)
  /** Of an end of a block: the next of the same body. */
  private nextEnd = new Int32Array(32)
  /** Of a block: which of its ends looks to the root: 0 or 1. */
  private upper = new Int32Array(16)
  /** Inverse matrices. */
  private ofBodies = new Float64Array(0)
  private ofBlocks = new Float64Array(0)
  /** What is solved for: a vector for each body, and each block. */
  private bodyVector = new Float64Array(0)
  private blockVector = new Float64Array(0)
  private readonly scratch = new Float64Array(36)

  /** Finds the tree of a tick; returns whether there is any. */
  build(from: TreeRows): boolean {
    const { blocks, blockCount, bodyCount, speeds } = from
    this.makeRoom(blockCount, bodyCount, speeds)
    const { first, root, parent, nextEnd, inTree, upper, order } = this
    for (let body = 0; body < bodyCount; body++) {
      first[body] = NONE
      root[body] = body
      parent[body] = NONE
    }
    let some = false
    for (let block = 0; block < blockCount; block++) {
      inTree[block] = 0
      if (!from.isOpen(block)) continue
      const a = blocks[BLOCK * block + BODY_A]
      const b = blocks[BLOCK * block + BODY_B]
      const freeA = from.isFree(a)
      const freeB = from.isFree(b)
      if (!freeA && !freeB) continue
      if (freeA && freeB) {
        const one = this.rootOf(a)
        const other = this.rootOf(b)
        if (one === other) continue
        root[one] = other
      }
      inTree[block] = 1
      some = true
      for (let end = 1; end >= 0; end--) {
        const body = end === 0 ? a : b
        if (!(end === 0 ? freeA : freeB)) continue
        nextEnd[2 * block + end] = first[body]
        first[body] = 2 * block + end
      }
    }
    this.length = 0
    if (!some) return false
    // A joint to the world is the best root: what is worked out from there is exact.
    for (let block = 0; block < blockCount; block++) {
      if (inTree[block] === 0) continue
      const a = blocks[BLOCK * block + BODY_A]
      const b = blocks[BLOCK * block + BODY_B]
      const freeA = from.isFree(a)
      if (freeA && from.isFree(b)) continue
      const body = freeA ? a : b
      if (parent[body] !== NONE) continue
      upper[block] = freeA ? 1 : 0
      parent[body] = block
      order[this.length++] = -1 - block
      this.grow(from, body)
    }
    for (let start = 1; start < bodyCount; start++) {
      if (first[start] === NONE || parent[start] !== NONE) continue
      parent[start] = ROOT
      this.grow(from, start)
    }
    return true
  }

  /** Lists a body, and all that hangs on it. */
  private grow(from: TreeRows, start: number): void {
    const { blocks } = from
    const { order, first, nextEnd, parent, upper } = this
    let at = this.length
    order[this.length++] = start
    for (; at < this.length; at++) {
      const body = order[at]
      if (body < 0) continue
      for (let end = first[body]; end !== NONE; end = nextEnd[end]) {
        const block = end >> 1
        if (block === parent[body]) continue
        upper[block] = end & 1
        order[this.length++] = -1 - block
        const other = blocks[BLOCK * block + ((end & 1) === 0 ? BODY_B : BODY_A)]
        if (!from.isFree(other)) continue
        parent[other] = block
        order[this.length++] = other
      }
    }
  }

  /** Works out the matrices for the rows as they are now. */
  factorise(from: TreeRows): void {
    const { order, ofBodies, ofBlocks, scratch } = this
    const { rows, blocks, width, speeds } = from
    const size = speeds * speeds
    for (let i = 0; i < this.length; i++) if (order[i] >= 0) from.writeMass(order[i], ofBodies, size * order[i])
    for (let i = this.length - 1; i >= 0; i--) {
      if (order[i] >= 0) {
        invert(ofBodies, size * order[i], speeds, speeds)
        continue
      }
      const block = -1 - order[i]
      const count = blocks[BLOCK * block + COUNT]
      const row = width * blocks[BLOCK * block + FIRST]
      const at = size * block
      const up = this.upper[block]
      const below = blocks[BLOCK * block + (up === 0 ? BODY_B : BODY_A)]
      const lower = row + (up === 0 ? speeds : 0)
      const hangs = from.isFree(below)
      for (let k = 0; k < count; k++) {
        for (let n = 0; n < count; n++) ofBlocks[at + speeds * k + n] = 0
        const tail = row + width * k + 4 * speeds
        const softness = rows[tail + GIVE]
        ofBlocks[at + speeds * k + k] = (hangs || softness > LEAST_GIVE ? softness : LEAST_GIVE) * rows[tail + ANSWER]
      }
      if (hangs) {
        const m = size * below
        for (let k = 0; k < count; k++) {
          for (let s = 0; s < speeds; s++) {
            let sum = 0
            for (let t = 0; t < speeds; t++) sum += rows[lower + width * k + t] * ofBodies[m + speeds * t + s]
            scratch[s] = sum
          }
          for (let n = 0; n < count; n++) {
            let sum = 0
            for (let s = 0; s < speeds; s++) sum += scratch[s] * rows[lower + width * n + s]
            ofBlocks[at + speeds * k + n] += sum
          }
        }
      }
      invert(ofBlocks, at, count, speeds)
      // What the block and all below it is to the body above.
      const above = blocks[BLOCK * block + (up === 0 ? BODY_A : BODY_B)]
      if (!from.isFree(above)) continue
      const higher = row + (up === 0 ? 0 : speeds)
      const to = size * above
      for (let s = 0; s < speeds; s++) {
        for (let k = 0; k < count; k++) {
          let sum = 0
          for (let n = 0; n < count; n++) sum += ofBlocks[at + speeds * k + n] * rows[higher + width * n + s]
          scratch[k] = sum
        }
        for (let t = 0; t < speeds; t++) {
          let sum = 0
          for (let k = 0; k < count; k++) sum += rows[higher + width * k + t] * scratch[k]
          ofBodies[to + speeds * t + s] += sum
        }
      }
    }
  }

  /**
   * Solves for the impulses of all blocks of the tree.
   * @param wanted of each block of the tree, by how much its rows are to change, `speeds` numbers a block; replaced by the impulses
   */
  solve(from: TreeRows, wanted: Float64Array): void {
    const { order, ofBodies, ofBlocks, bodyVector, blockVector, scratch, upper, parent } = this
    const { rows, blocks, width, speeds } = from
    const size = speeds * speeds
    for (let i = 0; i < this.length; i++) {
      if (order[i] >= 0) bodyVector.fill(0, speeds * order[i], speeds * order[i] + speeds)
    }
    for (let i = this.length - 1; i >= 0; i--) {
      if (order[i] >= 0) continue
      const block = -1 - order[i]
      const count = blocks[BLOCK * block + COUNT]
      const row = width * blocks[BLOCK * block + FIRST]
      const up = upper[block]
      const below = blocks[BLOCK * block + (up === 0 ? BODY_B : BODY_A)]
      const lower = row + (up === 0 ? speeds : 0)
      const higher = row + (up === 0 ? 0 : speeds)
      const at = speeds * block
      for (let k = 0; k < count; k++) blockVector[at + k] = wanted[at + k]
      if (from.isFree(below)) {
        times(ofBodies, size * below, bodyVector, speeds * below, scratch, 0, speeds, speeds)
        for (let k = 0; k < count; k++) {
          for (let s = 0; s < speeds; s++) blockVector[at + k] -= rows[lower + width * k + s] * scratch[s]
        }
      }
      const over = blocks[BLOCK * block + (up === 0 ? BODY_A : BODY_B)]
      if (!from.isFree(over)) continue
      times(ofBlocks, size * block, blockVector, at, scratch, 0, count, speeds)
      const above = speeds * blocks[BLOCK * block + (up === 0 ? BODY_A : BODY_B)]
      for (let k = 0; k < count; k++) {
        for (let s = 0; s < speeds; s++) bodyVector[above + s] += rows[higher + width * k + s] * scratch[k]
      }
    }
    for (let i = 0; i < this.length; i++) {
      const node = order[i]
      if (node >= 0) {
        const block = parent[node]
        const to = speeds * node
        if (block >= 0) {
          const count = blocks[BLOCK * block + COUNT]
          const lower = width * blocks[BLOCK * block + FIRST] + (upper[block] === 0 ? speeds : 0)
          for (let k = 0; k < count; k++) {
            for (let s = 0; s < speeds; s++)
              bodyVector[to + s] += rows[lower + width * k + s] * wanted[speeds * block + k]
          }
        }
        times(ofBodies, size * node, bodyVector, to, scratch, 0, speeds, speeds)
        for (let s = 0; s < speeds; s++) bodyVector[to + s] = scratch[s]
        continue
      }
      const block = -1 - node
      const count = blocks[BLOCK * block + COUNT]
      const up = upper[block]
      const higher = width * blocks[BLOCK * block + FIRST] + (up === 0 ? 0 : speeds)
      const over = blocks[BLOCK * block + (up === 0 ? BODY_A : BODY_B)]
      const above = speeds * over
      const at = speeds * block
      const pulled = from.isFree(over)
      for (let k = 0; pulled && k < count; k++) {
        for (let s = 0; s < speeds; s++) blockVector[at + k] -= rows[higher + width * k + s] * bodyVector[above + s]
      }
      times(ofBlocks, size * block, blockVector, at, wanted, at, count, speeds)
    }
  }

  private rootOf(body: number): number {
    const { root } = this
    while (root[body] !== body) {
      root[body] = root[root[body]]
      body = root[body]
    }
    return body
  }

  private makeRoom(blocks: number, bodies: number, speeds: number): void {
    const size = speeds * speeds
    if (this.inTree.length < blocks) {
      this.inTree = new Uint8Array(2 * blocks)
      this.upper = new Int32Array(2 * blocks)
      this.nextEnd = new Int32Array(4 * blocks)
    }
    if (this.first.length < bodies) {
      this.first = new Int32Array(2 * bodies)
      this.root = new Int32Array(2 * bodies)
      this.parent = new Int32Array(2 * bodies)
    }
    if (this.order.length < blocks + bodies) this.order = new Int32Array(2 * (blocks + bodies))
    if (this.ofBodies.length < size * bodies) {
      this.ofBodies = new Float64Array(2 * size * bodies)
      this.bodyVector = new Float64Array(2 * speeds * bodies)
    }
    if (this.ofBlocks.length < size * blocks) {
      this.ofBlocks = new Float64Array(2 * size * blocks)
      this.blockVector = new Float64Array(2 * speeds * blocks)
    }
  }
}

/** Writes the product of a matrix and a vector. */
function times(
  matrix: Float64Array,
  at: number,
  vector: Float64Array,
  from: number,
  out: Float64Array,
  to: number,
  count: number,
  stride: number,
): void {
  for (let i = 0; i < count; i++) {
    let sum = 0
    for (let k = 0; k < count; k++) sum += matrix[at + stride * i + k] * vector[from + k]
    out[to + i] = sum
  }
}

/** Inverts a symmetric positive matrix in its place, pivot by pivot; what has no pivot is left out. */
export function invert(m: Float64Array, at: number, count: number, stride: number): void {
  for (let k = 0; k < count; k++) {
    const pivot = m[at + stride * k + k]
    const inverse = pivot > 1e-300 ? 1 / pivot : 0
    m[at + stride * k + k] = 1
    for (let j = 0; j < count; j++) m[at + stride * k + j] *= inverse
    for (let i = 0; i < count; i++) {
      if (i === k) continue
      const factor = m[at + stride * i + k]
      m[at + stride * i + k] = 0
      if (factor === 0) continue
      for (let j = 0; j < count; j++) m[at + stride * i + j] -= factor * m[at + stride * k + j]
    }
  }
}
