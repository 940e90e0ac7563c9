/** Models of a scene: which glTF files it names, and which of their nodes become which colliders. */

import { KeenError } from 'keen-sentry'
import { hull, mesh, type Shape3, type Vec3 } from 'keen-sentry/3d'
import type { Model, ModelNode } from '../gltf/index.ts'
import type { NodeRule, SceneModel } from './schema3d.ts'

/** The models of a scene by the file that it names: read, or why that failed. */
export type Models = ReadonlyMap<string, Model | KeenError>

/** A collider that a node of a model becomes. */
export interface ModelPart {
  readonly node: ModelNode
  readonly rule: NodeRule
  /** Index of the rule. */
  readonly index: number
}

/** The glTF files that a scene names, each once. Of any JSON: what is no scene names none. */
export function modelFiles(json: unknown): string[] {
  const bodies = (json as { bodies?: unknown } | null)?.bodies
  if (!Array.isArray(bodies)) return []
  const files = bodies.map((body) => (body as { model?: { file?: unknown } } | null)?.model?.file)
  return [...new Set(files.filter((file) => typeof file === 'string'))]
}

/**
 * Reads the models of a scene. What cannot be read is kept as its error, for {@link check} to name its place and for the
 * player to throw.
 * @param json the parsed scene file
 * @param load gives the bytes of a file; its place is told from that of the scene file
 */
export async function loadModels(
  json: unknown,
  load: (file: string) => Promise<Uint8Array> | Uint8Array,
): Promise<Models> {
  const models = new Map<string, Model | KeenError>()
  const files = modelFiles(json)
  // Most scenes have no models, and then the reader is not loaded.
  const gltf = files.length === 0 ? null : await import('../gltf/index.ts')
  for (const file of files) {
    try {
      const folder = file.includes('/') ? file.slice(0, file.lastIndexOf('/') + 1) : ''
      models.set(file, await gltf!.readModel(await load(file), { resource: (uri) => load(folder + uri) }))
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error)
      models.set(file, new KeenError('bad-model', `${file}: ${reason}`, { cause: error }))
    }
  }
  return models
}

/**
 * The colliders of a model in the order of the file's nodes. A node becomes what the first rule says that fits its name;
 * where none does, what fits the nearest node above that only groups.
 * @throws KeenError `bad-model` when the file was not read
 */
export function modelParts(model: SceneModel, models: Models): ModelPart[] {
  const file = models.get(model.file)
  if (file === undefined)
    throw new KeenError('bad-model', `${model.file} was not read: load the models of the scene first`)
  if (file instanceof KeenError) throw file
  const patterns = model.nodes.map((rule) => wildcard(rule.name))
  const ruleOf = (node: ModelNode): number => {
    for (const name of [node.name, ...node.groups]) {
      const index = patterns.findIndex((pattern) => pattern.test(name))
      if (index >= 0) return index
    }
    return -1
  }
  return file.nodes.flatMap((node) => {
    const index = ruleOf(node)
    return index < 0 ? [] : [{ node, rule: model.nodes[index], index }]
  })
}

/** `*` is any text, `?` one character. */
export function wildcard(pattern: string): RegExp {
  const text = pattern.replace(/[\\^$.*+?()[\]{}|]/g, (sign) =>
    sign === '*' ? '.*' : sign === '?' ? '.' : `\\${sign}`,
  )
  // Several in a row are one, so that no name takes long.
  return new RegExp(`^${text.replace(/(\.\*)+/g, '.*')}$`, 'su')
}

const made = new WeakMap<ModelNode, Map<string, Shape3>>()

/**
 * The shape that a node becomes; made once for each node and kind.
 * @throws KeenError `bad-shape` when its points make none
 */
export function modelShape({ node, rule }: ModelPart): Shape3 {
  const kind = rule.shape === 'hull' ? 'hull' : `mesh ${rule.sides ?? 'both'}`
  let shapes = made.get(node)
  if (shapes === undefined) made.set(node, (shapes = new Map()))
  let shape = shapes.get(kind)
  if (shape === undefined) {
    const { positions, indices } = node
    shape = rule.shape === 'hull' ? hull(points(positions)) : mesh({ positions, indices, sides: rule.sides })
    shapes.set(kind, shape)
  }
  return shape
}

function points(positions: Float64Array): Vec3[] {
  return Array.from({ length: positions.length / 3 }, (_, i) => ({
    x: positions[3 * i],
    y: positions[3 * i + 1],
    z: positions[3 * i + 2],
  }))
}
