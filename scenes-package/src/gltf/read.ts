/** glTF 2.0 files as triangles: what a mesh or a hull is made from. */

import { KeenError } from 'keen-sentry'
import { onlyFields, show } from 'keen-sentry/internal'
import { IDENTITY, type Matrix, matrixOf, numbersOf, product } from './accessor.ts'
import { type Form, LIMITS, type ModelLimits, readForm, refuse } from './form.ts'
import { isBeside } from './place.ts'

/** The triangles of one node, where the file has them: in metres, scale and rotation of all nodes above baked in. */
export interface ModelNode {
  /** As the file calls it; `node 3` where it does not. */
  readonly name: string
  /** The names of the nodes above it that have no triangles of their own, the nearest first. */
  readonly groups: readonly string[]
  /** x, y, z of each vertex. */
  readonly positions: Float64Array
  /** Three vertices a triangle, counter-clockwise seen from the front. */
  readonly indices: Uint32Array
  /** Whether its scale differs by direction, which is baked in. */
  readonly uneven: boolean
  /** Whether it is mirrored, which is baked in: its triangles are turned, so that fronts stay fronts. */
  readonly mirrored: boolean
}

/** What a model file holds, as far as it can be met. */
export interface Model {
  /** The nodes of the file's scene that have triangles, in the order of the file. */
  readonly nodes: readonly ModelNode[]
  /** What was passed over or changed, in sentences. */
  readonly warnings: readonly string[]
}

/** What reading a model takes besides its bytes. */
export interface ReadModelOptions {
  /** Gives the bytes of a buffer that lies beside the file. Without it such files are refused. */
  resource?: ((uri: string) => Promise<Uint8Array> | Uint8Array) | undefined
  /** Each can be set; see {@link ModelLimits}. */
  limits?: Partial<ModelLimits> | undefined
}

const GLB_MAGIC = 0x46546c67
const JSON_CHUNK = 0x4e4f534a
const BINARY_CHUNK = 0x004e4942
/** Modes of primitives. */
const TRIANGLES = 4
const FAN = 6
/** Metres beyond which nothing can be told apart that matters. */
const FAR = 1e9
/** Parts by which lengths and angles of a node's axes may differ from even. */
const EVEN = 1e-6

/**
 * The triangles of a glTF 2.0 file (.glb, or the JSON of .gltf), node by node. Lines and points, materials, animations, skins and
 * morph targets are passed over; a scene is read as it rests. Cost: the size of the file; it is checked before anything is
 * allocated.
 * @param bytes the whole file
 * @throws KeenError `bad-model` with one reason; `bad-argument`
 * @example const { nodes } = await readModel(await readFile('arches.glb'))
 */
export async function readModel(bytes: Uint8Array, options: ReadModelOptions = {}): Promise<Model> {
  if (!(bytes instanceof Uint8Array)) {
    throw new KeenError('bad-argument', `a model is read from a Uint8Array, got ${show(bytes)}`)
  }
  onlyFields(options, ['resource', 'limits'], 'the options of readModel')
  const limits = { ...LIMITS, ...options.limits }
  if (bytes.length > limits.bytes) refuse(`the file has ${bytes.length} bytes, and at most ${limits.bytes} are read`)
  try {
    const { json, inner } = open(bytes)
    const form = readForm(json, limits)
    return modelOf(form, await gather(form, inner, options.resource, limits, bytes.length))
  } catch (error) {
    if (error instanceof KeenError) throw error
    throw new KeenError('bad-model', `it cannot be read: ${(error as Error).message}`, { cause: error })
  }
}

/** The JSON of a file, and the bytes that come with it in a .glb. */
function open(bytes: Uint8Array): { json: unknown; inner: Uint8Array | null } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 4 || view.getUint32(0, true) !== GLB_MAGIC) {
    return { json: parse(bytes, 'it is neither a .glb file nor JSON'), inner: null }
  }
  if (bytes.length < 20) refuse('the file is cut short')
  if (view.getUint32(4, true) !== 2) refuse(`it is of version ${view.getUint32(4, true)} of .glb, and 2 is read`)
  const total = view.getUint32(8, true)
  if (total > bytes.length) refuse(`the file is cut short: it says ${total} bytes, and has ${bytes.length}`)
  let json: unknown
  let inner: Uint8Array | null = null
  for (let at = 12; at + 8 <= total; ) {
    const length = view.getUint32(at, true)
    const type = view.getUint32(at + 4, true)
    if (at + 8 + length > total) refuse('a chunk reaches beyond the end of the file')
    const chunk = bytes.subarray(at + 8, at + 8 + length)
    if (type === JSON_CHUNK && json === undefined) json = parse(chunk, 'its JSON chunk is no JSON')
    else if (type === BINARY_CHUNK && inner === null) inner = chunk
    at += 8 + length
  }
  if (json === undefined) refuse('it has no JSON chunk')
  return { json, inner }
}

