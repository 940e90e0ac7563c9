/** The joints of a world: how they are made and end, who hears of it, and what they wake. A dimension reads and writes where they are. */
import type { StateVisitor } from '../save/state.ts'
import type { Kinds } from '../state/handle.ts'
import { DYNAMIC, KINEMATIC, type Population } from '../state/population.ts'
import type { JointStages } from '../step/kernel.ts'
import { callable, flag, oneOf, onlyFields, record } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import type { Failure } from '../watch/dispatch.ts'
import {
  BREAK_FORCE,
  BREAK_TORQUE,
  BROKEN,
  DAMPING,
  FREQUENCY,
  HOLD_FORCE,
  HOLD_TORQUE,
  JOINT_ENABLED,
  JOINT_TYPES,
  JointBook,
  type JointType,
  LENGTH,
  MAX,
  MIN,
  SETTINGS,
  SPEED,
  STRENGTH,
  WORLD,
} from './book.ts'
import type { JointCause, JointEnd, JointHandle, JointHandlers, JointKeeper, JointStart } from './joint.ts'
import type { JointKind } from './kind.ts'
import {
  checkBreaks,
  checkDamping,
  checkFrequency,
  checkHold,
  checkLength,
  checkLimits,
  checkMotor,
  HAND,
  SOFT,
} from './spec.ts'
import { type DescribedJoints, type OffBody, strainsOf } from './strains.ts'

/** Hears of the ends of all joints, until it is stopped. */
export interface JointWatch {
  /** Hears nothing more. */
  stop(): void
}

/** What joints work on. */
export interface JointsSetup {
  readonly population: Population<object, object>
  readonly unit: number
  readonly dt: number
  wake(body: number): void
}

/** A body, as far as joints need it. */
interface AnyBody {
  /** @internal */ readonly slot: number
  readonly type: string
}

/** What a joint is made from, before it has been checked. */
export type JointFields = Readonly<Record<string, unknown>>

/** A body of a joint ({@link WORLD} for the world), and the point of the world where it is held. */
export interface JointSide<V> {
  readonly body: number
  readonly point: V
}

