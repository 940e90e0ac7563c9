/**
 * glTF 2.0 files as a source of collision meshes and hulls.
 * @module keen-sentry-scenes/gltf
 */
export type { ModelLimits } from './form.ts'
export { BELOW } from './place.ts'
export { type Model, type ModelNode, type ReadModelOptions, readModel } from './read.ts'
