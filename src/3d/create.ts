/** A world with everything: forces too. */
import { advise } from '../core/filter/advise.ts'
import { explain } from '../core/filter/explain.ts'
import type { KindsOf } from '../core/state/handle.ts'
import { makeSaver3 } from './save.ts'
import { makeForces3 } from './solve/forces.ts'
import { type Features3, World3, type WorldOptions3 } from './world.ts'

const EVERYTHING: Features3 = { makeForces: makeForces3, reasons: { explain, advise }, makeSaver: makeSaver3 }

/**
 * A new, empty world.
 * @throws KeenError `bad-argument`, `bad-number`, `duplicate-name`
 * @example const world = createWorld({ layers: defineLayers(['rock', 'crawler']), tags: ['player'], rate: 60 })
 */
export function createWorld<const L extends string, const T extends string = never, D = unknown>(
  options: WorldOptions3<L, T, D>,
): World3<KindsOf<L, T, D>> {
  return new World3<KindsOf<L, T, D>>(options, EVERYTHING)
}