function parse(bytes: Uint8Array, complaint: string): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  } catch (error) {
    return refuse(`${complaint}: ${(error as Error).message.slice(0, 120)}`)
  }
}

/** The bytes of every buffer, each at least as long as it says; of a buffer without a name, the inner bytes. */
async function gather(
  form: Form,
  inner: Uint8Array | null,
  resource: ReadModelOptions['resource'],
  limits: ModelLimits,
  own: number,
): Promise<Uint8Array[]> {
  const gathered: Uint8Array[] = []
  let total = own
  for (const [i, buffer] of (form.buffers ?? []).entries()) {
    const { uri } = buffer
    let bytes: Uint8Array
    if (uri === undefined) {
      if (i > 0 || inner === null) refuse(`buffers.${i} has no bytes`)
      bytes = inner
    } else if (uri.startsWith('data:')) bytes = dataBytes(uri, i)
    else {
      if (!isBeside(uri)) refuse(`buffers.${i} lies at ${show(uri)}: only files beside the model are read`)
      if (resource === undefined) refuse(`buffers.${i} is the file ${show(uri)}, and no way to read it was given`)
      bytes = await resource(decodeURIComponent(uri))
      total += bytes.length
    }
    if (total > limits.bytes) refuse(`the file has more than ${limits.bytes} bytes with its buffers`)
    if (bytes.length < buffer.byteLength) {
      refuse(`buffers.${i} has ${bytes.length} bytes, and should have ${buffer.byteLength}`)
    }
    gathered.push(bytes)
  }
  return gathered
}

function dataBytes(uri: string, i: number): Uint8Array {
  const comma = uri.indexOf(',')
  if (comma < 0 || !uri.slice(0, comma).endsWith(';base64')) refuse(`buffers.${i} is data that is not base64`)
  try {
    return Uint8Array.from(atob(uri.slice(comma + 1)), (character) => character.charCodeAt(0))
  } catch {
    return refuse(`buffers.${i} is data that is not base64`)
  }
}

function modelOf(form: Form, buffers: readonly Uint8Array[]): Model {
  const all = form.nodes ?? []
  const scene = form.scenes?.[form.scene ?? 0]
  const children = new Set(all.flatMap((node) => node.children ?? []))
  const tops = scene === undefined ? all.map((_, i) => i).filter((i) => !children.has(i)) : (scene.nodes ?? [])
  const nodes: ModelNode[] = []
  const warnings: string[] = []
  const visit = (index: number, above: Matrix, groups: readonly string[]): void => {
    const node = all[index]
    const name = node.name || `node ${index}`
    const matrix = product(above, matrixOf(node))
    const found = new Triangles(form, buffers, name, warnings).of(node.mesh, matrix)
    if (found !== null) {
      if (node.skin !== undefined) warnings.push(`${show(name)} has a skin: it is taken as it rests`)
      nodes.push({ name, groups, ...found })
    }
    const inherited = found === null ? [name, ...groups] : []
    for (const child of node.children ?? []) visit(child, matrix, inherited)
  }
  for (const top of tops) visit(top, IDENTITY, [])
  return { nodes, warnings }
}

type Primitive = NonNullable<Form['meshes']>[number]['primitives'][number]

/** Makes the triangles of one node. */
class Triangles {
  private readonly form: Form
  private readonly buffers: readonly Uint8Array[]
  private readonly name: string
  private readonly warnings: string[]

  constructor(form: Form, buffers: readonly Uint8Array[], name: string, warnings: string[]) {
    this.form = form
    this.buffers = buffers
    this.name = name
    this.warnings = warnings
  }

