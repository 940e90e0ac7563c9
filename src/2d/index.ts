/**
 * Everything for a world of 2D.
 * @module keen-sentry/2d
 */
export * from './common.ts'
export { createWorld } from './create.ts'
