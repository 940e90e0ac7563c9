/**
 * For games that move their bodies themselves: everything of `keen-sentry/3d` but forces, in fewer bytes. Of the types of bodies there
 * are `'static'` and `'kinematic'`. What colliders say of their surfaces (density, friction, `oneWay` …) is kept, and acts on nothing.
 * @module keen-sentry/3d/kinematic
 */
import { type Explanation, explain as explainPair } from '../../core/filter/explain.ts'
import type { SaveOptions } from '../../core/save/save.ts'
import type { Kinds, KindsOf } from '../../core/state/handle.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import type { RestoreOptions } from '../../core/world.ts'
import type { Body3 } from '../body.ts'
import type { Collider3 } from '../collider.ts'
import { makeSaver3 } from '../save.ts'
import { World3, type WorldOptions3 } from '../world.ts'

export * from '../common.ts'

/**
 * A new, empty world without forces. A dynamic body is refused there.
 * @throws KeenError `bad-argument`, `bad-number`, `duplicate-name`
 * @example const world = createWorld({ layers: defineLayers(['rock', 'craft']), tags: ['player'], rate: 60 })
 */
export function createWorld<const L extends string, const T extends string = never, D = unknown>(
  options: WorldOptions3<L, T, D>,
): World3<KindsOf<L, T, D>> {
  return new World3<KindsOf<L, T, D>>(options, { makeForces: null, reasons: null, makeSaver: null })
}

/**
 * Why two bodies or colliders meet or do not: what `world.explain` says in a world of `keen-sentry/3d`. Bundled only where it is imported.
 * @throws KeenError `bad-argument`, `foreign-handle`, `locked` inside a decide hook
 * @example console.log(String(explain(world, craft, beacon)))
 */
export function explain<K extends Kinds>(
  world: World3<K>,
  a: Body3<K> | Collider3<K>,
  b: Body3<K> | Collider3<K>,
): Explanation {
  return checked(world, 'explain').explainWith(explainPair, a, b)
}

/**
 * The state of a world as bytes that last: what `world.save` gives in a world of `keen-sentry/3d`. Bundled only where it is imported.
 * @throws KeenError `bad-argument`, `locked` from inside a handler or a hook
 * @example const bytes = save(world); restore(other, bytes)
 */
export function save<K extends Kinds>(world: World3<K>, options: SaveOptions<Body3<K>> = {}): Uint8Array {
  return checked(world, 'save').saveWith(makeSaver3, options)
}

/**
 * Puts a world to where another one, made with the same options, was when it was saved: what `world.restore` does in a world of `keen-sentry/3d`.
 * @throws KeenError `bad-save`, `bad-argument`, `locked` from inside a handler or a hook
 */
export function restore<K extends Kinds>(
  world: World3<K>,
  bytes: Uint8Array,
  options: RestoreOptions<K['data']> = {},
): void {
  checked(world, 'restore').restoreWith(makeSaver3, bytes, options)
}

function checked<K extends Kinds>(world: World3<K>, what: string): World3<K> {
  if (world instanceof World3) return world
  throw new KeenError('bad-argument', `${what} takes a world of 3D first, got ${show(world)}`)
}
