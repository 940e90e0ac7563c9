/** Plays a scene of either dimension. */
import type { Models } from './models.ts'
import { ScenePlayer2 } from './play2d.ts'
import { ScenePlayer3 } from './play3d.ts'
import type { Scene } from './schema.ts'
import type { Scene2 } from './schema2d.ts'
import type { Scene3 } from './schema3d.ts'

/** A player of either dimension; `dimension` tells which. */
export type ScenePlayer = ScenePlayer2 | ScenePlayer3

/** How a scene is played. */
export interface PlayOptions {
  /** Whether `world.advice()` has something to say. Default false. */
  readonly advise?: boolean | undefined
}

/**
 * A scene made into a world, and the player that carries out its paths, actions and rays tick by tick.
 * @param models as `loadModels` gives them; needed where a scene of 3D names some
 * @throws KeenError when the scene was not checked, as `readScene` does; `bad-model`, `bad-shape` by a model
 */
export function playScene(scene: Scene2, models?: Models, options?: PlayOptions): ScenePlayer2
export function playScene(scene: Scene3, models?: Models, options?: PlayOptions): ScenePlayer3
export function playScene(scene: Scene, models?: Models, options?: PlayOptions): ScenePlayer
export function playScene(scene: Scene, models?: Models, { advise }: PlayOptions = {}): ScenePlayer {
  return scene.dimension === '2d' ? new ScenePlayer2(scene, advise) : new ScenePlayer3(scene, models, advise)
}
