/**
 * Why a pair began or ended: a closed list, and every choice of one. When several reasons meet, the first in this order is reported. Nobody
 * else chooses: the step asks for the cause of a pair, the ledger for that of a watch, of a link and of an end.
 */
import { FRESH, ON, RESHAPED_FLAG, RETYPED_FLAG, WAS_ON } from '../filter/filter.ts'
import { type Population, TELEPORTED } from '../state/population.ts'
import { type Pairs, REJUDGED, RESHAPED_NEAR } from '../step/pairs.ts'

/** Every cause, in the order in which the first that applies is reported. */
export const CAUSES = [
  'removed',
  'added',
  'disabled',
  'enabled',
  'refiltered',
  'reshaped',
  'retyped',
  'ignored',
  'unignored',
  'joined',
  'unjoined',
  'decided',
  'teleported',
  'crossed',
  'bounced',
  'watched',
  'restored',
  'moved',
] as const

/** Why a pair began or ended to meet. */
export type Cause = (typeof CAUSES)[number]

export const REMOVED = 0
const ADDED = 1
const DISABLED = 2
const ENABLED_AGAIN = 3
const REFILTERED = 4
const RESHAPED = 5
const RETYPED = 6
const IGNORED = 7
const UNIGNORED = 8
const JOINED = 9
const UNJOINED = 10
export const DECIDED = 11
const TELEPORTED_TO = 12
const CROSSED = 13
const BOUNCED = 14
const WATCHED = 15
export const RESTORED = 16
const MOVED = 17
/** Later than every cause: the neutral start of a minimum. */
export const NO_CAUSE = 18

/** Why the two of a pair began or ceased to meet in this tick. */
export function causeOfPair(population: Population<object, object>, pairs: Pairs, pair: number): number {
  const { data: flags } = pairs.flags
  let cause = changeOf(population, pairs.a.data[pair], pairs.b.data[pair])
  if ((flags[pair] & RESHAPED_NEAR) !== 0) cause = Math.min(cause, RESHAPED)
  const rejudged = (flags[pair] & REJUDGED) !== 0
  return rejudged ? Math.min(cause, DECIDED) : cause
}

/** Why two met and parted within one tick. */
export function causeOfPassing(pressed: boolean): number {
  return pressed ? BOUNCED : CROSSED
}

/** The cause when a watch starts or stops matching two that meet already: a change of layers or tags. */
export function causeOfStaying(cause: number): number {
  return Math.min(cause, REFILTERED)
}

/**
 * Why two begin to meet for a watch.
 * @param fresh whether the watch was made since the last step
 * @param spokeBefore whether the watch matched the two before
 */
export function causeOfBegin(cause: number, fresh: boolean, spokeBefore: boolean): number {
  if (isPassing(cause)) return cause
  if (fresh) return cause > WATCHED || cause === REFILTERED ? WATCHED : cause
  return cause > DECIDED && !spokeBefore ? REFILTERED : cause
}

/** For what met before or meets still, passing through was plain motion. */
export function causeOfMotion(cause: number): number {
  return isPassing(cause) ? MOVED : cause
}

/** Whether an end replaces the one kept so far: the later one does; of two at the same time, the earlier cause in the list. */
export function isLaterEnd(cause: number, when: number, than: number, thanWhen: number): boolean {
  return than === NO_CAUSE || when > thanWhen || (when === thanWhen && cause < than)
}

/** Whether a cause has a time within the tick; others act at its start. */
export function hasTime(cause: number): boolean {
  return cause === MOVED
}

function isPassing(cause: number): boolean {
  return cause === CROSSED || cause === BOUNCED
}

/** What changed between two colliders in this tick: the first that applies, in the order of the list. */
function changeOf(population: Population<object, object>, a: number, b: number): number {
  const { filter, bodyFlags } = population
  const flagsA = filter.flags.data[a]
  const flagsB = filter.flags.data[b]
  if (((flagsA | flagsB) & FRESH) !== 0) return ADDED
  const before = filter.respondBefore(a, b)
  const now = filter.respond(a, b)
  if (before !== now) {
    const bothOn = (flagsA & flagsB & ON) !== 0
    const bothWereOn = (flagsA & flagsB & WAS_ON) !== 0
    if (bothWereOn && !bothOn) return DISABLED
    if (bothOn && !bothWereOn) return ENABLED_AGAIN
    if (filter.byMasks(a, b) !== filter.byMasksBefore(a, b)) return REFILTERED
    if (filter.ignores(a, b) !== filter.ignoredBefore(a, b)) return filter.ignores(a, b) ? IGNORED : UNIGNORED
    return filter.joined(a, b) ? JOINED : UNJOINED
  }
  if (((flagsA | flagsB) & RESHAPED_FLAG) !== 0) return RESHAPED
  if (((flagsA | flagsB) & RETYPED_FLAG) !== 0) return RETYPED
  const marks = bodyFlags.data[filter.body.data[a]] | bodyFlags.data[filter.body.data[b]]
  return (marks & TELEPORTED) !== 0 ? TELEPORTED_TO : MOVED
}
