/**
 * Game logic under test without a screen: a world or a scene is played for so long, then asked what happened in it. For any test runner.
 * @module keen-sentry/testing
 */
export {
  type ImpactBound,
  PlayedRun,
  type PlayedSide,
  type PlayedTarget,
  type PlayedWorld,
  type PlayOptions,
  playFor,
  type RunEvent,
  type When,
} from './played.ts'
