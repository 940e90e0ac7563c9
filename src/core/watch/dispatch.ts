/**
 * From the ledger to the handlers: puts the facts of a tick in order, reports them, and keeps them for `events()`.
 * Ends of what was reported before come first, then begins, then durings, then impacts; the ends of what was removed
 * meanwhile last.
 */

import { DEAD, RESPONSE_NAMES, SOLID } from '../filter/filter.ts'
import type { StateVisitor } from '../save/state.ts'
import type { Population } from '../state/population.ts'
import { IntList, Table } from '../state/table.ts'
import type { Kernel } from '../step/kernel.ts'
import { KeenError } from '../util/errors.ts'
import { CAUSES, REMOVED, RESTORED } from './causes.ts'
import { type ContactPoint, EVENT_KINDS, EventRecord, type WatchEvent } from './event.ts'
import { CHANGED_RESPONSE, CLOSING, FLIPPED, FRICTION, IMPULSE, type Ledger, PASSED, STRUCK, TOLD } from './ledger.ts'
import type { Watch } from './watch.ts'

const BEGIN = 0
const DURING = 1
const END = 2
const IMPACT = 3

/** Something that a callback threw. */
export interface Failure {
  /** Which callback, as a text. */
  readonly what: string
  readonly error: unknown
  /** What may help, after the text of the error. */
  readonly hint?: string | undefined
}

/** Stands for a record where a fact has none. */
const RESTORED_FACT = -1

/** A pair that was told of. */
interface Told<B, C, V> {
  readonly watch: Watch<B, C, V>
  readonly swapped: number
  readonly bodyA: B
  readonly bodyB: B
  readonly colliderA: C
  readonly colliderB: C
  readonly response: number
  readonly normal: Float64Array
  /** In ticks. */
  readonly dwell: number
}

export class Dispatch<B extends object, C extends object, V extends object> {
  /** Whether handlers are being called. */
  running = false
  private readonly population: Population<B, C>
  private readonly ledger: Ledger<B, C, V>
  private readonly kernel: Kernel<V>
  private readonly dt: number
  private readonly stop: (watch: Watch<B, C, V>) => void

  private readonly queue = new Table(32)
  private readonly kind = this.queue.i32()
  private readonly record = this.queue.i32()
  private readonly cause = this.queue.i32()
  private readonly response = this.queue.i32()
  private readonly dwell = this.queue.i32()
  private readonly isSwapped = this.queue.i32()
  /** 1 for what met and parted within the tick: then where. */
  private readonly passing = this.queue.i32()
  private readonly met = this.queue.f64(3)
  private readonly when = this.queue.f64()
  private readonly normal = this.queue.f64(3)
  private readonly strength = this.queue.f64(3)
  private readonly watches: (Watch<B, C, V> | null)[] = []
  private readonly bodyA: B[] = []
  private readonly bodyB: B[] = []
  private readonly colliderA: C[] = []
  private readonly colliderB: C[] = []
  private length = 0

  private readonly ends = new IntList()
  private readonly begins = new IntList()
  /** Told records of watches that want `during`, in the order of age. */
  private readonly durings = new IntList()
  /** Told records of watches that want `impact`, in the order of age. */
  private readonly striking = new IntList()
  private readonly measured = new Float64Array(3)
  private readonly finished = new IntList()
  /** What callbacks of this tick threw, in order. */
  readonly failures: Failure[] = []
  private readonly event = new EventRecord<B, C, V>()
  /** The fact that `event` stands for. */
  private current = 0
  private readonly vector: V
  private tick = 0
  /** Whether handlers are left out in this tick. */
  private quiet = false
  /** What handlers believe to meet, since a state was put back that is to be told. */
  private heard: Map<string, Told<B, C, V>> | null = null

