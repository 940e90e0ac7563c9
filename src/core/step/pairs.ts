/**
 * Candidate pairs of colliders: those whose bounds are near and whose filter lets them meet. A pair lives as long as
 * that holds and remembers what was established about it. `a` is always the older collider.
 */
import { type Filter, PASS, SOLID } from '../filter/filter.ts'
import { Hash } from '../save/hash.ts'
import type { StateVisitor } from '../save/state.ts'
import { type Column, IntList, PairMap, Table } from '../state/table.ts'

const NONE = -1

/** The filter and the watches of the pair must be evaluated again. */
export const STALE = 1
/** Listed among the changed pairs of this tick. */
const CHANGED = 2
/** Taken out; the slot is freed after the dispatch. */
const REMOVED = 4
/** To be taken out once the ledger has seen how it ended. */
const TO_REMOVE = 8
/** Met and parted within this tick, from `when` to `exit`: as `response` says, crossed or bounced. */
export const PASSED_THROUGH = 16
/** To be asked about even though it has an answer. */
export const ASK_AGAIN = 64
/** Of what passed through: the two were pressed apart, and bounced. */
export const PRESSED_APART = 128
/** One of the two has changed its shape where the other is near. */
export const RESHAPED_NEAR = 256
/** A decide hook has changed its answer. */
export const REJUDGED = 32

export class Pairs {
  readonly table = new Table(64)
  readonly a = this.table.i32()
  readonly b = this.table.i32()
  readonly flags = this.table.i32()
  /** What the filter says of the pair. */
  readonly response = this.table.i32()
  /** How they meet, as established by the last step: 0 apart, otherwise SENSE or SOLID. */
  readonly state = this.table.i32()
  /** How they meet at the end of this tick. */
  readonly next = this.table.i32()
  /** When in the tick (0..1) `state` turned into `next`. */
  readonly when = this.table.f64()
  /** What decide hooks made of it: 0 not asked since they came into touch, else 1 + the strongest response allowed. */
  readonly answer = this.table.i32()
  /** 1 while one of the two passes through the other by its one-way side, until they part. */
  readonly through = this.table.i32()
  /** For a pair that met and parted within this tick, when it parted. */
  readonly exit = this.table.f64()
  /** Of a solid pair in the last tick: newton seconds along the normal and across it, lengths a second of closing. */
  readonly impulse = this.table.f64()
  readonly friction = this.table.f64()
  readonly closing = this.table.f64()
  /**
   * The sum of the odometers of the two up to which they surely meet, or are apart, as they do: no verdict is needed before. 0 where that is
   * not known.
   */
  readonly settled = this.table.f64()
  /** First of the ledger's links of this pair, or -1. */
  readonly firstLink = this.table.i32()
  /** Pairs that the ledger must look at in this tick. */
  readonly changed = new IntList()
  /** Pairs to be put to the decide hooks in this tick. */
  readonly toAsk = new IntList()
  /** Whether there are decide hooks, and whether any wants to be asked in every tick. */
  hasHooks = false
  askEvery = false
  private readonly toRemove = new IntList()
  private readonly links = this.table.i32(4)
  private readonly map = new PairMap()
  private readonly removed = new IntList()
  private heads = new Int32Array(64).fill(NONE)
  private readonly older: (p: number, q: number) => boolean

  /** @param serial the age of each collider */
  constructor(serial: Column<Int32Array>) {
    const { a, b } = this
    this.older = (p, q) => {
      const first = serial.data[a.data[p]] - serial.data[a.data[q]]
      return first !== 0 ? first < 0 : serial.data[b.data[p]] < serial.data[b.data[q]]
    }
  }

  /** The strongest response that hooks and one-way sides allow a pair. */
  allowedResponse(pair: number): number {
    if (this.through.data[pair] !== 0) return PASS
    const answer = this.answer.data[pair]
    return answer === 0 ? SOLID : answer - 1
  }

  /** The pair of two colliders, the older first, or -1. */
  find(a: number, b: number): number {
    return this.map.get(a, b)
  }

  /** Adds a pair that is not there yet. */
  add(a: number, b: number, response: number): number {
    const pair = this.table.claim()
    this.a.data[pair] = a
    this.b.data[pair] = b
    this.response.data[pair] = response
    this.firstLink.data[pair] = NONE
    this.flags.data[pair] = STALE
    this.map.set(a, b, pair)
    this.linkEdge(2 * pair, a)
    this.linkEdge(2 * pair + 1, b)
    return pair
  }

  /** The first edge of a collider's pairs, or -1. An edge is 2 * pair, plus 1 when the collider is `b`. */
  firstEdge(c: number): number {
    return c < this.heads.length ? this.heads[c] : NONE
  }

  nextEdge(edge: number): number {
    return this.links.data[2 * edge]
  }

  /** Lists a pair for the ledger, once. */
  markChanged(pair: number): void {
    if ((this.flags.data[pair] & CHANGED) !== 0) return
    this.flags.data[pair] |= CHANGED
    this.changed.push(pair)
  }

  /** Puts the pairs to be asked about in the order of age. */
  sortAsked(): void {
    this.toAsk.sort(this.older)
  }

  /** Makes the next step put every pair that has an answer, or might have had one, to the hooks again. */
  askAgain(): void {
    for (let pair = 0; pair < this.table.size; pair++) {
      if (!this.alive(pair) || (this.state.data[pair] === 0 && this.answer.data[pair] === 0)) continue
      this.flags.data[pair] |= STALE | ASK_AGAIN
    }
  }

