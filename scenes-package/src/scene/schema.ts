/**
 * The scene file, version 1: a zod definition for each dimension, from which come the types, the checks of the form, and the
 * published JSON Schema. What the form cannot say (names that must exist, indexes in range) is in `check.ts`.
 */
import { z } from 'zod'
import { type Scene2, sceneSchema2 } from './schema2d.ts'
import { type Scene3, sceneSchema3 } from './schema3d.ts'

/** The form of a scene file. */
export const sceneSchema = z
  .discriminatedUnion('dimension', [sceneSchema2, sceneSchema3])
  .describe(
    'A scene of Keen Sentry: layers, bodies, what they do, and what is watched. Metres, seconds, radians, y up.',
  )

/** A scene of either dimension. */
export type Scene = Scene2 | Scene3
/** What is said of both kinds of scene: the parts that `Scene2` and `Scene3` have under the same name. */
export type SceneBody = Scene['bodies'][number]
/** A collider, as a scene file has it. */
export type SceneCollider = NonNullable<SceneBody['colliders']>[number]
/** Something that is done in a scene at a time. */
export type SceneAction = NonNullable<Scene['actions']>[number]
/** A joint, as a scene file has it. */
export type SceneJoint = NonNullable<Scene['joints']>[number]
/** A ray, as a scene file has it. */
export type SceneRay = NonNullable<Scene['rays']>[number]

/** The published JSON Schema of the scene file. */
export function sceneJsonSchema(): Record<string, unknown> {
  const schema = z.toJSONSchema(sceneSchema) as Record<string, unknown>
  return { ...schema, title: 'Keen Sentry scene, version 1' }
}