  private readonly older = (a: number, b: number): boolean => this.ledger.order(a, b) < 0
  private readonly endsSooner = (a: number, b: number): boolean => {
    const { endWhen } = this.ledger
    return endWhen.data[a] === endWhen.data[b] ? this.older(a, b) : endWhen.data[a] < endWhen.data[b]
  }
  private readonly beginsSooner = (a: number, b: number): boolean => {
    const { beginWhen } = this.ledger
    return beginWhen.data[a] === beginWhen.data[b] ? this.older(a, b) : beginWhen.data[a] < beginWhen.data[b]
  }

  constructor(
    population: Population<B, C>,
    ledger: Ledger<B, C, V>,
    kernel: Kernel<V>,
    dt: number,
    stop: (watch: Watch<B, C, V>) => void,
  ) {
    this.population = population
    this.ledger = ledger
    this.kernel = kernel
    this.dt = dt
    this.stop = stop
    this.vector = kernel.newVector()
    this.event.findPoints = () => this.pointsOf(this.current)
  }

  /** Its state: the facts of the last tick, and who is told of in every tick. */
  visit(v: StateVisitor): void {
    this.tick = v.number(this.tick)
    this.durings.visit(v)
    this.striking.visit(v)
    this.finished.visit(v)
    if (v.portable) {
      v.copy(
        () => null,
        () => {
          this.length = 0
        },
      )
      return
    }
    this.queue.visit(v)
    this.length = v.number(this.length)
    for (const list of [this.watches, this.bodyA, this.bodyB, this.colliderA, this.colliderB] as unknown[][]) {
      const kept = v.objects(list)
      if (kept === list) continue
      list.length = 0
      list.push(...kept)
    }
  }

  /** Takes down what handlers believe to meet, unless that is already done: the next step that tells anything tells the difference. */
  remember(watches: Iterable<Watch<B, C, V>>): void {
    this.heard ??= this.toldOf(watches)
  }

  /** What handlers believe is what is. */
  forgetHeard(): void {
    this.heard = null
  }

  /** Every pair that has been told of, by watch and ages. */
  private toldOf(watches: Iterable<Watch<B, C, V>>): Map<string, Told<B, C, V>> {
    const { ledger, population } = this
    const { bodyHandles, handles } = population
    const told = new Map<string, Told<B, C, V>>()
    for (const watch of watches) {
      for (const record of ledger.toldOf(watch)) {
        const a = ledger.bodyA.data[record]
        const b = ledger.bodyB.data[record]
        const c = ledger.colliderA.data[record]
        const d = ledger.colliderB.data[record]
        const normal = new Float64Array(3)
        const response = ledger.toldResponse.data[record]
        if (response === SOLID) this.writeNormal(record, normal, 0)
        const { bodySerial, serial } = population
        const ages = watch.perCollider ? [serial.data[c], serial.data[d]] : [bodySerial.data[a], bodySerial.data[b]]
        told.set(`${watch.id} ${ages} ${response}`, {
          watch,
          swapped: ledger.flags.data[record] & FLIPPED,
          bodyA: bodyHandles[a]!,
          bodyB: bodyHandles[b]!,
          colliderA: handles.of(c),
          colliderB: handles.of(d),
          response,
          normal,
          dwell: this.tick - ledger.beginTick.data[record],
        })
      }
    }
    return told
  }

  /** Facts for what handlers believe and is not so any more, and for what they have not heard. */
  private addRestored(watches: Iterable<Watch<B, C, V>>): void {
    const { heard } = this
    if (heard === null) return
    this.heard = null
    const now = this.toldOf(watches)
    for (const [key, told] of heard) if (!now.has(key)) this.addTold(END, told)
    for (const [key, told] of now) if (!heard.has(key)) this.addTold(BEGIN, told)
  }

