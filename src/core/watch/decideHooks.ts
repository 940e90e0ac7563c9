/**
 * Decide hooks: a last word on a pair that comes into touch. A hook may keep or weaken the response, never raise it; of
 * several the weakest answer wins. The answer is kept until the two part.
 */

import { PASS, RESPONSE_NAMES, SENSE, SOLID } from '../filter/filter.ts'
import { RESPONSES, type Response } from '../filter/layers.ts'
import { PAIR_SURFACE } from '../solve/surfaces.ts'
import { DECIDING, type Population } from '../state/population.ts'
import type { Kernel } from '../step/kernel.ts'
import { PASSED_THROUGH, type Pairs, PRESSED_APART, REJUDGED } from '../step/pairs.ts'
import { notNegative, oneOf, onlyFields } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import { INSPECT } from '../util/inspect.ts'
import { FRICTION, RESTITUTION } from '../util/limits.ts'
import { type Failure, failed } from './dispatch.ts'
import type { Watcher } from './interest.ts'
import type { Matcher, Side } from './sides.ts'
import { keyOf } from './watch.ts'

/** The pair that a hook decides on; filled again for every call. */
export interface DecidedPair<B, C, V> {
  /** The body that matches the first side of the hook. */
  readonly a: B
  /** The body on the second side of the hook. */
  readonly b: B
  /** The collider of `a` that comes into touch. */
  readonly aCollider: C
  /** The collider of `b` that comes into touch. */
  readonly bCollider: C
  /** What the filter says of them. */
  readonly response: 'solid' | 'sense'
  /** Unit, from `a` to `b`. */
  readonly normal: Readonly<V>
  /** How `a` moves as seen from `b`, in lengths a second. */
  readonly approach: Readonly<V>
  /** Friction of the two surfaces together. What a hook sets here holds for this pair until they part. */
  friction: number
  /** 0 does not bounce, 1 bounces without loss; can be set for this pair, until the two part. */
  restitution: number
}

/** What a dimension brings of how surfaces carry what lies on them: a number, or a vector. */
export interface Carrying<V> {
  /** The field of a pair by which a hook reads and sets it. */
  readonly field: string
  /** Makes the value of that field. @param sign -1 where the pair is seen from its second collider */
  read(surface: Float64Array, sign: number): number | V
  /** Checks what a hook has set, and writes it. */
  write(value: unknown, what: string, sign: number, out: Float64Array): void
}

/** How often a hook is asked. */
export interface DecideOptions {
  /** Ask once when the two come into touch (default), or in every tick in which they touch. */
  ask?: 'touch' | 'tick' | undefined
  /** A name for it, for messages. Default: its two sides. */
  key?: string | undefined
}

/** A hook in force. */
export class Hook<B, C, V> implements Watcher {
  /** The sides of the hook, as a text. */
  readonly key: string
  /** @internal */ readonly first: Side
  /** @internal */ readonly second: Side
  /** @internal */ readonly everyTick: boolean
  /** @internal */ readonly id = 0
  /** It is asked about pairs of both kinds. @internal */ readonly response = 0
  /** @internal */ stamp = 0
  /** @internal */ readonly answer: (pair: DecidedPair<B, C, V>) => Response
  private readonly end: (hook: Hook<B, C, V>) => void

  /** @internal */
  constructor(
    first: Side,
    second: Side,
    answer: (pair: DecidedPair<B, C, V>) => Response,
    options: DecideOptions,
    end: (hook: Hook<B, C, V>) => void,
  ) {
    if (typeof answer !== 'function') {
      throw new KeenError('bad-argument', `a decide hook must be a function, got ${show(answer)}`)
    }
    onlyFields(options, ['ask', 'key'], 'the options of a decide hook')
    this.everyTick = oneOf(options.ask ?? 'touch', ['touch', 'tick'], "'ask' of a decide hook") === 'tick'
    this.key = keyOf(options.key, first, second)
    this.first = first
    this.second = second
    this.answer = answer
    this.end = end
  }

