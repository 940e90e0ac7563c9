/**
 * The triangles of a mesh or a heightfield with their own tree, in one buffer: it can be shared by many colliders and, on shared
 * memory, by workers. Triangles stand in the order of the leaves, so what a walk comes to next is near in memory.
 *
 * The buffer: a header of {@link HEADER} bytes, nodes of 16 words (see tree/layout.ts; a link below 0 is the complement of
 * 8 * first triangle + count - 1), nine doubles a triangle, then a part and three neighbours each.
 */
import { KeenError, show } from '../../core/util/errors.ts'
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

/** A surface as arrays of one sort of numbers each, whatever the order of bytes. */
type SurfaceWords = readonly [
  head: Int32Array,
  bounds: Float64Array,
  nodes: Int32Array,
  corners: Float64Array,
  rest: Int32Array,
]

export function wordsOf({ buffer, bounds, i32, corners, count }: Surface): SurfaceWords {
  const rest = new Int32Array(buffer, HEADER + i32.byteLength + corners.byteLength, 4 * count)
  return [new Int32Array(buffer, 0, 16), bounds, i32, corners, rest]
}

export function surfaceOf([head, bounds, nodes, corners, rest]: SurfaceWords): Surface {
  const buffer = new ArrayBuffer(HEADER + nodes.byteLength + corners.byteLength + rest.byteLength)
  new Int32Array(buffer, 0, 16).set(head)
  new Float64Array(buffer, 64, 6).set(bounds)
  new Int32Array(buffer, HEADER, nodes.length).set(nodes)
  new Float64Array(buffer, HEADER + nodes.byteLength, corners.length).set(corners)
  new Int32Array(buffer, HEADER + nodes.byteLength + corners.byteLength).set(rest)
  return new Surface(buffer)
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

/**
 * Which triangle lies across each edge: the one that runs the other way along it, where there are just these two. Edges are
 * sorted by their ends, by counting, so that those along the same two vertices come together.
 */
function findNeighbours(vertices: Int32Array): { neighbours: Int32Array; closed: boolean } {
  const count = vertices.length
  const neighbours = new Int32Array(count).fill(-1)
  const low = new Int32Array(count)
  const high = new Int32Array(count)
  let most = 0
  for (let edge = 0; edge < count; edge++) {
    const from = vertices[edge]
    const to = vertices[edge % 3 === 2 ? edge - 2 : edge + 1]
    low[edge] = from < to ? from : to
    high[edge] = from < to ? to : from
    if (high[edge] > most) most = high[edge]
  }
  const places = new Int32Array(most + 2)
  const sorted = sortedBy(low, sortedBy(high, null, places), places)
  let closed = true
  for (let first = 0; first < count; ) {
    const edge = sorted[first]
    let end = first + 1
    while (end < count && low[sorted[end]] === low[edge] && high[sorted[end]] === high[edge]) end++
    const other = sorted[end - 1]
    if (end - first === 2 && vertices[edge] !== vertices[other]) {
      neighbours[edge] = Math.floor(other / 3)
      neighbours[other] = Math.floor(edge / 3)
    } else closed = false
    first = end
  }
  return { neighbours, closed }
}

/** The numbers from 0 on, or those given, sorted by a key that is less than the number of places; equal ones stay in order. */
function sortedBy(key: Int32Array, given: Int32Array | null, places: Int32Array): Int32Array {
  const sorted = new Int32Array(key.length)
  places.fill(0)
  for (let i = 0; i < key.length; i++) places[key[i] + 1]++
  for (let i = 1; i < places.length; i++) places[i] += places[i - 1]
  for (let i = 0; i < key.length; i++) {
    const each = given === null ? i : given[i]
    sorted[places[key[each]]++] = each
  }
  return sorted
}
