/**
 * One of two who play together over a network that delays, loses and reorders. Each plays at once, with what the other is believed to do; when it turns out that
 * they did something else, the world goes back to that tick and the ticks since are played again, before anybody sees it. Of ticks whose inputs are known of both, hashes
 * are compared.
 */
import type { Snapshot } from 'keen-sentry'
import { type Match, newMatch, playTick } from './match.ts'

/** Ticks by which an own input waits: what the other hears in that time needs no going back. */
export const INPUT_DELAY = 2
/** Ticks that may be played without knowing what the other does; then one waits. */
export const MOST_AHEAD = 60
const RING = 128

/** What goes over the network. Whatever may have been lost is sent again. */
export interface Message {
  /** The tick of the first input. */
  readonly first: number
  readonly inputs: readonly number[]
  /** The last tick of which the sender knows the input of the other, without a gap. */
  readonly knows: number
  /** By how many ticks the sender is ahead of what is known. */
  readonly lead: number
  /** Hashes of ticks that are certain, from one on. */
  readonly firstHash: number
  readonly hashes: readonly string[]
  /** The last tick of which the sender has compared the hash. */
  readonly compared: number
}

/** A tick in the past: the world and the score after it. */
interface State {
  world: Snapshot
  score: [number, number]
}

export class Session {
  readonly match: Match = newMatch()
  /** Ticks that were played again, all in all; and the longest way back. */
  again = 0
  longest = 0
  /** Steps that were left out to let the other catch up, and because too little was known of the other. */
  waited = 0
  /** The last tick up to which all hashes were compared, and the first that differed. */
  compared = 0
  parted: number | null = null
  private readonly me: 0 | 1
  /** Inputs of either, by tick. */
  private readonly inputs: [Map<number, number>, Map<number, number>] = [new Map(), new Map()]
  /** What the other was believed to do in a tick. */
  private readonly believed = new Map<number, number>()
  private readonly states: State[] = []
  private readonly hashes = new Map<number, string>()
  private readonly theirHashes = new Map<number, string>()
  /** The last tick without a gap of which the input of the other is known; and of which the other knows the own one. */
  private known = INPUT_DELAY
  private acknowledged = INPUT_DELAY
  private theirCompared = 0
  private theirLead = 0
  private wrongFrom = Infinity
  private waitedLast = -1

  constructor(me: 0 | 1) {
    this.me = me
    // Nobody has pressed anything before the first input counts.
    for (const inputs of this.inputs) for (let tick = 1; tick <= INPUT_DELAY; tick++) inputs.set(tick, 0)
    this.keep(0)
  }

  get tick(): number {
    return this.match.world.tick
  }

  /** The last tick that nothing can change any more. */
  get confirmed(): number {
    return Math.min(this.known, this.tick, this.wrongFrom - 1)
  }

  /** The hash of a tick, where it is certain and not long ago. */
  hashOf(tick: number): string | undefined {
    return tick <= this.confirmed ? this.hashes.get(tick) : undefined
  }

  /** A tick of the clock. Returns false where it was left out. */
  play(keys: number): boolean {
    this.goBack()
    const lead = this.tick - this.known
    // Whoever is further ahead than the other waits now and then; both wait where nothing is heard.
    if (lead >= MOST_AHEAD || (lead - this.theirLead > 2 && this.tick % 4 === 0 && this.waitedLast !== this.tick)) {
      this.waitedLast = this.tick
      this.waited++
      return false
    }
    this.inputs[this.me].set(this.tick + 1 + INPUT_DELAY, keys)
    this.advance(false)
    this.compare()
    return true
  }

  /** What is to be sent now. */
  message(): Message {
    const first = this.acknowledged + 1
    const inputs: number[] = []
    for (let tick = first; this.inputs[this.me].has(tick); tick++) inputs.push(this.inputs[this.me].get(tick)!)
    const firstHash = this.theirCompared + 1
    const hashes: string[] = []
    for (let tick = firstHash; tick <= this.confirmed; tick++) {
      const hash = this.hashes.get(tick)
      if (hash === undefined) break
      hashes.push(hash)
    }
    return {
      first,
      inputs,
      knows: this.known,
      lead: this.tick - this.known,
      firstHash,
      hashes,
      compared: this.compared,
    }
  }

  /** Takes a message, in whatever order they come, and as often as they do. */
  receive({ first, inputs, knows, lead, firstHash, hashes, compared }: Message): void {
    const theirs = this.inputs[1 - this.me]
    for (const [i, keys] of inputs.entries()) {
      const tick = first + i
      if (theirs.has(tick)) continue
      theirs.set(tick, keys)
      if (tick <= this.tick && this.believed.get(tick) !== keys) this.wrongFrom = Math.min(this.wrongFrom, tick)
    }
    while (theirs.has(this.known + 1)) this.known++
    // What comes late says less than what is known already.
    if (knows >= this.acknowledged) this.theirLead = lead
    this.acknowledged = Math.max(this.acknowledged, knows)
    this.theirCompared = Math.max(this.theirCompared, compared)
    for (const [i, hash] of hashes.entries()) this.theirHashes.set(firstHash + i, hash)
  }

  /** Plays again what was played on a wrong belief. */
  private goBack(): void {
    const from = this.wrongFrom
    if (from === Infinity) return
    const now = this.tick
    this.wrongFrom = Infinity
    const state = this.states[(from - 1) % RING]
    this.match.world.restore(state.world)
    this.match.score.splice(0, 2, ...state.score)
    while (this.tick < now) this.advance(true)
    this.again += now - from + 1
    this.longest = Math.max(this.longest, now - from + 1)
  }

  private advance(quiet: boolean): void {
    const tick = this.tick + 1
    const theirs = this.inputs[1 - this.me]
    // As they did last, until one hears otherwise.
    const keys = theirs.get(tick) ?? theirs.get(this.known) ?? 0
    this.believed.set(tick, keys)
    const own = this.inputs[this.me].get(tick)!
    playTick(this.match, this.me === 0 ? [own, keys] : [keys, own], quiet)
    this.hashes.set(tick, this.match.world.hash())
    this.keep(tick)
    const old = tick - RING
    for (const map of [...this.inputs, this.believed, this.theirHashes]) (map as Map<number, unknown>).delete(old)
    if (old <= Math.min(this.compared, this.theirCompared)) this.hashes.delete(old)
  }

  private keep(tick: number): void {
    const at = tick % RING
    const before = this.states[at] as State | undefined
    this.states[at] = { world: this.match.world.snapshot(before?.world), score: [...this.match.score] }
  }

  private compare(): void {
    for (let tick = this.compared + 1; tick <= this.confirmed; tick++) {
      const theirs = this.theirHashes.get(tick)
      if (theirs === undefined) return
      if (theirs !== this.hashes.get(tick)) this.parted ??= tick
      this.compared = tick
    }
  }
}
