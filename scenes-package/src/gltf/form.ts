/**
 * The parts of a glTF 2.0 file that make triangles, and whether they are sound: every reference leads somewhere, every byte
 * that is read is there, and the nodes are a tree. Files come from anywhere, so this is asked before anything is allocated.
 */
import { KeenError } from 'keen-sentry'
import { z } from 'zod'
import { COMPONENT_BYTES, COMPONENTS } from './accessor.ts'

/** What a file may hold at most. */
export interface ModelLimits {
  /** Bytes of the file with all of its buffers. Default 256 million. */
  readonly bytes: number
  /** Nodes of the scene graph, at most. */
  readonly nodes: number
  /** Vertices and indices of all nodes, once for each node that uses them. */
  readonly elements: number
}

export const LIMITS: ModelLimits = { bytes: 256e6, nodes: 20_000, elements: 20e6 }
/** Nodes above a node, at most. */
const DEEPEST = 200

const index = z.int().min(0)
const count = z.int().min(0).max(1e9)
const finite = z.number()
const label = z.string().max(1000).optional()

const formSchema = z.object({
  asset: z.object({ version: z.string() }),
  extensionsRequired: z.array(z.string()).optional(),
  scene: index.optional(),
  scenes: z.array(z.object({ name: label, nodes: z.array(index).optional() })).optional(),
  nodes: z
    .array(
      z.object({
        name: label,
        mesh: index.optional(),
        skin: index.optional(),
        children: z.array(index).optional(),
        matrix: z.array(finite).length(16).optional(),
        translation: z.array(finite).length(3).optional(),
        rotation: z.array(finite).length(4).optional(),
        scale: z.array(finite).length(3).optional(),
      }),
    )
    .optional(),
  meshes: z
    .array(
      z.object({
        name: label,
        primitives: z.array(
          z.object({
            attributes: z.object({ POSITION: index.optional() }),
            indices: index.optional(),
            mode: z.int().min(0).max(6).optional(),
            targets: z.array(z.unknown()).optional(),
          }),
        ),
      }),
    )
    .optional(),
  accessors: z
    .array(
      z.object({
        bufferView: index.optional(),
        byteOffset: count.optional(),
        componentType: z.union([
          z.literal(5120),
          z.literal(5121),
          z.literal(5122),
          z.literal(5123),
          z.literal(5125),
          z.literal(5126),
        ]),
        normalized: z.boolean().optional(),
        count: count.min(1),
        type: z.enum(['SCALAR', 'VEC2', 'VEC3', 'VEC4', 'MAT2', 'MAT3', 'MAT4']),
        sparse: z
          .object({
            count: count.min(1),
            indices: z.object({
              bufferView: index,
              byteOffset: count.optional(),
              componentType: z.union([z.literal(5121), z.literal(5123), z.literal(5125)]),
            }),
            values: z.object({ bufferView: index, byteOffset: count.optional() }),
          })
          .optional(),
      }),
    )
    .optional(),
  bufferViews: z
    .array(
      z.object({
        buffer: index,
        byteOffset: count.optional(),
        byteLength: count,
        byteStride: z.int().min(4).max(252).optional(),
      }),
    )
    .optional(),
  buffers: z.array(z.object({ uri: z.string().optional(), byteLength: count })).optional(),
})

export type Form = z.infer<typeof formSchema>
type Accessor = NonNullable<Form['accessors']>[number]

/** What a reader must know of that changes where triangles are; the rest is about looks. */
const HARMLESS = /^(KHR_mesh_quantization$|KHR_materials_|KHR_texture_|KHR_lights_|EXT_texture_|KHR_xmp|KHR_animation_)/
const TRIANGLE_MODE = 4

export function refuse(reason: string): never {
  throw new KeenError('bad-model', reason)
}

/**
 * The form of a glTF document, with nothing in it that makes no triangles.
 * @throws KeenError `bad-model`
 */
export function readForm(json: unknown, limits: ModelLimits): Form {
  const parsed = formSchema.safeParse(json)
  if (!parsed.success) {
    const [issue] = parsed.error.issues
    refuse(`${issue.path.length === 0 ? 'the document' : issue.path.join('.')} is not what glTF says: ${issue.message}`)
  }
  const form = parsed.data
  if (!/^2\.\d+$/.test(form.asset.version)) refuse(`it is of glTF ${form.asset.version.slice(0, 20)}, and 2.0 is read`)
  for (const name of form.extensionsRequired ?? []) {
    if (!HARMLESS.test(name)) refuse(`it needs the extension ${name.slice(0, 60)}, which is not read`)
  }
  checkReferences(form)
  checkTree(form, limits)
  checkMeshes(form, limits)
  return form
}

function within(value: number | undefined, list: readonly unknown[] | undefined, what: string): void {
  const length = list?.length ?? 0
  if (value !== undefined && value >= length) refuse(`${what} is ${value}, and there are ${length}`)
}

