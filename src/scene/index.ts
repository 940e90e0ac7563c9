/** Scene files: reading, checking and playing them. */
export { check, readScene } from './check.ts'
export {
  type RayState,
  type SceneEvent,
  type SceneKinds,
  ScenePlayer,
  type SceneWorld,
  type StepReport,
} from './play.ts'
export { type Problem, problemText } from './problems.ts'
export {
  type Scene,
  type SceneAction,
  type SceneBody,
  type SceneCollider,
  type SceneRay,
  type SceneShape,
  type SceneSide,
  type SceneWatch,
  sceneJsonSchema,
  sceneSchema,
} from './schema.ts'
export { sceneShape, shapeOf } from './shapes.ts'
