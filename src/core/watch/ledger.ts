/**
 * The ledger: for every watch, who meets and what was reported of it. Each pair of colliders that meets has links to the
 * records it counts in; a body-wise record counts several links. A tick first books all changes and only then looks
 * which records became empty or filled, so a handover from one shape to another is no event.
 */

import { SOLID } from '../filter/filter.ts'
import type { StateVisitor } from '../save/state.ts'
import type { Population } from '../state/population.ts'
import { IntList, PairMap, Table } from '../state/table.ts'
import type { Pairs } from '../step/pairs.ts'
import { causeOfBegin, causeOfMotion, causeOfStaying, DECIDED, isLaterEnd, NO_CAUSE } from './causes.ts'
import type { Interest } from './interest.ts'
import type { Watch } from './watch.ts'

const NONE = -1

/** Bits of a record's flags. */
export const TOLD = 1
const DIRTY = 2
/** Key is the pair of bodies. */
const BODYWISE = 4
/** The first side of the watch is matched by the younger of the two. */
export const FLIPPED = 8
/** A collider-wise record whose response changed while they met. */
export const CHANGED_RESPONSE = 16
/** Met and parted within one tick: its end is reported straight after its begin. */
export const PASSED = 32
/** Its strength is over the threshold of its watch: the next impact comes after it has fallen below. */
export const STRUCK = 64

/** Places in what {@link Ledger.measure} writes. */
export const IMPULSE = 0
export const FRICTION = 1
export const CLOSING = 2

export class Ledger<B extends object, C extends object, V extends object> {
  readonly records = new Table(32)
  readonly links = new Table(64)
  /** The watch of each record. */
  readonly watchOf: (Watch<B, C, V> | null)[] = []
  /** Slots of the two bodies, the older first. */
  readonly bodyA = this.records.i32()
  readonly bodyB = this.records.i32()
  /** The colliders that speak for the record, of `bodyA` and `bodyB`. */
  readonly colliderA = this.records.i32()
  readonly colliderB = this.records.i32()
  readonly flags = this.records.i32()
  /** Links that count now, by response. */
  readonly solid = this.records.i32()
  readonly sense = this.records.i32()
  readonly beginTick = this.records.i32()
  /** The cause that was reported with the begin. */
  readonly beganBy = this.records.i32()
  /** Causes and times gathered in this tick. */
  readonly beginCause = this.records.i32()
  readonly endCause = this.records.i32()
  readonly beginWhen = this.records.f64()
  readonly endWhen = this.records.f64()
  /** The pair whose parting gave cause and time of the end. */
  private readonly endPair = this.records.i32()
  /** The pair that last spoke for the record: where its normal stands. */
  readonly pairOf = this.records.i32()
  /** The response that was last reported. */
  readonly toldResponse = this.records.i32()
  /** How those met that passed, and the strengths of the solid ones, summed. */
  readonly passedAs = this.records.i32()
  private readonly passedStrength = this.records.f64(3)
  /** Records with such a strength in this tick. */
  private readonly bounced = new IntList()
  /** Records whose count or response changed and has not been processed. */
  readonly dirty = new IntList()
  private readonly firstLink = this.records.i32()
  private readonly lastLink = this.records.i32()
  private readonly nextOfBodies = this.records.i32()
  private readonly nextOfWatch = this.records.i32()
  private readonly beforeOfWatch = this.records.i32()
  /** From two bodies to the first of their records. */
  private readonly byBodies = new PairMap()

  private readonly linkPair = this.links.i32()
  private readonly linkRecord = this.links.i32()
  private readonly linkResponse = this.links.i32()
  private readonly nextOfPair = this.links.i32()
  private readonly nextOfRecord = this.links.i32()
  private readonly beforeOfRecord = this.links.i32()

  private readonly population: Population<B, C>
  private readonly pairs: Pairs
  private readonly interest: Interest<Watch<B, C, V>, B, C>
  private readonly matched: Watch<B, C, V>[] = []
  private readonly flips: boolean[] = []

  constructor(population: Population<B, C>, pairs: Pairs, interest: Interest<Watch<B, C, V>, B, C>) {
    this.population = population
    this.pairs = pairs
    this.interest = interest
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.records.visit(v)
    this.links.visit(v)
    this.bounced.visit(v)
    this.dirty.visit(v)
    this.byBodies.visit(v)
    const kept = v.objects(this.watchOf)
    if (kept === this.watchOf) return
    this.watchOf.length = 0
    this.watchOf.push(...kept)
  }

