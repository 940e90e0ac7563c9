/**
 * Scene files of either dimension: reading, checking and playing them.
 * @module keen-sentry-scenes
 */
export { check, readScene } from './check.ts'
export { type Coverage, CoverageCounter, type CoverageState, type LayerPair } from './coverage.ts'
export { loadModels, type Models, modelFiles } from './models.ts'
export type { SceneSide, SceneWatch } from './parts.ts'
export { type PlayOptions, playScene, type ScenePlayer } from './play.ts'
export { type RayState2, type SceneEvent2, type SceneKinds2, ScenePlayer2, type SceneWorld2 } from './play2d.ts'
export { type RayState3, type SceneEvent3, type SceneKinds3, ScenePlayer3, type SceneWorld3 } from './play3d.ts'
export type { PlayerState, RayState, StepReport } from './player.ts'
export { type Problem, problemText } from './problems.ts'
export {
  type Scene,
  type SceneAction,
  type SceneBody,
  type SceneCollider,
  type SceneRay,
  sceneJsonSchema,
  sceneSchema,
} from './schema.ts'
export type { Scene2, SceneAction2, SceneBody2, SceneCollider2, SceneRay2, SceneShape2 } from './schema2d.ts'
export type {
  NodeRule,
  Scene3,
  SceneAction3,
  SceneBody3,
  SceneCollider3,
  SceneModel,
  SceneRay3,
  SceneShape3,
} from './schema3d.ts'
export { readShape } from './shapes.ts'
export { sceneShape2 } from './shapes2d.ts'
export { sceneShape3 } from './shapes3d.ts'
