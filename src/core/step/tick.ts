/** What happens in a tick, in order. Each line is a stage; the stages of a dimension stand behind `kernel`. */

import { ON, PASS, SENSE, SOLID } from '../filter/filter.ts'
import type { Population } from '../state/population.ts'
import { causeOfPair, causeOfPassing, hasTime } from '../watch/causes.ts'
import type { DecideHooks, Hook } from '../watch/decideHooks.ts'
import type { Dispatch } from '../watch/dispatch.ts'
import type { Interest } from '../watch/interest.ts'
import type { Ledger } from '../watch/ledger.ts'
import { LAYERS, type Matcher, type Side, STAR, TAG } from '../watch/sides.ts'
import type { Watch } from '../watch/watch.ts'
import type { Crossings } from './crossings.ts'
import type { Kernel } from './kernel.ts'
import { PASSED_THROUGH, type Pairs, PRESSED_APART, REJUDGED } from './pairs.ts'

export interface Rooms<B extends object, C extends object, V extends object> {
  readonly population: Population<B, C>
  readonly pairs: Pairs
  readonly interest: Interest<Watch<B, C, V>, B, C>
  /** Which pairs the decide hooks match. */
  readonly hookInterest: Interest<Hook<B, C, V>, B, C>
  /** Whether any watch or hook matches a pair. */
  isWatched(a: number, b: number, response: number): boolean
  readonly matcher: Matcher<B, C>
  readonly ledger: Ledger<B, C, V>
  readonly decide: DecideHooks<B, C, V>
  readonly dispatch: Dispatch<B, C, V>
  readonly kernel: Kernel<V>
  readonly crossings: Crossings
  /** Watches made or stopped since the last step. */
  readonly freshWatches: Watch<B, C, V>[]
  /** Hooks made since the last step. */
  readonly freshHooks: Hook<B, C, V>[]
  watchesChanged: boolean
  /** A pair's slot is about to be used again. */
  releasePair(pair: number): void
  /** Frees the slots of the dead. */
  release(): void
}

/** One tick, in which handlers are called unless it is quiet. Throws what callbacks threw, after everything is done. */
export function runTick<B extends object, C extends object, V extends object>(
  rooms: Rooms<B, C, V>,
  tick: number,
  quiet: boolean,
): void {
  const { population, pairs, dispatch, kernel, interest } = rooms
  refilter(rooms)
  kernel.prepare()
  kernel.predictBounds()
  kernel.findPairs()
  kernel.noteEdits()
  kernel.findContacts()
  rooms.decide.ask(dispatch.failures)
  kernel.move()
  kernel.findPairs()
  kernel.sweep()
  kernel.judgePairs()
  kernel.noteHits()
  rooms.decide.judge(dispatch.failures)
  compare(rooms, tick)
  population.endTick()
  kernel.forces?.joints.settle(tick)
  dispatch.gather(tick, quiet ? null : interest.watches)
  try {
    dispatch.deliver(quiet)
  } finally {
    rooms.release()
    pairs.release(rooms.releasePair)
  }
}

/** Changes of filters and watches since the last step: who is worth testing, and which pairs must be checked again. */
function refilter<B extends object, C extends object, V extends object>(rooms: Rooms<B, C, V>): void {
  const { population, pairs, interest, hookInterest, kernel } = rooms
  const { watched } = population.filter
  const { changed } = population
  if (rooms.watchesChanged) {
    interest.rebuild()
    hookInterest.rebuild()
  }
  for (let i = 0; i < changed.length; i++) {
    const c = changed.data[i]
    watched.data[c] = interest.bitsOf(c) | hookInterest.bitsOf(c)
    pairs.markStale(c)
    kernel.broadPhase.enqueue(c)
    kernel.wakeTouching(c)
  }
  if (rooms.watchesChanged) lookForWatched(rooms)
}

/** After watches came or went: what each collider is worth testing against, and where to look for new pairs. */
function lookForWatched<B extends object, C extends object, V extends object>(rooms: Rooms<B, C, V>): void {
  const { population, pairs, interest, hookInterest, kernel } = rooms
  const { activeLayers, watched, flags } = population.filter
  rooms.watchesChanged = false
  pairs.markAllStale()
  // What a new watch matches may have been adjacent for long: search from the more selective side.
  let layers = 0
  const tags: number[] = []
  for (const watch of [...rooms.freshWatches, ...rooms.freshHooks]) {
    const side = watch.first.kind >= watch.second.kind ? watch.first : watch.second
    if (side.kind === STAR || side.kind === LAYERS) layers |= side.bits
    else if (side.kind === TAG) tags.push(side.tag)
    else for (const c of collidersOf(population, side)) kernel.broadPhase.enqueue(c)
  }
  for (let c = 0; c < population.colliders.size; c++) {
    if ((flags.data[c] & ON) === 0) continue
    watched.data[c] = interest.bitsOf(c) | hookInterest.bitsOf(c)
    if ((activeLayers.data[c] & layers) !== 0 || tags.some((tag) => interest.hasTag(c, tag)))
      kernel.broadPhase.enqueue(c)
  }
}

/** The colliders of a side that names a body or a collider; none when it was removed. */
function collidersOf(population: Population<object, object>, side: Side): number[] {
  if (population.handles.known(side.slot) === side.handle) return [side.slot]
  return population.bodyHandles[side.slot] === side.handle ? population.slotsOf(side.slot) : []
}

/** How a pair came together. */
const approach = new Float64Array(3)

/** Books what changed between the last tick and this one. */
function compare<B extends object, C extends object, V extends object>(
  { kernel, population, pairs, isWatched, ledger, crossings, freshWatches, freshHooks }: Rooms<B, C, V>,
  tick: number,
): void {
  const { changed, a, b, state, next, when, exit, flags } = pairs
  ledger.forgetBounces()
  pairs.sortChanged()
  for (let i = 0; i < changed.length; i++) {
    const pair = changed.data[i]
    const cause = causeOfPair(population, pairs, pair)
    flags.data[pair] &= ~REJUDGED
    if ((flags.data[pair] & PASSED_THROUGH) !== 0) {
      const pressed = (flags.data[pair] & PRESSED_APART) !== 0
      flags.data[pair] &= ~(PASSED_THROUGH | PRESSED_APART)
      const response = pressed ? SOLID : Math.min(pairs.response.data[pair], pairs.allowedResponse(pair))
      if (!pressed) pairs.answer.data[pair] = 0
      ledger.bookPassing(pair, response, when.data[pair], exit.data[pair], causeOfPassing(pressed))
      kernel.readApproach(pair, approach, 0)
      const speed = Math.sqrt(approach[0] * approach[0] + approach[1] * approach[1] + approach[2] * approach[2])
      crossings.note(pair, pairs, tick, speed, pressed)
    } else ledger.book(pair, next.data[pair], cause, hasTime(cause) ? when.data[pair] : 0)
    state.data[pair] = next.data[pair]
    const response = pairs.response.data[pair]
    if (state.data[pair] !== 0) continue
    const one = a.data[pair]
    const other = b.data[pair]
    const silent = response === SENSE || !population.filter.isPressed(one, other)
    if (response === PASS || (silent && !isWatched(one, other, response))) pairs.scheduleRemoval(pair)
  }
  pairs.endTick(population.filter)
  for (const watch of freshWatches) watch.fresh = false
  freshWatches.length = 0
  freshHooks.length = 0
}
