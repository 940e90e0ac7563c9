/**
 * What the packages of this project share and users have no use for. It may change with every release: `keen-sentry-scenes` asks for
 * exactly the version of `keen-sentry` that it was made with.
 */

export { gridOf, type TileFields, tileBehaviours } from '../2d/tiles/form.ts'
export { multiply, UPRIGHT, writeTurn } from '../3d/vector.ts'
export { masks, PASS, RESPONSE_NAMES, SENSE, SOLID } from '../core/filter/filter.ts'
export { DYNAMIC_FIELDS } from '../core/solve/dynamics.ts'
export type { BodyHandle, ColliderHandle } from '../core/state/handle.ts'
export { onlyFields, record } from '../core/util/checks.ts'
export { show } from '../core/util/errors.ts'
export * as limits from '../core/util/limits.ts'
export { atan2, cosSin } from '../core/util/maths.ts'
export { hint } from '../core/util/suggestions.ts'
export type { WorldCore } from '../core/world.ts'
export { digits } from '../record/log.ts'