  /** Takes the hook back. What it had weakened is as the filter says again from the next step on, cause `decided`. */
  stop(): void {
    this.end(this)
  }

  toString(): string {
    return `hook ${this.key}`
  }

  /** What `JSON.stringify` writes: its key. */
  toJSON(): { key: string } {
    return { key: this.key }
  }

  /** @internal */
  [INSPECT](): string {
    return this.toString()
  }
}

export class DecideHooks<B extends object, C extends object, V extends object> {
  readonly hooks: Hook<B, C, V>[] = []
  private readonly population: Population<B, C>
  private readonly pairs: Pairs
  private readonly matcher: Matcher<B, C>
  private readonly kernel: Kernel<V>
  private readonly numbers = new Float64Array(6)
  private readonly surface = new Float64Array(PAIR_SURFACE)
  private readonly answered = new Float64Array(PAIR_SURFACE)
  private readonly normal: V
  private readonly approach: V

  constructor(population: Population<B, C>, pairs: Pairs, matcher: Matcher<B, C>, kernel: Kernel<V>) {
    this.population = population
    this.pairs = pairs
    this.matcher = matcher
    this.kernel = kernel
    this.normal = kernel.newVector()
    this.approach = kernel.newVector()
  }

  add(hook: Hook<B, C, V>): void {
    this.hooks.push(hook)
    this.changed()
  }

  remove(hook: Hook<B, C, V>): void {
    const at = this.hooks.indexOf(hook)
    if (at < 0) return
    this.hooks.splice(at, 1)
    this.changed()
  }

  /** Other hooks are there than those that gave the answers of a state that was put back. */
  reconsider(): void {
    this.changed()
  }

  /** Hooks came or went: everything that touches is asked about again. */
  private changed(): void {
    this.pairs.askEvery = this.hooks.some((hook) => hook.everyTick)
    // Without hooks too: what the last one had weakened must be judged once more.
    this.pairs.hasHooks = true
    this.pairs.askAgain()
  }

  /** Asks about the pairs that the solver is about to work on, in the order of age: what they answer holds for this tick. */
  ask(failures: Failure[]): void {
    this.run(failures, false)
  }

  /** Asks about the pairs that have come into touch in this tick, and has them judged by the answers. */
  judge(failures: Failure[]): void {
    this.run(failures, true)
    this.pairs.hasHooks = this.hooks.length > 0
  }

  private run(failures: Failure[], judged: boolean): void {
    const { pairs, population } = this
    const { toAsk, answer, flags, next, state } = pairs
    if (toAsk.length === 0) return
    pairs.sortAsked()
    population.lock = DECIDING
    for (let i = 0; i < toAsk.length; i++) {
      const pair = toAsk.data[i]
      const before = answer.data[pair]
      const now = 1 + this.answerOf(pair, failures)
      if ((flags.data[pair] & PASSED_THROUGH) !== 0) {
        // Of what crossed the answer is for this once; what was pressed apart has been.
        if (now === 1) flags.data[pair] &= ~PASSED_THROUGH
        else if ((flags.data[pair] & PRESSED_APART) === 0) answer.data[pair] = now
        continue
      }
      answer.data[pair] = now
      if (now === before || !judged) continue
      this.kernel.judge(pair)
      if (next.data[pair] === state.data[pair]) continue
      if (before !== 0 || state.data[pair] !== 0) flags.data[pair] |= REJUDGED
      pairs.markChanged(pair)
    }
    population.lock = null
    toAsk.clear()
  }