  /** Puts the listed pairs in the order of age. */
  sortChanged(): void {
    this.changed.sort(this.older)
  }

  /** Says that a pair is no candidate any more: it goes with the end of the comparison. */
  scheduleRemoval(pair: number): void {
    if ((this.flags.data[pair] & TO_REMOVE) !== 0) return
    this.flags.data[pair] |= TO_REMOVE
    this.toRemove.push(pair)
  }

  /** Empties the list of changed pairs and takes out the doomed: those that still hold nothing, now that all is booked. */
  endTick(filter: Filter): void {
    const { changed, toRemove, flags } = this
    for (let i = 0; i < changed.length; i++) flags.data[changed.data[i]] &= ~CHANGED
    changed.clear()
    for (let i = 0; i < toRemove.length; i++) {
      const pair = toRemove.data[i]
      flags.data[pair] &= ~TO_REMOVE
      // A hook may have let it touch after all.
      const presses = this.state.data[pair] === SOLID && filter.isPressed(this.a.data[pair], this.b.data[pair])
      if (this.firstLink.data[pair] === NONE && !presses) this.remove(pair)
    }
    toRemove.clear()
  }

  /** Marks every pair to be processed again. */
  markAllStale(): void {
    for (let pair = 0; pair < this.table.size; pair++) if (this.alive(pair)) this.flags.data[pair] |= STALE
  }

  /** Marks every pair of a collider to be processed again. */
  markStale(c: number): void {
    for (let edge = this.firstEdge(c); edge !== NONE; edge = this.nextEdge(edge)) this.flags.data[edge >> 1] |= STALE
  }

  /**
   * Appends the pairs that need a verdict: all that are not settled.
   * @param odometers two numbers a collider, the first of which counts; null where nothing may be left out
   */
  listOpen(odometers: Float64Array | null, out: IntList): void {
    const { size } = this.table
    out.reserve(out.length + size)
    const list = out.data
    let count = out.length
    if (odometers === null) for (let pair = 0; pair < size; pair++) list[count++] = pair
    else {
      const a = this.a.data
      const b = this.b.data
      const flags = this.flags.data
      const settled = this.settled.data
      for (let pair = 0; pair < size; pair++) {
        const isSettled = odometers[2 * a[pair]] + odometers[2 * b[pair]] < settled[pair]
        if (!isSettled || (flags[pair] & STALE) !== 0) list[count++] = pair
      }
    }
    out.length = count
  }

  /** What was said of a collider's pairs does not last. */
  unsettle(c: number): void {
    for (let edge = this.firstEdge(c); edge !== NONE; edge = this.nextEdge(edge)) this.settled.data[edge >> 1] = 0
  }

  /** Takes a pair out; it can still be read until {@link release}. */
  remove(pair: number): void {
    const a = this.a.data[pair]
    const b = this.b.data[pair]
    this.map.delete(a, b)
    this.unlinkEdge(2 * pair, a)
    this.unlinkEdge(2 * pair + 1, b)
    this.flags.data[pair] |= REMOVED
    this.removed.push(pair)
  }

  /** Frees the slots of the pairs that were removed; `each` is called for every one first. */
  release(each: (pair: number) => void): void {
    for (let i = 0; i < this.removed.length; i++) {
      each(this.removed.data[i])
      this.table.release(this.removed.data[i])
    }
    this.removed.clear()
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.table.visit(v)
    this.map.visit(v)
    this.heads = v.numbers(this.heads)
    for (const list of [this.changed, this.toAsk, this.toRemove, this.removed]) list.visit(v)
    this.hasHooks = v.flag(this.hasHooks)
  }

  /** Adds what is known of the pairs, in whatever order they stand. */
  hash(into: Hash): void {
    const { a, b, state, answer, through, impulse, friction } = this
    let one = 0
    let two = 0
    for (let pair = 0; pair < this.table.size; pair++) {
      if (!this.alive(pair) || (state.data[pair] === 0 && answer.data[pair] === 0)) continue
      const each = new Hash()
      each.word(a.data[pair])
      each.word(b.data[pair])
      each.word(4 * state.data[pair] + answer.data[pair])
      each.word(through.data[pair])
      each.number(impulse.data[pair])
      each.number(friction.data[pair])
      const [more, other] = each.lanes()
      one = (one + more) | 0
      two = (two + other) | 0
    }
    into.word(one)
    into.word(two)
  }

  /** Whether a slot holds a living pair. */
  alive(pair: number): boolean {
    return this.a.data[pair] !== this.b.data[pair] && (this.flags.data[pair] & REMOVED) === 0
  }

  private linkEdge(edge: number, c: number): void {
    if (c >= this.heads.length) {
      const wider = new Int32Array(Math.max(2 * this.heads.length, c + 1)).fill(NONE)
      wider.set(this.heads)
      this.heads = wider
    }
    const links = this.links.data
    const head = this.heads[c]
    links[2 * edge] = head
    links[2 * edge + 1] = NONE
    if (head !== NONE) links[2 * head + 1] = edge
    this.heads[c] = edge
  }

  private unlinkEdge(edge: number, c: number): void {
    const links = this.links.data
    const next = links[2 * edge]
    const before = links[2 * edge + 1]
    if (before === NONE) this.heads[c] = next
    else links[2 * before] = next
    if (next !== NONE) links[2 * next + 1] = before
  }
}
