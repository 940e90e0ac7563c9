/**
 * What knows no dimension: layers, errors, the clock, and the types of events and watches.
 * @module keen-sentry
 */

export type { Advice } from './filter/advise.ts'
export { CHECKS, type Check, type ExplainedCheck, type Explanation } from './filter/explain.ts'
export { defineLayers, type LayerOptions, type LayerSet, Layers, type PairRow, type Response } from './filter/layers.ts'
export { type NearestResults, type OverlapResults, overlapResults } from './query/batch.ts'
export type { QueryFilter } from './query/compiledFilter.ts'
export { Past } from './save/past.ts'
export type { SaveOptions } from './save/save.ts'
export { Snapshot } from './save/state.ts'
export {
  type AnyKinds,
  type BodyJson,
  type BodyOf,
  type ColliderJson,
  type ColliderOf,
  type DataType,
  type EventOf,
  type Kinds,
  type KindsOf,
  type NeedsData,
  ofType,
} from './state/handle.ts'
export { BODY_TYPES, type BodyType } from './state/population.ts'
export { type ClockOptions, type FixedClock, fixedClock } from './util/clock.ts'
export { type ErrorCode, KeenError } from './util/errors.ts'
export { nearestName } from './util/suggestions.ts'
export { CAUSES, type Cause } from './watch/causes.ts'
export type { DecidedPair, DecideOptions, Hook } from './watch/decideHooks.ts'
export { type ContactPoint, EVENT_KINDS, type EventJson, type EventKind, type WatchEvent } from './watch/event.ts'
export type { WatchSide } from './watch/sides.ts'
export type { Watch, WatchHandlers, WatchOptions, WatchPair } from './watch/watch.ts'
export type { RestoreOptions, StepOptions, WorldStats } from './world.ts'
