/**
 * Everything for a world of 3D.
 * @module keen-sentry/3d
 */
export * from './common.ts'
export { createWorld } from './create.ts'