  private addTold(kind: number, told: Told<B, C, V>): void {
    const at = this.length++
    if (at === this.queue.size) this.queue.claim()
    this.kind.data[at] = kind
    this.record.data[at] = RESTORED_FACT
    this.cause.data[at] = RESTORED
    this.when.data[at] = 0
    this.response.data[at] = told.response
    this.dwell.data[at] = kind === END ? told.dwell : 0
    this.isSwapped.data[at] = told.swapped
    this.passing.data[at] = 0
    for (let i = 0; i < 3; i++) {
      this.strength.data[3 * at + i] = 0
      this.normal.data[3 * at + i] = told.normal[i]
    }
    this.watches[at] = told.watch
    this.bodyA[at] = told.bodyA
    this.bodyB[at] = told.bodyB
    this.colliderA[at] = told.colliderA
    this.colliderB[at] = told.colliderB
  }

  /**
   * Puts the facts of the tick in order.
   * @param watches what is asked for the difference to what handlers believe; null where nothing is told
   */
  gather(tick: number, watches: Iterable<Watch<B, C, V>> | null): void {
    const { ledger, ends, begins, durings, striking } = this
    this.length = 0
    if (watches !== null) this.addRestored(watches)
    this.tick = tick
    this.sift()
    ends.sort(this.endsSooner)
    begins.sort(this.beginsSooner)
    for (let i = 0; i < ends.length; i++) this.add(END, ends.data[i], ledger.endCause.data[ends.data[i]])
    for (let i = 0; i < begins.length; i++) {
      const record = begins.data[i]
      this.add(BEGIN, record, ledger.beginCause.data[record])
      if ((ledger.flags.data[record] & PASSED) === 0) continue
      if (this.isImpact(record)) this.add(IMPACT, record, ledger.beginCause.data[record])
      this.add(END, record, ledger.endCause.data[record])
    }
    for (let i = 0; i < durings.length; i++) {
      const record = durings.data[i]
      if (ledger.responseOf(record) !== 0) this.add(DURING, record, ledger.beganBy.data[record])
    }
    for (let i = 0; i < striking.length; i++) {
      const record = striking.data[i]
      if (this.isImpact(record)) this.add(IMPACT, record, ledger.beganBy.data[record])
    }
    for (let i = 0; i < begins.length; i++) {
      const record = begins.data[i]
      const passed = (ledger.flags.data[record] & PASSED) !== 0
      if (!passed && (ledger.flags.data[record] & TOLD) === 0 && this.isImpact(record)) {
        this.add(IMPACT, record, ledger.beginCause.data[record])
      }
    }
  }

  /**
   * Tells everything, the ends of what handlers removed included. Throws `callback-failed` when all is done.
   * @param quiet books it only: no handler is called
   */
  deliver(quiet: boolean): void {
    const { failures } = this
    this.running = true
    this.quiet = quiet
    // Joints first: by their ends much else is explained.
    const joints = this.kernel.forces?.joints
    joints?.tell(failures, quiet)
    let next = 0
    for (;;) {
      for (; next < this.length; next++) this.tell(next)
      const more = joints?.tell(failures, quiet) ?? false
      if (this.ledger.dirty.length === 0 && !more) break
      this.sift()
      this.ends.sort(this.older)
      for (let i = 0; i < this.ends.length; i++) this.add(END, this.ends.data[i], REMOVED)
    }
    this.running = false
    for (let i = 0; i < this.finished.length; i++) {
      if (this.ledger.watchOf[this.finished.data[i]] !== null) this.ledger.freeIfIdle(this.finished.data[i])
    }
    this.finished.clear()
    if (failures.length > 0) throw failed(failures.splice(0))
  }

