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
/** The least part of a diagonal that counts as a pivot. */
const LEAST_PIVOT = 1e-12

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
  /** What the velocity of the body below a block is changed by, by an impulse of each of its rows, all below it taken into account. */
  private below = new Float64Array(0)
  /** By how much each body is to change. */
  private bodyVector = new Float64Array(0)
  /** 1 for rows of bodies that have a mass. */
  private free = new Uint8Array(32)
  private readonly scratch = new Float64Array(36)

  /** Finds the tree of a tick; returns whether there is any. */
  build(from: TreeRows): boolean {
    const { blocks, blockCount, bodyCount, speeds } = from
    this.makeRoom(blockCount, bodyCount, speeds)
    const { first, root, parent, nextEnd, inTree, upper, order, free } = this
    for (let body = 0; body < bodyCount; body++) {
      free[body] = from.isFree(body) ? 1 : 0
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
      const freeA = free[a] !== 0
      const freeB = free[b] !== 0
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
      const freeA = free[a] !== 0
      if (freeA && free[b] !== 0) continue
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
    const { order, first, nextEnd, parent, upper, free } = this
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
        if (free[other] === 0) continue
        parent[other] = block
        order[this.length++] = other
      }
    }
  }

  /** Works out the matrices for the rows as they are now. */
  factorise(from: TreeRows): void {
    const { order, ofBodies, ofBlocks, below, free, upper } = this
    const { rows, blocks, width, speeds } = from
    const size = speeds * speeds
    for (let i = 0; i < this.length; i++) if (order[i] >= 0) from.writeMass(order[i], ofBodies, size * order[i])
    for (let i = this.length - 1; i >= 0; i--) {
      if (order[i] >= 0) {
        factor(ofBodies, size * order[i], speeds, speeds)
        continue
      }
      const block = -1 - order[i]
      const count = blocks[BLOCK * block + COUNT]
      const row = width * blocks[BLOCK * block + FIRST]
      const at = size * block
      const up = upper[block]
      const under = blocks[BLOCK * block + (up === 0 ? BODY_B : BODY_A)]
      const lower = row + (up === 0 ? speeds : 0)
      const hangs = free[under] !== 0
      for (let k = 0; k < count; k++) {
        const own = at + speeds * k
        const tail = row + width * k + 4 * speeds
        const softness = rows[tail + GIVE]
        for (let s = 0; s < speeds; s++) below[own + s] = rows[lower + width * k + s]
        if (hangs) backSubstitute(ofBodies, size * under, below, own, speeds, speeds)
        for (let n = 0; n <= k; n++) {
          let sum = 0
          if (hangs) for (let s = 0; s < speeds; s++) sum += below[own + s] * rows[lower + width * n + s]
          ofBlocks[own + n] = sum
        }
        ofBlocks[own + k] += (hangs || softness > LEAST_GIVE ? softness : LEAST_GIVE) * rows[tail + ANSWER]
      }
      factor(ofBlocks, at, count, speeds)
      // What the block and all below it is to the body above.
      const above = blocks[BLOCK * block + (up === 0 ? BODY_A : BODY_B)]
      if (free[above] !== 0) this.putUp(from, block, row + (up === 0 ? 0 : speeds), size * above)
    }
  }

  /** Adds J^T S^-1 J of a block to the matrix of a body, in its lower half. */
  private putUp({ rows, blocks, width, speeds }: TreeRows, block: number, higher: number, to: number): void {
    const { ofBodies, ofBlocks, scratch } = this
    const count = blocks[BLOCK * block + COUNT]
    const at = speeds * speeds * block
    for (let s = 0; s < speeds; s++) {
      for (let k = 0; k < count; k++) scratch[k] = rows[higher + width * k + s]
      backSubstitute(ofBlocks, at, scratch, 0, count, speeds)
      for (let t = s; t < speeds; t++) {
        let sum = 0
        for (let k = 0; k < count; k++) sum += rows[higher + width * k + t] * scratch[k]
        ofBodies[to + speeds * t + s] += sum
      }
    }
  }

  /**
   * Solves for the impulses of all blocks of the tree.
   * @param wanted of each block of the tree, by how much its rows are to change, `speeds` numbers a block; replaced by the impulses
   */
  solve(from: TreeRows, wanted: Float64Array): void {
    const { order, ofBodies, ofBlocks, bodyVector, scratch, upper, parent, free, below } = this
    const { rows, blocks, width, speeds } = from
    const size = speeds * speeds
    for (let i = 0; i < this.length; i++) {
      const node = order[i]
      if (node >= 0) for (let s = 0; s < speeds; s++) bodyVector[speeds * node + s] = 0
    }
    for (let i = this.length - 1; i >= 0; i--) {
      const node = order[i]
      if (node >= 0) {
        backSubstitute(ofBodies, size * node, bodyVector, speeds * node, speeds, speeds)
        continue
      }
      const block = -1 - node
      const count = blocks[BLOCK * block + COUNT]
      const row = width * blocks[BLOCK * block + FIRST]
      const up = upper[block]
      const under = blocks[BLOCK * block + (up === 0 ? BODY_B : BODY_A)]
      const at = speeds * block
      if (free[under] !== 0) {
        const lower = row + (up === 0 ? speeds : 0)
        for (let k = 0; k < count; k++) {
          let sum = 0
          for (let s = 0; s < speeds; s++) sum += rows[lower + width * k + s] * bodyVector[speeds * under + s]
          wanted[at + k] -= sum
        }
      }
      const above = blocks[BLOCK * block + (up === 0 ? BODY_A : BODY_B)]
      if (free[above] === 0) continue
      const higher = row + (up === 0 ? 0 : speeds)
      for (let k = 0; k < count; k++) scratch[k] = wanted[at + k]
      backSubstitute(ofBlocks, size * block, scratch, 0, count, speeds)
      for (let k = 0; k < count; k++) {
        const part = scratch[k]
        for (let s = 0; s < speeds; s++) bodyVector[speeds * above + s] += rows[higher + width * k + s] * part
      }
    }
    for (let i = 0; i < this.length; i++) {
      const node = order[i]
      if (node >= 0) {
        const block = parent[node]
        if (block < 0) continue
        const count = blocks[BLOCK * block + COUNT]
        for (let k = 0; k < count; k++) {
          const impulse = wanted[speeds * block + k]
          const own = size * block + speeds * k
          for (let s = 0; s < speeds; s++) bodyVector[speeds * node + s] += below[own + s] * impulse
        }
        continue
      }
      const block = -1 - node
      const count = blocks[BLOCK * block + COUNT]
      const up = upper[block]
      const above = blocks[BLOCK * block + (up === 0 ? BODY_A : BODY_B)]
      const at = speeds * block
      if (free[above] !== 0) {
        const higher = width * blocks[BLOCK * block + FIRST] + (up === 0 ? 0 : speeds)
        for (let k = 0; k < count; k++) {
          let sum = 0
          for (let s = 0; s < speeds; s++) sum += rows[higher + width * k + s] * bodyVector[speeds * above + s]
          wanted[at + k] -= sum
        }
      }
      backSubstitute(ofBlocks, size * block, wanted, at, count, speeds)
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
      this.free = new Uint8Array(2 * bodies)
    }
    if (this.order.length < blocks + bodies) this.order = new Int32Array(2 * (blocks + bodies))
    if (this.ofBodies.length < size * bodies) {
      this.ofBodies = new Float64Array(2 * size * bodies)
      this.bodyVector = new Float64Array(2 * speeds * bodies)
    }
    if (this.ofBlocks.length < size * blocks) {
      this.ofBlocks = new Float64Array(2 * size * blocks)
      this.below = new Float64Array(2 * size * blocks)
    }
  }
}

