/** Everything for a world of 3D. */
export * from './common.ts'
export { createWorld } from './create.ts'