  /** The triangles of a mesh in the file's own frame; null when it has none. */
  of(mesh: number | undefined, matrix: Matrix): Omit<ModelNode, 'name' | 'groups'> | null {
    const { name, warnings } = this
    const primitives = mesh === undefined ? [] : this.form.meshes![mesh].primitives
    if (!matrix.every(Number.isFinite)) refuse(`the place of ${show(name)} is no finite number`)
    const parts = primitives.map((primitive) => this.partOf(primitive))
    const vertices = parts.reduce((sum, part) => sum + part.points.length / 3, 0)
    const corners = parts.reduce((sum, part) => sum + part.corners.length, 0)
    if (corners === 0) return null
    const positions = new Float64Array(3 * vertices)
    const indices = new Uint32Array(corners)
    const axes = axesOf(matrix)
    let vertex = 0
    let corner = 0
    for (const { points, corners: own } of parts) {
      for (const index of own) indices[corner++] = vertex + index
      for (let i = 0; i < points.length; i += 3) {
        for (let axis = 0; axis < 3; axis++) {
          const value =
            matrix[axis] * points[i] +
            matrix[4 + axis] * points[i + 1] +
            matrix[8 + axis] * points[i + 2] +
            matrix[12 + axis]
          if (!(Math.abs(value) <= FAR))
            refuse(`vertex ${i / 3} of ${show(name)} lies at ${value}, and at most ${FAR} m is read`)
          positions[3 * vertex + i + axis] = value
        }
      }
      vertex += points.length / 3
    }
    if (axes.mirrored) {
      for (let i = 0; i < corners; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]]
      warnings.push(`${show(name)} is mirrored, which is baked into its triangles`)
    }
    if (axes.uneven) warnings.push(`${show(name)} is scaled unevenly, which is baked into its triangles`)
    return { positions, indices, ...axes }
  }

  /** The points of a primitive, and the corners of its triangles by point: three each, strips and fans laid out. */
  private partOf(primitive: Primitive): { points: Float64Array; corners: ArrayLike<number> & Iterable<number> } {
    const { name, warnings, form, buffers } = this
    const { mode = TRIANGLES, attributes, targets = [] } = primitive
    const position = attributes.POSITION
    if (mode < TRIANGLES || position === undefined) {
      const what = position === undefined ? 'a part without positions' : 'lines or points'
      warnings.push(`${show(name)} has ${what}: passed over`)
      return { points: new Float64Array(0), corners: [] }
    }
    if (targets.length > 0) warnings.push(`${show(name)} has morph targets: it is taken as it rests`)
    const points = numbersOf(form, buffers, position)
    const vertices = points.length / 3
    const list =
      primitive.indices === undefined
        ? Uint32Array.from({ length: vertices }, (_, i) => i)
        : Uint32Array.from(numbersOf(form, buffers, primitive.indices))
    const stray = list.findIndex((index) => index >= vertices)
    if (stray >= 0) refuse(`index ${stray} of ${show(name)} is ${list[stray]}, and it has ${vertices} vertices`)
    return {
      points,
      corners: mode === TRIANGLES ? list.subarray(0, list.length - (list.length % 3)) : laidOut(list, mode),
    }
  }
}

/** The corners of a strip or a fan, three for each triangle. */
function laidOut(list: Uint32Array, mode: number): number[] {
  const corners: number[] = []
  for (let i = 2; i < list.length; i++) {
    if (mode === FAN) corners.push(list[0], list[i - 1], list[i])
    else if (i % 2 === 0) corners.push(list[i - 2], list[i - 1], list[i])
    else corners.push(list[i - 1], list[i - 2], list[i])
  }
  return corners
}

/** How a matrix scales: whether unevenly or with shear, and whether it mirrors. */
function axesOf(m: Matrix): { uneven: boolean; mirrored: boolean } {
  const dot = (a: number, b: number): number => m[a] * m[b] + m[a + 1] * m[b + 1] + m[a + 2] * m[b + 2]
  const squares = [dot(0, 0), dot(4, 4), dot(8, 8)]
  const most = Math.max(...squares)
  const skew = Math.max(Math.abs(dot(0, 4)), Math.abs(dot(4, 8)), Math.abs(dot(8, 0)))
  const volume =
    m[0] * (m[5] * m[10] - m[6] * m[9]) + m[1] * (m[6] * m[8] - m[4] * m[10]) + m[2] * (m[4] * m[9] - m[5] * m[8])
  return { uneven: most - Math.min(...squares) > EVEN * most || skew > EVEN * most, mirrored: volume < 0 }
}