/** Factors a symmetric positive matrix, given by its lower half, in its place: L below the diagonal, and there 1 / D. */
export function factor(m: Float64Array, at: number, count: number, stride: number): void {
  for (let j = 0; j < count; j++) {
    const own = at + stride * j
    const whole = m[own + j]
    let rest = whole
    for (let k = 0; k < j; k++) {
      const d = m[at + stride * k + k]
      if (d !== 0) rest -= (m[own + k] * m[own + k]) / d
    }
    // What cannot be moved that way, or is moved by the ones before it already.
    const inverse = rest > LEAST_PIVOT * whole ? 1 / rest : 0
    m[own + j] = inverse
    for (let i = j + 1; i < count; i++) {
      const other = at + stride * i
      let sum = m[other + j]
      for (let k = 0; k < j; k++) {
        const d = m[at + stride * k + k]
        if (d !== 0) sum -= (m[other + k] * m[own + k]) / d
      }
      m[other + j] = sum * inverse
    }
  }
}

/** Solves with the factors of {@link factor}; the vector is replaced by the solution. */
export function backSubstitute(
  m: Float64Array,
  at: number,
  x: Float64Array,
  from: number,
  count: number,
  stride: number,
): void {
  for (let i = 1; i < count; i++) {
    const own = at + stride * i
    let sum = x[from + i]
    for (let k = 0; k < i; k++) sum -= m[own + k] * x[from + k]
    x[from + i] = sum
  }
  for (let i = count - 1; i >= 0; i--) {
    let sum = x[from + i] * m[at + stride * i + i]
    for (let k = i + 1; k < count; k++) sum -= m[at + stride * k + i] * x[from + k]
    x[from + i] = sum
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
