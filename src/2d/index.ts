/** Everything for a world of 2D. */
export * from './common.ts'
export { createWorld } from './create.ts'