  /**
   * The last word on two that `travel` brings together: the answer that is kept, else that of the hooks, which is kept from now on.
   * @param normal unit, towards the first
   * @param approach lengths a second by which the first moves
   * @param kept only what was answered before
   */
  consult(own: number, other: number, normal: Float64Array, approach: Float64Array, kept: boolean): number {
    const { pairs, population, numbers, kernel } = this
    let pair = kernel.candidates.pairOf(own, other)
    if (pair >= 0 && pairs.answer.data[pair] !== 0) return pairs.allowedResponse(pair)
    if (kept || !this.isMatched(own, other)) return SOLID
    const { serial } = population
    const isA = serial.data[own] < serial.data[other]
    const response = population.filter.respond(own, other)
    if (response === PASS) return SOLID
    if (pair < 0) pair = pairs.add(isA ? own : other, isA ? other : own, response)
    pairs.response.data[pair] = response
    const { length } = normal
    numbers.fill(0)
    for (let k = 0; k < length; k++) {
      numbers[k] = isA ? -normal[k] : normal[k]
      numbers[3 + k] = isA ? approach[k] : -approach[k]
    }
    const failures: Failure[] = []
    population.lock = DECIDING
    const answer = this.weigh(pair, failures)
    population.lock = null
    pairs.answer.data[pair] = 1 + answer
    if (failures.length > 0) throw failed(failures)
    return answer
  }

  private isMatched(a: number, b: number): boolean {
    const { matcher } = this
    return this.hooks.some(
      ({ first, second }) =>
        (matcher.matches(first, a) && matcher.matches(second, b)) ||
        (matcher.matches(first, b) && matcher.matches(second, a)),
    )
  }

  /** The weakest answer of the hooks that match a pair; without any, the strongest response there is. */
  private answerOf(pair: number, failures: Failure[]): number {
    this.kernel.readNormal(pair, this.numbers, 0)
    this.kernel.readApproach(pair, this.numbers, 3)
    return this.weigh(pair, failures)
  }

  /** Asks the hooks, with the normal and the approach that stand in the numbers. */
  private weigh(pair: number, failures: Failure[]): number {
    const { pairs, population, matcher, numbers } = this
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    let weakest: number = RESPONSE_NAMES.indexOf('solid')
    for (const hook of this.hooks) {
      const straight = matcher.matches(hook.first, a) && matcher.matches(hook.second, b)
      if (!straight && !(matcher.matches(hook.first, b) && matcher.matches(hook.second, a))) continue
      const [one, other] = straight ? [a, b] : [b, a]
      const sign = straight ? 1 : -1
      this.kernel.fillVector(this.normal, numbers, 0, sign)
      this.kernel.fillVector(this.approach, numbers, 3, sign)
      const response = pairs.response.data[pair]
      const { surface, answered } = this
      const { carrying } = this.kernel
      this.kernel.readSurface(pair, surface)
      try {
        const decided: DecidedPair<B, C, V> & Record<string, unknown> = {
          a: population.bodyHandles[population.filter.body.data[one]]!,
          b: population.bodyHandles[population.filter.body.data[other]]!,
          aCollider: population.handles.of(one),
          bCollider: population.handles.of(other),
          response: response === SENSE ? 'sense' : 'solid',
          normal: this.normal,
          approach: this.approach,
          friction: surface[0],
          restitution: surface[1],
          [carrying.field]: carrying.read(surface, sign),
        }
        const answer = hook.answer(decided)
        const word = oneOf(answer, RESPONSES, `the answer of decide hook '${hook.key}'`)
        const strength = RESPONSE_NAMES.indexOf(word)
        if (strength > response) {
          throw new KeenError(
            'bad-argument',
            `decide hook '${hook.key}' answered '${word}' for a pair that is '${RESPONSE_NAMES[response]}': a hook can weaken a response, never raise it`,
          )
        }
        if (strength < weakest) weakest = strength
        const what = (field: string): string => `'${field}' set by decide hook '${hook.key}'`
        answered[0] = notNegative(decided.friction, what('friction'), FRICTION)
        answered[1] = notNegative(decided.restitution, what('restitution'), RESTITUTION)
        carrying.write(decided[carrying.field], what(carrying.field), sign, answered)
        if (surface.every((value, i) => value === answered[i])) continue
        this.kernel.writeSurface(pair, answered)
      } catch (error) {
        failures.push({ what: `the decide hook '${hook.key}'`, error })
      }
    }
    return weakest
  }
}