  /**
   * Records the new state of a pair of colliders: links for the watches that match it now, none for the others.
   * Where the pair met before and still does, only a change of layers or tags can make a watch match it or cease to.
   */
  book(pair: number, state: number, cause: number, when: number): void {
    const { pairs, matched, flips } = this
    if (state !== 0 && pairs.state.data[pair] !== 0 && cause > DECIDED) {
      cause = causeOfStaying(cause)
      when = 0
    }
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    matched.length = 0
    flips.length = 0
    if (state !== 0) this.interest.collect(a, b, state, matched, flips)
    for (let link = pairs.firstLink.data[pair]; link !== NONE; ) {
      const following = this.nextOfPair.data[link]
      const record = this.linkRecord.data[link]
      const at = matched.indexOf(this.watchOf[record]!)
      if (at < 0) this.unlink(link, cause, when)
      else {
        matched.splice(at, 1)
        flips.splice(at, 1)
        if (this.linkResponse.data[link] !== state) this.relink(link, state, cause, when)
      }
      link = following
    }
    for (let i = 0; i < matched.length; i++) this.link(pair, matched[i], flips[i], state, cause, when)
    matched.length = 0
  }

  /** Books a pair that met and parted within this tick, at these times: it crossed, or was pressed apart and bounced. */
  bookPassing(pair: number, response: number, entry: number, exit: number, cause: number): void {
    const { pairs, passedStrength } = this
    this.book(pair, response, cause, entry)
    for (let link = pairs.firstLink.data[pair]; link !== NONE; link = this.nextOfPair.data[link]) {
      const record = this.linkRecord.data[link]
      this.flags.data[record] |= PASSED
      if (response > this.passedAs.data[record]) this.passedAs.data[record] = response
      if (response !== SOLID) continue
      this.addStrength(pair, passedStrength.data, 3 * record)
      this.bounced.push(record)
    }
    this.book(pair, 0, cause, exit)
  }

  /** Writes how strong the solid pairs of a record were in this tick: impulses summed, the greatest closing speed. */
  measure(record: number, out: Float64Array, at: number): void {
    const { data: passed } = this.passedStrength
    for (let i = 0; i < 3; i++) out[at + i] = passed[3 * record + i]
    if (this.solid.data[record] === 0) return
    for (let link = this.firstLink.data[record]; link !== NONE; link = this.nextOfRecord.data[link]) {
      if (this.linkResponse.data[link] === SOLID) this.addStrength(this.linkPair.data[link], out, at)
    }
  }

  /** A new tick: what bounced in the last one is over. */
  forgetBounces(): void {
    const { bounced, passedStrength } = this
    for (let i = 0; i < bounced.length; i++) {
      for (let k = 0; k < 3; k++) passedStrength.data[3 * bounced.data[i] + k] = 0
    }
    bounced.clear()
  }

  private addStrength(pair: number, out: Float64Array, at: number): void {
    const { impulse, friction, closing } = this.pairs
    out[at + IMPULSE] += impulse.data[pair]
    out[at + FRICTION] += friction.data[pair]
    if (closing.data[pair] > out[at + CLOSING]) out[at + CLOSING] = closing.data[pair]
  }

  /** Calls back for every solid pair of colliders that counts in a record now, the longest first. Cold. */
  eachPair(record: number, each: (pair: number) => void): void {
    for (let link = this.firstLink.data[record]; link !== NONE; link = this.nextOfRecord.data[link]) {
      if (this.linkResponse.data[link] === SOLID) each(this.linkPair.data[link])
    }
  }

  /** For a record that a pair passed through, but that met before or meets now: for it that was plain motion. */
  clearPassing(record: number): void {
    this.flags.data[record] &= ~PASSED
    const { beginCause, endCause } = this
    beginCause.data[record] = causeOfMotion(beginCause.data[record])
    endCause.data[record] = causeOfMotion(endCause.data[record])
  }

  /** Takes all links of a pair away at once, when one of the two is removed. */
  unlinkPair(pair: number, cause: number): void {
    for (let link = this.pairs.firstLink.data[pair]; link !== NONE; ) {
      const following = this.nextOfPair.data[link]
      this.unlink(link, cause, 0)
      link = following
    }
  }

  /** How the two of a record meet: the strongest response present, 0 when they do not. */
  responseOf(record: number): number {
    return this.solid.data[record] > 0 ? SOLID : this.sense.data[record] > 0 ? 1 : 0
  }

  /** Marks a record dirty. */
  markDirty(record: number): void {
    if ((this.flags.data[record] & DIRTY) !== 0) return
    this.flags.data[record] |= DIRTY
    this.beginCause.data[record] = NO_CAUSE
    this.endCause.data[record] = NO_CAUSE
    this.beginWhen.data[record] = 1
    this.endWhen.data[record] = 0
    this.passedAs.data[record] = 0
    this.dirty.push(record)
  }