  /** The facts of the last tick, each once, `a` the older. Allocates. */
  events(perCollider: boolean): WatchEvent<B, C, V>[] {
    const found: WatchEvent<B, C, V>[] = []
    const seen = new Map<B | C, Set<B | C>[]>()
    for (let i = 0; i < this.length; i++) {
      const watch = this.watches[i]
      const kind = this.kind.data[i]
      if (watch === null || watch.perCollider !== perCollider || !watch.recorded.has(EVENT_KINDS[kind])) continue
      const one = perCollider ? this.colliderA[i] : this.bodyA[i]
      const other = perCollider ? this.colliderB[i] : this.bodyB[i]
      let partners = seen.get(one)
      if (partners === undefined) seen.set(one, (partners = EVENT_KINDS.map(() => new Set<B | C>())))
      if (partners[kind].has(other)) continue
      partners[kind].add(other)
      const event = new EventRecord<B, C, V>()
      this.fill(event, i, false, this.kernel.newVector())
      const points = this.pointsOf(i)
      event.findPoints = () => points
      found.push(event)
    }
    return found
  }

  /** Takes the records of a watch off the lists, before they are freed. */
  dropWatch(watch: Watch<B, C, V>): void {
    const { ledger } = this
    for (const list of [this.durings, this.striking]) {
      let kept = 0
      for (let i = 0; i < list.length; i++) {
        if (ledger.watchOf[list.data[i]] !== watch) list.data[kept++] = list.data[i]
      }
      list.length = kept
    }
  }

  /** Whether the strength of a record has just risen through the threshold of its watch. */
  private isImpact(record: number): boolean {
    const { ledger, measured } = this
    const { flags } = ledger
    const watch = ledger.watchOf[record]!
    if (!watch.wantsImpact) return false
    ledger.measure(record, measured, 0)
    const over = measured[IMPULSE] >= watch.overImpulse || measured[CLOSING] >= watch.overSpeed
    const before = (flags.data[record] & STRUCK) !== 0
    if (over) flags.data[record] |= STRUCK
    else flags.data[record] &= ~STRUCK
    return over && !before
  }

  /** Sorts the touched records into those to end and those to begin. */
  private sift(): void {
    const { ledger, ends, begins } = this
    ends.clear()
    begins.clear()
    const { dirty, flags } = ledger
    for (let i = 0; i < dirty.length; i++) {
      const record = dirty.data[i]
      ledger.clearDirty(record)
      const response = ledger.responseOf(record)
      const told = (flags.data[record] & TOLD) !== 0
      const changed = (flags.data[record] & CHANGED_RESPONSE) !== 0
      flags.data[record] &= ~CHANGED_RESPONSE
      // Passed through counts only where the record neither met before nor does now.
      const passed = (flags.data[record] & PASSED) !== 0 && !told && response === 0
      if (!passed && (flags.data[record] & PASSED) !== 0) ledger.clearPassing(record)
      if (told && (response === 0 || changed)) ends.push(record)
      if (passed || (response !== 0 && (!told || changed))) begins.push(record)
      if (told && response !== 0 && !changed) ledger.toldResponse.data[record] = response
      if (!told) this.finished.push(record)
    }
    dirty.clear()
  }

  private add(kind: number, record: number, cause: number): void {
    const { ledger } = this
    const at = this.length++
    if (at === this.queue.size) this.queue.claim()
    this.kind.data[at] = kind
    this.record.data[at] = record
    this.cause.data[at] = cause
    this.when.data[at] = kind === END ? ledger.endWhen.data[record] : kind === BEGIN ? ledger.beginWhen.data[record] : 1
    const passed = (ledger.flags.data[record] & PASSED) !== 0
    if (passed) this.response.data[at] = ledger.passedAs.data[record]
    else this.response.data[at] = kind === END ? ledger.toldResponse.data[record] : ledger.responseOf(record)
    this.dwell.data[at] = kind === BEGIN || passed ? 0 : this.tick - ledger.beginTick.data[record]
    this.watches[at] = ledger.watchOf[record]
    const { strength } = this
    for (let i = 0; i < 3; i++) strength.data[3 * at + i] = 0
    this.passing.data[at] = 0
    if (this.response.data[at] !== SOLID) return
    this.readNormal(record, at)
    if (passed) {
      this.passing.data[at] = 1
      this.kernel.readMet(ledger.pairOf.data[record], this.met.data, 3 * at)
    }
    if (kind !== END || passed) ledger.measure(record, strength.data, 3 * at)
  }

