/** A world with everything: forces too. */
import { advise } from '../core/filter/advise.ts'
import { explain } from '../core/filter/explain.ts'
import type { KindsOf } from '../core/state/handle.ts'
import { makeSaver2 } from './save.ts'
import { makeForces2 } from './solve/forces.ts'
import { type Features2, World2, type WorldOptions2 } from './world.ts'

const EVERYTHING: Features2 = { makeForces: makeForces2, reasons: { explain, advise }, makeSaver: makeSaver2 }

/**
 * A new, empty world.
 * @throws KeenError `bad-argument`, `bad-number`, `duplicate-name`
 * @example const world = createWorld({ layers: defineLayers(['rock', 'craft']), tags: ['player'], rate: 60 })
 */
export function createWorld<const L extends string, const T extends string = never, D = unknown>(
  options: WorldOptions2<L, T, D>,
): World2<KindsOf<L, T, D>> {
  return new World2<KindsOf<L, T, D>>(options, EVERYTHING)
}