  /** Clears the dirty flag of a record. */
  clearDirty(record: number): void {
    this.flags.data[record] &= ~DIRTY
  }

  /** Frees a record that has neither links nor anything reported. */
  freeIfIdle(record: number): void {
    if ((this.flags.data[record] & (TOLD | DIRTY)) !== 0 || this.responseOf(record) !== 0) return
    this.free(record)
  }

  /** Drops everything a watch has, silently. */
  dropWatch(watch: Watch<B, C, V>): void {
    for (let record = watch.firstRecord; record !== NONE; ) {
      const following = this.nextOfWatch.data[record]
      for (let link = this.firstLink.data[record]; link !== NONE; link = this.firstLink.data[record]) {
        this.unlink(link, NO_CAUSE, 0)
      }
      if ((this.flags.data[record] & DIRTY) !== 0) this.dirty.remove(record)
      this.free(record)
      record = following
    }
    watch.reported = 0
  }

  /** Slots of a watch's reported records, in the order of age. Allocates. */
  toldOf(watch: Watch<B, C, V>): number[] {
    const found: number[] = []
    for (let record = watch.firstRecord; record !== NONE; record = this.nextOfWatch.data[record]) {
      if ((this.flags.data[record] & TOLD) !== 0) found.push(record)
    }
    return found.sort((a, b) => this.order(a, b))
  }

  /** The order of age: older body, younger body, then colliders, then the watch. Never 0 for different records. */
  order(a: number, b: number): number {
    const { population, colliderA, colliderB } = this
    const { bodySerial, serial } = population
    return (
      bodySerial.data[this.bodyA.data[a]] - bodySerial.data[this.bodyA.data[b]] ||
      bodySerial.data[this.bodyB.data[a]] - bodySerial.data[this.bodyB.data[b]] ||
      this.watchOf[a]!.id - this.watchOf[b]!.id ||
      serial.data[colliderA.data[a]] - serial.data[colliderA.data[b]] ||
      serial.data[colliderB.data[a]] - serial.data[colliderB.data[b]]
    )
  }

  private link(pair: number, watch: Watch<B, C, V>, flip: boolean, state: number, cause: number, when: number): void {
    const { pairs, population } = this
    const { filter, bodySerial } = population
    const a = pairs.a.data[pair]
    const b = pairs.b.data[pair]
    // A collider attached late can be younger than one of a younger body: records are ordered by the bodies.
    const swapped = bodySerial.data[filter.body.data[a]] > bodySerial.data[filter.body.data[b]]
    const older = swapped ? b : a
    const younger = swapped ? a : b
    const turned = flip !== swapped
    let record = watch.perCollider ? NONE : this.findBodywise(watch, older, younger)
    if (record === NONE) record = this.create(watch, older, younger, pair)
    this.markDirty(record)
    // Matching both ways is reported with the older first, whichever pair of colliders came first.
    if (this.responseOf(record) === 0 && (this.flags.data[record] & TOLD) === 0) this.setFlip(record, turned)
    else if (!turned && (this.flags.data[record] & TOLD) === 0) this.setFlip(record, false)
    const spokeBefore = cause <= DECIDED || watch.fresh || this.interest.spokeBefore(watch, a, b)
    const why = causeOfBegin(cause, watch.fresh, spokeBefore)
    if (why !== cause) when = 0
    const untold = (this.flags.data[record] & TOLD) === 0
    const earliest = this.beginCause.data[record] === NO_CAUSE || when < this.beginWhen.data[record]
    if (this.firstLink.data[record] === NONE || (untold && earliest)) this.chooseSpeaker(record, pair)
    if (earliest) this.beginWhen.data[record] = when
    if (why < this.beginCause.data[record]) this.beginCause.data[record] = why

    const link = this.links.claim()
    this.linkPair.data[link] = pair
    this.linkRecord.data[link] = record
    this.linkResponse.data[link] = state
    this.nextOfPair.data[link] = pairs.firstLink.data[pair]
    pairs.firstLink.data[pair] = link
    const last = this.lastLink.data[record]
    this.beforeOfRecord.data[link] = last
    this.nextOfRecord.data[link] = NONE
    if (last === NONE) this.firstLink.data[record] = link
    else this.nextOfRecord.data[last] = link
    this.lastLink.data[record] = link
    this.counter(state).data[record]++
  }