  private readNormal(record: number, at: number): void {
    this.writeNormal(record, this.normal.data, 3 * at)
  }

  /** Writes the normal of a record, from its older body, as three numbers. */
  private writeNormal(record: number, out: Float64Array, at: number): void {
    const { ledger } = this
    this.kernel.readNormal(ledger.pairOf.data[record], out, at)
    // The pair's normal goes from its older collider; the record's from its older body.
    if (
      this.population.serial.data[ledger.colliderA.data[record]] <
      this.population.serial.data[ledger.colliderB.data[record]]
    )
      return
    for (let i = at; i < at + 3; i++) out[i] = out[i] === 0 ? 0 : -out[i]
  }

  private tell(at: number): void {
    const { ledger } = this
    const watch = this.watches[at]!
    const record = this.record.data[at]
    const kind = this.kind.data[at]
    // A null watch marks a fact that was cancelled, so that `events()` skips it.
    this.watches[at] = null
    if (watch.over) return
    if (record === RESTORED_FACT) {
      this.watches[at] = watch
      this.call(watch, at)
      return
    }
    if (kind === BEGIN) {
      const passed = (ledger.flags.data[record] & PASSED) !== 0
      const gone = passed ? this.isDead(record, watch) : ledger.responseOf(record) === 0
      if (gone || (watch.once && watch.onceRecord >= 0)) {
        ledger.flags.data[record] &= ~PASSED
        this.finished.push(record)
        return
      }
      this.begin(watch, record, at)
    } else if (kind === IMPACT) {
      // Of what was dropped or removed meanwhile.
      const passed = (ledger.flags.data[record] & PASSED) !== 0
      if ((ledger.flags.data[record] & TOLD) === 0) return
      if (passed ? this.isDead(record, watch) : ledger.responseOf(record) === 0) return
    } else if (kind === DURING) {
      // A pair whose response changed has just restarted.
      if (ledger.responseOf(record) === 0 || ledger.beginTick.data[record] === this.tick) return
    } else if ((ledger.flags.data[record] & TOLD) === 0) {
      // The end of a passing whose begin was dropped.
      return
    } else if (this.cause.data[at] !== REMOVED && this.isDead(record, watch)) {
      ledger.flags.data[record] &= ~PASSED
      ledger.markDirty(record)
      return
    } else {
      ledger.flags.data[record] &= ~(TOLD | PASSED)
      watch.reported--
      if (watch.wantsDuring) this.durings.remove(record)
      if (watch.wantsImpact) this.striking.remove(record)
      this.finished.push(record)
    }
    const { bodyHandles, handles } = this.population
    this.isSwapped.data[at] = ledger.flags.data[record] & FLIPPED
    this.bodyA[at] = bodyHandles[ledger.bodyA.data[record]]!
    this.bodyB[at] = bodyHandles[ledger.bodyB.data[record]]!
    this.colliderA[at] = handles.of(ledger.colliderA.data[record])
    this.colliderB[at] = handles.of(ledger.colliderB.data[record])
    this.watches[at] = watch
    this.call(watch, at)
    if (kind === END && watch.onceRecord === record) this.stop(watch)
  }

  private begin(watch: Watch<B, C, V>, record: number, at: number): void {
    const { ledger } = this
    ledger.flags.data[record] |= TOLD
    ledger.beginTick.data[record] = this.tick
    ledger.beganBy.data[record] = this.cause.data[at]
    ledger.toldResponse.data[record] = this.response.data[at]
    watch.reported++
    watch.hasTold = true
    if (watch.once) watch.onceRecord = record
    if (watch.wantsDuring) this.durings.insertSorted(record, this.older)
    if (watch.wantsImpact) this.striking.insertSorted(record, this.older)
  }