function checkReferences(form: Form): void {
  within(form.scene, form.scenes, 'scene')
  for (const [i, view] of (form.bufferViews ?? []).entries()) {
    within(view.buffer, form.buffers, `bufferViews.${i}.buffer`)
    const { byteLength } = form.buffers![view.buffer]
    if ((view.byteOffset ?? 0) + view.byteLength > byteLength) refuse(`bufferViews.${i} reaches beyond its buffer`)
  }
  for (const [i, node] of (form.nodes ?? []).entries()) within(node.mesh, form.meshes, `nodes.${i}.mesh`)
}

/** Every node once, under one parent or at the top, and not too deep. */
function checkTree(form: Form, limits: ModelLimits): void {
  const nodes = form.nodes ?? []
  if (nodes.length > limits.nodes) refuse(`it has ${nodes.length} nodes, and at most ${limits.nodes} are read`)
  const parents = new Int32Array(nodes.length).fill(-1)
  for (const [i, node] of nodes.entries()) {
    for (const child of node.children ?? []) {
      within(child, nodes, `a child of nodes.${i}`)
      if (parents[child] >= 0) refuse(`nodes.${child} has two parents`)
      parents[child] = i
    }
  }
  for (let i = 0; i < nodes.length; i++) {
    let depth = 0
    for (let above = parents[i]; above >= 0; above = parents[above]) {
      if (++depth > DEEPEST) refuse(`nodes.${i} lies in a circle of nodes, or deeper than ${DEEPEST}`)
    }
  }
  for (const [i, scene] of (form.scenes ?? []).entries()) {
    const seen = new Set<number>()
    for (const root of scene.nodes ?? []) {
      within(root, nodes, `a node of scenes.${i}`)
      if (parents[root] >= 0) refuse(`nodes.${root} is in scenes.${i}, and has a parent`)
      if (seen.has(root)) refuse(`nodes.${root} is twice in scenes.${i}`)
      seen.add(root)
    }
  }
}

function checkMeshes(form: Form, limits: ModelLimits): void {
  const accessors = form.accessors ?? []
  for (const [i, accessor] of accessors.entries()) checkAccessor(form, accessor, `accessors.${i}`, limits)
  const uses = new Int32Array(form.meshes?.length ?? 0)
  for (const node of form.nodes ?? []) if (node.mesh !== undefined) uses[node.mesh]++
  let elements = 0
  for (const [m, mesh] of (form.meshes ?? []).entries()) {
    for (const [p, primitive] of mesh.primitives.entries()) {
      const place = `meshes.${m}.primitives.${p}`
      const position = primitive.attributes.POSITION
      within(position, accessors, `${place}.attributes.POSITION`)
      within(primitive.indices, accessors, `${place}.indices`)
      if ((primitive.mode ?? TRIANGLE_MODE) < TRIANGLE_MODE || position === undefined) continue
      if (accessors[position].type !== 'VEC3') refuse(`${place}: positions must be VEC3`)
      elements += uses[m] * accessors[position].count
      if (primitive.indices === undefined) continue
      const list = accessors[primitive.indices]
      if (list.type !== 'SCALAR' || ![5121, 5123, 5125].includes(list.componentType)) {
        refuse(`${place}: indices must be unsigned whole numbers`)
      }
      elements += uses[m] * list.count
    }
  }
  if (elements > limits.elements) {
    refuse(`it has ${elements} vertices and indices, and at most ${limits.elements} are read`)
  }
}

function checkAccessor(form: Form, accessor: Accessor, place: string, limits: ModelLimits): void {
  if (accessor.count > limits.elements) {
    refuse(`${place} has ${accessor.count} elements, and at most ${limits.elements} are read`)
  }
  const bytes = COMPONENT_BYTES[accessor.componentType] * COMPONENTS[accessor.type]
  const { sparse } = accessor
  fits(form, accessor.bufferView, accessor.byteOffset, accessor.count, bytes, place)
  if (sparse === undefined) return
  if (sparse.count > accessor.count) refuse(`${place}.sparse has more elements than the accessor`)
  const { indices, values } = sparse
  fits(form, indices.bufferView, indices.byteOffset, sparse.count, COMPONENT_BYTES[indices.componentType], place)
  fits(form, values.bufferView, values.byteOffset, sparse.count, bytes, place)
}

/** Whether so many elements lie within a view. */
function fits(
  form: Form,
  view: number | undefined,
  offset: number | undefined,
  elements: number,
  bytes: number,
  place: string,
): void {
  if (view === undefined) return
  within(view, form.bufferViews, `${place}.bufferView`)
  const { byteLength, byteStride } = form.bufferViews![view]
  if (byteStride !== undefined && byteStride < bytes) refuse(`${place}: its elements overlap`)
  const stride = byteStride ?? bytes
  if ((offset ?? 0) + stride * (elements - 1) + bytes > byteLength) refuse(`${place} reaches beyond its bufferView`)
}