  private relink(link: number, state: number, cause: number, when: number): void {
    const record = this.linkRecord.data[link]
    this.markDirty(record)
    this.counter(this.linkResponse.data[link]).data[record]--
    this.counter(state).data[record]++
    this.linkResponse.data[link] = state
    if ((this.flags.data[record] & BODYWISE) !== 0) return
    this.flags.data[record] |= CHANGED_RESPONSE
    this.beginCause.data[record] = cause
    this.endCause.data[record] = cause
    this.beginWhen.data[record] = when
    this.endWhen.data[record] = when
  }

  private unlink(link: number, cause: number, when: number): void {
    const record = this.linkRecord.data[link]
    const pair = this.linkPair.data[link]
    this.markDirty(record)
    const before = this.beforeOfRecord.data[link]
    const after = this.nextOfRecord.data[link]
    if (before === NONE) this.firstLink.data[record] = after
    else this.nextOfRecord.data[before] = after
    if (after === NONE) this.lastLink.data[record] = before
    else this.beforeOfRecord.data[after] = before
    let at = this.pairs.firstLink.data[pair]
    if (at === link) this.pairs.firstLink.data[pair] = this.nextOfPair.data[link]
    else {
      while (this.nextOfPair.data[at] !== link) at = this.nextOfPair.data[at]
      this.nextOfPair.data[at] = this.nextOfPair.data[link]
    }
    this.counter(this.linkResponse.data[link]).data[record]--
    this.links.release(link)
    const { endCause, endWhen, endPair } = this
    if (isLaterEnd(cause, when, endCause.data[record], endWhen.data[record])) {
      endWhen.data[record] = when
      endCause.data[record] = cause
      endPair.data[record] = pair
    }
    const longest = this.firstLink.data[record]
    this.chooseSpeaker(record, longest === NONE ? endPair.data[record] : this.linkPair.data[longest])
  }

  /** Lets a pair of colliders stand for a record. */
  private chooseSpeaker(record: number, pair: number): void {
    const { filter } = this.population
    const a = this.pairs.a.data[pair]
    const b = this.pairs.b.data[pair]
    const straight = filter.body.data[a] === this.bodyA.data[record]
    this.colliderA.data[record] = straight ? a : b
    this.colliderB.data[record] = straight ? b : a
    this.pairOf.data[record] = pair
  }

  private counter(state: number): { data: Int32Array } {
    return state === SOLID ? this.solid : this.sense
  }

  private setFlip(record: number, flip: boolean): void {
    if (flip) this.flags.data[record] |= FLIPPED
    else this.flags.data[record] &= ~FLIPPED
  }

  private findBodywise(watch: Watch<B, C, V>, older: number, younger: number): number {
    const { body } = this.population.filter
    let record = this.byBodies.get(body.data[older], body.data[younger])
    while (record !== NONE && this.watchOf[record] !== watch) record = this.nextOfBodies.data[record]
    return record
  }

  private create(watch: Watch<B, C, V>, older: number, younger: number, pair: number): number {
    const { body } = this.population.filter
    const record = this.records.claim()
    this.watchOf[record] = watch
    const a = body.data[older]
    const b = body.data[younger]
    this.bodyA.data[record] = a
    this.bodyB.data[record] = b
    this.firstLink.data[record] = NONE
    this.lastLink.data[record] = NONE
    this.nextOfBodies.data[record] = NONE
    this.chooseSpeaker(record, pair)
    if (!watch.perCollider) {
      this.flags.data[record] |= BODYWISE
      this.nextOfBodies.data[record] = this.byBodies.get(a, b)
      this.byBodies.set(a, b, record)
    }
    this.beforeOfWatch.data[record] = NONE
    this.nextOfWatch.data[record] = watch.firstRecord
    if (watch.firstRecord !== NONE) this.beforeOfWatch.data[watch.firstRecord] = record
    watch.firstRecord = record
    return record
  }

  private free(record: number): void {
    const watch = this.watchOf[record]!
    const before = this.beforeOfWatch.data[record]
    const after = this.nextOfWatch.data[record]
    if (before === NONE) watch.firstRecord = after
    else this.nextOfWatch.data[before] = after
    if (after !== NONE) this.beforeOfWatch.data[after] = before
    if ((this.flags.data[record] & BODYWISE) !== 0) this.unfile(record)
    this.watchOf[record] = null
    this.records.release(record)
  }

  private unfile(record: number): void {
    const a = this.bodyA.data[record]
    const b = this.bodyB.data[record]
    const next = this.nextOfBodies.data[record]
    let at = this.byBodies.get(a, b)
    if (at === record) {
      if (next === NONE) this.byBodies.delete(a, b)
      else this.byBodies.set(a, b, next)
      return
    }
    while (this.nextOfBodies.data[at] !== record) at = this.nextOfBodies.data[at]
    this.nextOfBodies.data[at] = next
  }
}