  private call(watch: Watch<B, C, V>, at: number): void {
    const kind = EVENT_KINDS[this.kind.data[at]]
    const handlers = watch.handlers
    if (this.quiet || handlers[kind] === undefined) return
    this.fill(this.event, at, true, this.vector)
    try {
      handlers[kind](this.event)
    } catch (error) {
      this.failures.push({ what: `the '${kind}' handler of watch '${watch.key}'`, error, hint: sidesOf(watch, error) })
    }
  }

  private fill(event: EventRecord<B, C, V>, at: number, ordered: boolean, vector: V): void {
    const turned = ordered && this.isSwapped.data[at] !== 0
    event.kind = EVENT_KINDS[this.kind.data[at]]
    event.tick = this.tick
    event.dt = this.dt
    event.time = this.tick * this.dt
    event.when = this.when.data[at]
    event.a = turned ? this.bodyB[at] : this.bodyA[at]
    event.b = turned ? this.bodyA[at] : this.bodyB[at]
    event.aCollider = turned ? this.colliderB[at] : this.colliderA[at]
    event.bCollider = turned ? this.colliderA[at] : this.colliderB[at]
    event.response = RESPONSE_NAMES[this.response.data[at]] as 'solid' | 'sense'
    event.dwell = this.dwell.data[at] * this.dt
    event.cause = CAUSES[this.cause.data[at]]
    event.watch = this.watches[at]!
    event.normal = null
    event.impulse = this.strength.data[3 * at + IMPULSE]
    event.friction = this.strength.data[3 * at + FRICTION]
    event.closingSpeed = this.strength.data[3 * at + CLOSING]
    this.current = at
    if (this.response.data[at] !== SOLID) return
    this.kernel.fillVector(vector, this.normal.data, 3 * at, turned ? -1 : 1)
    event.normal = vector
  }

  /** Where the solid colliders of a fact touch: of all that count now, or of the two that bounced. */
  private pointsOf(at: number): ContactPoint<V>[] {
    if (this.response.data[at] !== SOLID || this.watches[at] === null) return []
    const points: ContactPoint<V>[] = []
    const { ledger, kernel } = this
    if (this.passing.data[at] !== 0) {
      const point = kernel.newVector()
      kernel.fillVector(point, this.met.data, 3 * at, 1)
      return [{ ...point, depth: 0, impulse: this.strength.data[3 * at + IMPULSE] }]
    }
    const record = this.record.data[at]
    if (record === RESTORED_FACT) return []
    const add = (pair: number): void => {
      points.push(...kernel.pointsOf(pair))
    }
    if (ledger.watchOf[record] === this.watches[at] && ledger.responseOf(record) !== 0) ledger.eachPair(record, add)
    return points
  }

  private isDead(record: number, watch: Watch<B, C, V>): boolean {
    const { population, ledger } = this
    if (!population.bodyAlive(ledger.bodyA.data[record]) || !population.bodyAlive(ledger.bodyB.data[record]))
      return true
    const { flags } = population.filter
    const a = flags.data[ledger.colliderA.data[record]]
    const b = flags.data[ledger.colliderB.data[record]]
    return watch.perCollider && ((a | b) & DEAD) !== 0
  }
}

/** Which side is which, for a handler in which a change was refused: it may have been meant for the other side. */
function sidesOf(
  { first, second }: { first: { text: string }; second: { text: string } },
  error: unknown,
): string | undefined {
  if (!(error instanceof KeenError)) return undefined
  return `; in this watch e.a is on the side '${first.text}' and e.b on the side '${second.text}'`
}

/** What is thrown for what callbacks threw. */
export function failed(failures: readonly Failure[]): KeenError {
  const [first] = failures
  const text = first.error instanceof Error ? first.error.message : String(first.error)
  const more = failures.length > 1 ? ` (and ${failures.length - 1} more, in 'others')` : ''
  return new KeenError('callback-failed', `${first.what} threw: ${text}${more}${first.hint ?? ''}`, {
    cause: first.error,
    others: failures.slice(1).map((failure) => failure.error),
  })
}
