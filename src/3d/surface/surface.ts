/**
 * The triangles of a mesh or a heightfield with their own tree, in one buffer: it can be shared by many colliders and, on shared
 * memory, by workers. Triangles stand in the order of the leaves, so what a walk comes to next is near in memory.
 *
 * The buffer: a header of {@link HEADER} bytes, nodes of 16 words (see tree/words.ts; a link below 0 is the complement of
 * 8 * first triangle + count - 1), nine doubles a triangle, then a part and three neighbours each.
 */
import { KeenError, show } from '../../core/errors.ts'
import { PairMap } from '../../core/table.ts'
import { buildNodes } from './build.ts'

const MAGIC = 0x6b737572
const HEADER = 128
const NODE_BYTES = 64

/** Header words. */
const COUNT = 1
const NODES = 2
const DEPTH = 3
const FLAGS = 4
const FRONT = 1
const CLOSED = 2

/** Triangles given by their corners, before they are in a tree. */
export interface Soup {
  /** Nine numbers a triangle. */
  readonly corners: Float64Array
  /** The user's number of each. */
  readonly parts: Int32Array
  /** Three vertex numbers a triangle: equal ones are one vertex. */
  readonly vertices: Int32Array
}

export class Surface {
  readonly buffer: ArrayBufferLike
  readonly f32: Float32Array
  readonly i32: Int32Array
  /** Nine numbers a triangle: x, y, z of its three corners, in the user's order. */
  readonly corners: Float64Array
  /** The user's number of each triangle. */
  readonly parts: Int32Array
  /** The triangle across each edge (from corner i to i + 1), or -1 where none or several are. */
  readonly neighbours: Int32Array
  /** About its own origin: min x, y, z, max x, y, z. */
  readonly bounds: Float64Array
  readonly count: number
  /** Levels of nodes: no walk holds more than this many and two. */
  readonly depth: number
  /** Only the front of its triangles (counter-clockwise corners) is hit. */
  readonly front: boolean
  /** Every edge joins two triangles that run the same way round. */
  readonly closed: boolean
  /** The greatest coordinate: what its rounding is measured by. */
  readonly scale: number

  constructor(buffer: ArrayBufferLike) {
    const head = buffer.byteLength >= HEADER ? new Int32Array(buffer, 0, 16) : new Int32Array(16)
    const count = head[COUNT]
    const nodes = head[NODES]
    if (head[0] !== MAGIC || count <= 0 || nodes <= 0 || buffer.byteLength !== bytesFor(count, nodes)) {
      throw new KeenError('bad-argument', `a shared mesh must come from shareMesh, got ${show(buffer)}`)
    }
    this.buffer = buffer
    this.count = count
    this.depth = head[DEPTH]
    this.front = (head[FLAGS] & FRONT) !== 0
    this.closed = (head[FLAGS] & CLOSED) !== 0
    this.bounds = new Float64Array(buffer, 64, 6)
    this.f32 = new Float32Array(buffer, HEADER, 16 * nodes)
    this.i32 = new Int32Array(buffer, HEADER, 16 * nodes)
    let at = HEADER + NODE_BYTES * nodes
    this.corners = new Float64Array(buffer, at, 9 * count)
    at += 72 * count
    this.parts = new Int32Array(buffer, at, count)
    at += 4 * count
    this.neighbours = new Int32Array(buffer, at, 3 * count)
    let scale = 0
    for (let i = 0; i < 6; i++) scale = Math.max(scale, Math.abs(this.bounds[i]))
    this.scale = scale
  }
}

function bytesFor(count: number, nodes: number): number {
  return HEADER + NODE_BYTES * nodes + 72 * count + 16 * count
}

/**
 * Puts triangles into a tree.
 * @param quality by surface area; otherwise by sorting, which builds faster and is slower to ask
 * @param shared whether to lay it in shared memory
 */
export function makeSurface(soup: Soup, front: boolean, quality: boolean, shared: boolean): Surface {
  const count = soup.parts.length
  const boxes = new Float64Array(6 * count)
  const bounds = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]
  for (let i = 0; i < count; i++) {
    for (let axis = 0; axis < 3; axis++) {
      const a = soup.corners[9 * i + axis]
      const b = soup.corners[9 * i + 3 + axis]
      const c = soup.corners[9 * i + 6 + axis]
      const low = Math.min(a, b, c)
      const high = Math.max(a, b, c)
      boxes[6 * i + axis] = low
      boxes[6 * i + 3 + axis] = high
      if (low < bounds[axis]) bounds[axis] = low
      if (high > bounds[3 + axis]) bounds[3 + axis] = high
    }
  }
  const { order, words, nodes, depth } = buildNodes(boxes, count, bounds, quality)
  const bytes = bytesFor(count, nodes)
  const buffer = shared ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes)
  const { neighbours, closed } = findNeighbours(soup.vertices)
  const head = new Int32Array(buffer, 0, 16)
  head[0] = MAGIC
  head[COUNT] = count
  head[NODES] = nodes
  head[DEPTH] = depth
  head[FLAGS] = (front ? FRONT : 0) | (closed ? CLOSED : 0)
  new Float64Array(buffer, 64, 6).set(bounds)
  const surface = new Surface(buffer)
  surface.i32.set(words.subarray(0, 16 * nodes))
  const place = new Int32Array(count)
  for (let i = 0; i < count; i++) place[order[i]] = i
  for (let i = 0; i < count; i++) {
    const from = order[i]
    for (let k = 0; k < 9; k++) surface.corners[9 * i + k] = soup.corners[9 * from + k]
    surface.parts[i] = soup.parts[from]
    for (let k = 0; k < 3; k++) {
      const other = neighbours[3 * from + k]
      surface.neighbours[3 * i + k] = other < 0 ? -1 : place[other]
    }
  }
  return surface
}

/** Which triangle lies across each edge. Two that run the same way along an edge are no neighbours. */
function findNeighbours(vertices: Int32Array): { neighbours: Int32Array; closed: boolean } {
  const neighbours = new Int32Array(vertices.length).fill(-1)
  // Edges by their ends, in the order in which they run; SEVERAL where several triangles run the same way.
  const edges = new PairMap()
  let closed = true
  const endOf = (edge: number): number => vertices[edge % 3 === 2 ? edge - 2 : edge + 1]
  for (let edge = 0; edge < vertices.length; edge++) {
    const from = vertices[edge]
    const to = endOf(edge)
    const known = edges.get(from, to) !== NONE
    if (known) closed = false
    edges.set(from, to, known ? SEVERAL : edge)
  }
  for (let edge = 0; edge < vertices.length; edge++) {
    const from = vertices[edge]
    const to = endOf(edge)
    const back = edges.get(to, from)
    if (edges.get(from, to) === SEVERAL || back < 0) closed = false
    else neighbours[edge] = Math.floor(back / 3)
  }
  return { neighbours, closed }
}

const NONE = -1
const SEVERAL = -2