export abstract class Joints<K extends Kinds, B extends AnyBody, J extends JointHandle<K, B>, V>
  implements JointStages, JointKeeper<J>
{
  readonly book: JointBook<J>
  abstract readonly kind: JointKind<J>
  readonly unit: number
  /** What was told in the last tick. */
  told: JointEnd<J, B>[] = []
  protected readonly population: Population<object, object>
  private readonly setup: JointsSetup
  private readonly watches = new Set<JointHandlers<JointEnd<J, B>>>()
  /** Joints that ended and wait to be told, with their causes. */
  private readonly waiting: { joint: J; cause: JointCause }[] = []
  private tick = 0

  constructor(setup: JointsSetup) {
    this.setup = setup
    this.population = setup.population
    this.unit = setup.unit
    this.book = new JointBook<J>(setup.population)
  }

  // What a dimension brings.

  /** The fields of each type. */
  protected abstract readonly fields: Readonly<Record<JointType, readonly string[]>>
  /** Refuses a type that the dimension does not have. */
  protected abstract checkType(type: JointType): void
  /** Checks a point, a direction. */
  protected abstract checkPoint(value: unknown, what: string): V
  /** How far two points are from each other. */
  protected abstract apart(one: V, two: V): number
  /** The centre of mass of a body. */
  protected abstract centre(body: number): V
  /** Checks what only the dimension knows of a joint; returns what writes it, once there is a slot. Its points are where it holds either side. */
  protected abstract readPlace(
    type: JointType,
    spec: JointFields,
    one: JointSide<V>,
    two: JointSide<V>,
  ): (joint: number) => void
  abstract makeHandle(slot: number, serial: number, start: JointStart<B>): J

  /**
   * Makes a joint.
   * @param own refuses a body that is dead or of another world
   */
  join(given: unknown, own: (body: unknown, what: string) => B): J {
    this.guard('join')
    record(given, 'a joint')
    const spec = given as JointFields
    const type = oneOf(spec['type'] as JointType, JOINT_TYPES, "'type' of a joint")
    this.checkType(type)
    onlyFields(spec, this.fields[type], `a '${type}'`)
    const a = own(spec['a'], `'a' of a '${type}'`)
    const b = spec['b'] === undefined || spec['b'] === null ? null : own(spec['b'], `'b' of a '${type}'`)
    if ((a as unknown) === b) throw new KeenError('bad-argument', `a '${type}' joins two bodies, and ${a} is one`)
    if (a.type === 'static' && (b === null || b.type === 'static')) {
      const other = b === null ? 'the world' : b
      throw new KeenError('bad-argument', `a '${type}' of ${a} and ${other} joins what never moves: make one dynamic`)
    }
    const name = this.checkName(spec['name'])
    const enabled = flag(spec['enabled'], true, "'enabled' of a joint")
    const touching = flag(spec['touching'], false, "'touching' of a joint")
    const breaks = checkBreaks(spec['breaks'])
    if (spec['end'] !== undefined) callable(spec['end'], "'end' of a joint")
    const settings = this.checkSettings(type, spec)
    // The world is the first, so that what is measured is how the body moves in it.
    const one = b === null ? WORLD : a.slot
    const two = b === null ? a.slot : b.slot
    const [pointOne, pointTwo] = this.pointsOf(type, spec, one, two)
    const write = this.readPlace(type, spec, { body: one, point: pointOne }, { body: two, point: pointTwo })
    const { book } = this
    const joint = book.add(JOINT_TYPES.indexOf(type), one, two, touching || b === null)
    if (!enabled) book.flags.data[joint] &= ~JOINT_ENABLED
    const at = SETTINGS * joint
    const { data } = book.settings
    for (const [which, value] of settings) data[at + which] = value
    data[at + BREAK_FORCE] = breaks.force
    data[at + BREAK_TORQUE] = breaks.torque
    // As far as they are at joining, where nothing else is said.
    const apart = this.apart(pointOne, pointTwo)
    if (type === 'distance' && spec['min'] === undefined && spec['max'] === undefined)
      data[at + MIN] = data[at + MAX] = apart
    if (type === 'spring' && spec['length'] === undefined) data[at + LENGTH] = apart
    write(joint)
    const end = spec['end'] as JointStart<B>['end']
    const handle = this.makeHandle(joint, book.serial.data[joint], { type, a, b, name, end })
    book.handles[joint] = handle
    this.wake(joint)
    return handle
  }

  /** The joints of a world, by age. */
  all(): J[] {
    const { order, handles } = this.book
    return Array.from(order.data.subarray(0, order.length), (joint) => handles[joint]!)
  }

  /** Those of a body, by age. */
  of(body: number): J[] {
    return this.book.of(body).map((joint) => this.book.handles[joint]!)
  }

  watch(handlers: JointHandlers<JointEnd<J, B>>): JointWatch {
    this.guard('watchJoints')
    onlyFields(handlers, ['end'], 'the handlers of watchJoints')
    if (handlers.end !== undefined) callable(handlers.end, "'end' of watchJoints")
    const kept = { ...handlers }
    this.watches.add(kept)
    return Object.freeze({ stop: () => void this.watches.delete(kept) })
  }

  guard(what: string): void {
    this.population.guard(what)
  }

  wake(joint: number): void {
    const { one, two } = this.book
    for (const { data } of [one, two]) if (data[joint] !== WORLD) this.setup.wake(data[joint])
  }

  remove(joint: J): void {
    this.end(joint, 'removed')
  }

  /** A body was removed: its joints end. */
  bodyRemoved(body: number): void {
    for (const joint of this.of(body)) this.end(joint, 'removed')
  }

  /** A body was put elsewhere, or changed: what hangs on it wakes. */
  wakeJoined(body: number): void {
    for (const joint of this.book.of(body)) this.wake(joint)
  }

  /** Before contacts are searched for: what is joined to something that moves by itself wakes. */
  wakeMoved(velocities: Float64Array, speeds: number): void {
    const { order, one, two } = this.book
    const { type } = this.population
    for (let i = 0; i < order.length; i++) {
      const joint = order.data[i]
      for (let side = 0; side < 2; side++) {
        const body = side === 0 ? one.data[joint] : two.data[joint]
        if (body === WORLD || type.data[body] !== KINEMATIC) continue
        let moves = false
        for (let k = 0; k < speeds; k++) if (velocities[speeds * body + k] !== 0) moves = true
        const other = side === 0 ? two.data[joint] : one.data[joint]
        if (moves && other !== WORLD && type.data[other] === DYNAMIC) this.setup.wake(other)
      }
    }
  }

  describe(a: number, b: number, offBody: OffBody): DescribedJoints {
    const { book } = this
    const { one, two } = book
    const partner = (joint: number, body: number): number =>
      one.data[joint] === body ? two.data[joint] : one.data[joint]
    const joints = book.between(a, b)
    const ofA = book.of(a)
    const ofB = book.of(b)
    const partners = ofA.map((joint) => partner(joint, a))
    const found = ofB.map((joint) => partner(joint, b))
    const near = [...new Set([...ofA, ...ofB])].map((joint) => book.handles[joint]!)
    return {
      names: joints.map((joint) => `the ${joint.type} '${joint}'`),
      shared: found.find((body) => body !== WORLD && body !== a && partners.includes(body)) ?? -1,
      strains: strainsOf(joints, near, this.unit, offBody),
    }
  }

  /** Their state. */
  visit(v: StateVisitor): void {
    this.book.visit(v)
    this.tick = v.number(this.tick)
    if (v.portable) {
      v.copy(
        () => null,
        () => {
          this.told = []
        },
      )
    } else this.told = v.objects(this.told)
    const waiting = v.objects(this.waiting)
    if (waiting === this.waiting) return
    this.waiting.length = 0
    this.waiting.push(...waiting)
  }

  settle(tick: number): void {
    this.tick = tick
    if (this.told.length > 0) this.told = []
    const { order, flags, handles } = this.book
    for (let i = order.length - 1; i >= 0; i--) {
      const joint = order.data[i]
      if ((flags.data[joint] & BROKEN) !== 0) this.end(handles[joint]!, 'broken')
    }
    // Found from the youngest, told from the oldest.
    if (this.waiting.length > 1) this.waiting.sort((x, y) => x.joint.serial - y.joint.serial)
  }

  tell(failures: Failure[], quiet: boolean): boolean {
    if (this.waiting.length === 0) return false
    this.tellAll(failures, quiet)
    return true
  }

  private tellAll(failures: Failure[], quiet: boolean): void {
    for (const { joint, cause } of this.waiting.splice(0)) {
      const event = new End<J, B>(joint, cause, this.tick, this.tick * this.setup.dt)
      this.told.push(event)
      const call = (what: string, handler: ((event: JointEnd<J, B>) => void) | undefined): void => {
        if (quiet) return
        try {
          handler?.(event)
        } catch (error) {
          failures.push({ what, error })
        }
      }
      call(`the 'end' handler of joint '${joint}'`, joint.handler as never)
      for (const { end } of [...this.watches]) call("the 'end' handler of watchJoints", end)
      this.book.release(joint.slot)
    }
  }

  private end(joint: J, cause: JointCause): void {
    if (!joint.alive) return
    this.wake(joint.slot)
    this.book.remove(joint.slot)
    this.waiting.push({ joint, cause })
  }

  /** Where a joint holds its first side and its second: points of the world. */
  private pointsOf(type: JointType, spec: JointFields, one: number, two: number): [V, V] {
    const at = (field: string, body: number): V => {
      if (spec[field] !== undefined) return this.checkPoint(spec[field], `'${field}' of a '${type}'`)
      if (body === WORLD)
        throw new KeenError('bad-argument', `a '${type}' to the world needs '${field}', a point of it`)
      return this.centre(body)
    }
    if (type === 'distance' || type === 'spring') {
      return one === WORLD ? [at('atB', WORLD), at('atA', two)] : [at('atA', one), at('atB', two)]
    }
    if (spec['at'] === undefined && type !== 'fixed' && type !== 'carry') {
      throw new KeenError('bad-argument', `a '${type}' needs 'at', the point of the world where it is`)
    }
    const point = at('at', one === WORLD ? two : one)
    return [point, point]
  }

  private checkName(name: unknown): string | null {
    if (name === undefined || name === null) return null
    if (typeof name !== 'string' || name === '') {
      throw new KeenError('bad-argument', `'name' of a joint must be a string other than '', got ${show(name)}`)
    }
    if (this.all().some((joint) => joint.name === name)) {
      throw new KeenError('duplicate-name', `a joint called ${show(name)} is already in the world`)
    }
    return name
  }

  /** The numbers of a joint, by their places. */
  private checkSettings(type: JointType, spec: JointFields): [number, number][] {
    const settings: [number, number][] = []
    if (type === 'distance') {
      const { min, max } = spec
      if (min === undefined && max === undefined) return settings
      const limits = checkLimits({ min: min ?? 0, max: max ?? Infinity }, type)
      settings.push([MIN, limits.min], [MAX, limits.max])
    }
    if (type === 'hinge' || type === 'slide' || type === 'axle') {
      const limits = checkLimits(spec['limits'], type)
      const { speed, strength } = checkMotor(spec['motor'], type)
      settings.push([MIN, limits.min], [MAX, limits.max], [SPEED, speed], [STRENGTH, strength])
    }
    if (type === 'spring' && spec['length'] !== undefined) settings.push([LENGTH, checkLength(spec['length'])])
    const soft = type === 'carry' ? HAND : type === 'fixed' ? { frequency: 0, damping: 1 } : SOFT
    if (type === 'spring' || type === 'axle' || type === 'fixed' || type === 'carry') {
      settings.push([FREQUENCY, checkFrequency(spec['frequency'] ?? soft.frequency, type)])
      settings.push([DAMPING, checkDamping(spec['damping'] ?? soft.damping)])
    }
    if (type === 'carry') {
      const { force, torque } = checkHold({ force: spec['force'], torque: spec['torque'] })
      settings.push([HOLD_FORCE, force], [HOLD_TORQUE, torque])
    }
    return settings
  }
}

class End<J extends { readonly force: number; readonly torque: number; readonly a: B; readonly b: B | null }, B>
  implements JointEnd<J, B>
{
  readonly kind = 'end'
  readonly joint: J
  readonly a: B
  readonly b: B | null
  readonly cause: JointCause
  readonly force: number
  readonly torque: number
  readonly tick: number
  readonly time: number

  constructor(joint: J, cause: JointCause, tick: number, time: number) {
    this.joint = joint
    this.a = joint.a
    this.b = joint.b
    this.cause = cause
    this.force = joint.force
    this.torque = joint.torque
    this.tick = tick
    this.time = time
  }

  toJSON(): object {
    const { kind, tick, time, cause, force, torque } = this
    const b = this.b === null ? null : String(this.b)
    return { kind, tick, time, cause, joint: String(this.joint), a: String(this.a), b, force, torque }
  }
}
