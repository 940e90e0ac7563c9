/** The face of a joint, as far as that knows no dimension; and what is told of its end. */
import type { Kinds } from '../state/handle.ts'
import { flag, refuseAssignment } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import { INSPECT } from '../util/inspect.ts'
import {
  AXLE,
  BREAK_FORCE,
  BREAK_TORQUE,
  BROKEN,
  DAMPING,
  DISTANCE,
  FORCE,
  FREQUENCY,
  HINGE,
  HOLD_FORCE,
  HOLD_TORQUE,
  JOINT_ENABLED,
  JOINT_TYPES,
  type JointBook,
  type JointFace,
  type JointType,
  LENGTH,
  MAX,
  MIN,
  SETTINGS,
  SLIDE,
  SPEED,
  SPRING,
  STRENGTH,
  TORQUE,
  TOUCHING,
} from './book.ts'
import {
  checkBreaks,
  checkDamping,
  checkFrequency,
  checkHold,
  checkLength,
  checkLimits,
  checkMotor,
  type Limits,
  type Motor,
  type OpenLimits,
} from './spec.ts'

/** Why a joint ended. */
export type JointCause = 'broken' | 'removed'

/** The end of a joint. `J` and `B` are the joint and body types of the dimension. */
export interface JointEnd<J, B> {
  readonly kind: 'end'
  /** The joint that ended. */
  readonly joint: J
  /** Its first body. */
  readonly a: B
  /** Its second body; null for the world. */
  readonly b: B | null
  /** `broken` under its load, or `removed`, itself or one of its bodies. */
  readonly cause: JointCause
  /** Newtons that it bore in its last tick. */
  readonly force: number
  /** Newtons times a length by which it was twisted in its last tick. */
  readonly torque: number
  /** The tick that has just ended, counted from 1. */
  readonly tick: number
  /** Seconds of simulated time at the end of that tick. */
  readonly time: number
  /** What `JSON.stringify` writes: names and numbers. */
  toJSON(): object
}

/** The end of a joint of any dimension. */
export type AnyJointEnd = JointEnd<object, object>

/** What hears of ends of joints. */
export interface JointHandlers<E> {
  /** Is called when a joint has ended, in the step in which it broke, or the one after it was removed. */
  end?: ((event: E) => void) | undefined
}

/** What a joint needs of those who keep it. */
export interface JointKeeper<J extends JointFace> {
  readonly book: JointBook<J>
  /** Wakes what it holds. */
  wake(joint: number): void
  remove(joint: J): void
  guard(what: string): void
  readonly unit: number
}

/** What a joint is made with. */
export interface JointStart<B> {
  readonly type: JointType
  readonly a: B
  readonly b: B | null
  readonly name: string | null
  readonly end: ((event: never) => void) | undefined
}

export abstract class JointHandle<K extends Kinds, B> implements JointFace {
  /** @internal */ readonly slot: number
  /** What it is. */
  readonly type: JointType
  /** Its first body. */
  readonly a: B
  /** Its second body; null for the world. */
  readonly b: B | null
  /** The name it was given. */
  readonly name: string | null
  /** The age of the joint: 1 for the first of a world, never used twice. */
  readonly serial: number
  /** @internal */ readonly handler: ((event: never) => void) | undefined
  /** @internal */ protected abstract readonly keeper: JointKeeper<JointHandle<K, B>>
  private dead = false
  private lastTouching = false
  /** Of one that broke, what it bore at most. */
  private lastBreaks: { readonly force: number; readonly torque: number } | null = null
  private readonly last = new Float64Array(2)

  /** @internal */
  constructor(slot: number, serial: number, { type, a, b, name, end }: JointStart<B>) {
    this.slot = slot
    this.serial = serial
    this.type = type
    this.a = a
    this.b = b
    this.name = name
    this.handler = end
  }

  /** False after its end. */
  get alive(): boolean {
    return !this.dead
  }

  /** Whether it holds anything. Switched off it stays, and can be switched on again. */
  get enabled(): boolean {
    return !this.dead && (this.keeper.book.flags.data[this.slot] & JOINT_ENABLED) !== 0
  }

  set enabled(value: boolean) {
    const { flags } = this.use('enabled')
    const on = flag(value ?? null, true, "'enabled' of a joint")
    if (on) flags.data[this.slot] |= JOINT_ENABLED
    else flags.data[this.slot] &= ~JOINT_ENABLED
    this.changed()
  }

  /** Whether the two may touch. */
  get touching(): boolean {
    return this.dead ? this.lastTouching : (this.keeper.book.flags.data[this.slot] & TOUCHING) !== 0
  }

  set touching(value: boolean) {
    this.use('touching').setTouching(this.slot, flag(value ?? null, false, "'touching' of a joint"))
    this.changed()
  }

  /** Newtons that it bore in the last tick. */
  get force(): number {
    return this.dead ? this.last[FORCE] : this.keeper.book.load.data[2 * this.slot + FORCE]
  }

  /** Newtons times a length by which it was twisted in the last tick: by limits, motor, or what keeps it from turning. */
  get torque(): number {
    return this.dead ? this.last[TORQUE] : this.keeper.book.load.data[2 * this.slot + TORQUE]
  }

  /** How fast it goes: see the types of joints. */
  abstract get speed(): number

  /** How far it may go: radians for a hinge, lengths for a slide, an axle and a distance; null for no limits. */
  get limits(): Limits | null {
    this.among('limits', HINGE, SLIDE, AXLE, DISTANCE)
    const min = this.setting(MIN)
    const max = this.setting(MAX)
    return min === -Infinity && max === Infinity ? null : Object.freeze({ min, max })
  }

  set limits(value: OpenLimits | null) {
    this.among('limits', HINGE, SLIDE, AXLE, DISTANCE)
    const { min, max } = checkLimits(value, this.type)
    this.put(MIN, min)
    this.put(MAX, max)
    this.changed()
  }

  /** What drives it: a speed and the most that it gives (torque, or force for a slide); null for none. */
  get motor(): Motor | null {
    this.among('motor', HINGE, SLIDE, AXLE)
    const speed = this.setting(SPEED)
    const strength = this.setting(STRENGTH)
    if (strength === 0) return null
    return Object.freeze(this.type === 'slide' ? { speed, force: strength } : { speed, torque: strength })
  }

  set motor(value: Motor | null) {
    this.among('motor', HINGE, SLIDE, AXLE)
    const { speed, strength } = checkMotor(value, this.type)
    this.put(SPEED, speed)
    this.put(STRENGTH, strength)
    this.changed()
  }

  /** Cycles a second at which it swings; 0 where it is rigid. */
  get frequency(): number {
    return this.setting(FREQUENCY)
  }

  set frequency(value: number) {
    this.soft('frequency')
    this.put(FREQUENCY, checkFrequency(value, this.type))
    this.changed()
  }

  /** How strongly it is damped: 1 is just enough that it does not swing. */
  get damping(): number {
    return this.setting(DAMPING)
  }

  set damping(value: number) {
    this.soft('damping')
    this.put(DAMPING, checkDamping(value))
    this.changed()
  }

  /** The length at which a spring pulls nobody. */
  get length(): number {
    this.among('length', SPRING)
    return this.setting(LENGTH)
  }

  set length(value: number) {
    this.among('length', SPRING)
    this.put(LENGTH, checkLength(value))
    this.changed()
  }

  /** What it bears; null for anything. */
  get breaks(): { readonly force: number; readonly torque: number } | null {
    const force = this.setting(BREAK_FORCE)
    const torque = this.setting(BREAK_TORQUE)
    return force === Infinity && torque === Infinity ? null : Object.freeze({ force, torque })
  }

  set breaks(value: { force?: number | undefined; torque?: number | undefined } | null) {
    const { force, torque } = checkBreaks(value)
    this.put(BREAK_FORCE, force)
    this.put(BREAK_TORQUE, torque)
  }

  /** Newtons, and newtons times a length, that a hand gives at most. */
  get hold(): { readonly force: number; readonly torque: number } {
    this.only('hold', 'carry')
    return Object.freeze({ force: this.setting(HOLD_FORCE), torque: this.setting(HOLD_TORQUE) })
  }

  set hold(value: { force?: number | undefined; torque?: number | undefined }) {
    this.only('hold', 'carry')
    const { force, torque } = checkHold(value)
    this.put(HOLD_FORCE, force)
    this.put(HOLD_TORQUE, torque)
    this.changed()
  }

  /**
   * What it holds, bears and drives, in a few sentences: why a motor does not move its load, what it takes until it breaks, why it broke.
   * @example console.log(gate.explain())
   */
  explain(): string {
    const bears = `bears ${digits(this.force)} N and ${digits(this.torque)} Nm`
    const who = `the ${this.type} '${this}' of ${this.a} and ${this.b ?? 'the world'}`
    if (this.dead) {
      const bore = `it bore ${digits(this.force)} N and ${digits(this.torque)} Nm in its last tick`
      const most = this.lastBreaks
      if (most === null) return `${who} was removed; ${bore}.`
      return `${who} broke: ${bore}, and bears ${digits(most.force)} N and ${digits(most.torque)} Nm at most.`
    }
    const said = [`${who} ${bears}`]
    if (!this.enabled) said.push('it is switched off and holds nothing')
    const { breaks } = this
    if (breaks !== null) said.push(`it breaks beyond ${digits(breaks.force)} N or ${digits(breaks.torque)} Nm`)
    const strength = this.setting(STRENGTH)
    if (strength > 0) {
      const slides = this.type === 'slide'
      const [unit, pace] = slides ? ['N', 'm/s'] : ['Nm', 'rad/s']
      const wanted = this.setting(SPEED)
      const speed = this.speed
      said.push(
        `its motor gives ${digits(strength)} ${unit} at most and turns at ${digits(speed)} of ${digits(wanted)} ${pace}`,
      )
      const load = slides ? this.force : this.torque
      const slow = Math.abs(speed) < 0.5 * Math.abs(wanted) || (wanted !== 0 && speed * wanted < 0)
      if (slow && load > 1.001 * strength) {
        said.push(`what hangs on it takes ${digits(load)} ${unit}: the motor is too weak, give it more than that`)
      } else if (slow && load > 0.98 * strength) said.push('it gives all of that, and is too weak for what it drives')
      else if (slow) said.push('a limit, or what its bodies touch, stops it')
    }
    return `${said.join('; ')}.`
  }

  /** Ends it: what it held goes its own way, with the speed that it has. Told with cause `removed` in the next step. */
  remove(): void {
    this.use('remove')
    this.keeper.remove(this)
  }

  /** Its slot was put back. @internal */
  setAlive(alive: boolean): void {
    if (alive) this.dead = false
    else if (!this.dead) this.markDead()
  }

  /** @internal */
  markDead(): void {
    this.last[FORCE] = this.force
    this.last[TORQUE] = this.torque
    this.lastTouching = this.touching
    if ((this.keeper.book.flags.data[this.slot] & BROKEN) !== 0) this.lastBreaks = this.breaks
    this.dead = true
  }

  toString(): string {
    return this.name ?? `${this.type} #${this.serial}`
  }

  /** What `JSON.stringify` writes. For looking at: a joint is not made from it again. */
  toJSON(): object {
    const { name, serial, type, alive, force, torque } = this
    return { name, serial, type, a: String(this.a), b: this.b === null ? null : String(this.b), alive, force, torque }
  }

  /** @internal */
  [INSPECT](): string {
    return `${this.type} ${this.name === null ? `#${this.serial}` : show(this.name)} of ${this.a} and ${this.b ?? 'the world'}${this.dead ? ', ended' : ''}`
  }

  protected setting(which: number): number {
    return this.dead ? Number.NaN : this.keeper.book.settings.data[SETTINGS * this.slot + which]
  }

  protected put(which: number, value: number): void {
    this.use('a joint').settings.data[SETTINGS * this.slot + which] = value
  }

  protected changed(): void {
    this.keeper.wake(this.slot)
  }

  protected use(what: string): JointBook<JointHandle<K, B>> {
    this.keeper.guard(what)
    if (!this.dead) return this.keeper.book
    throw new KeenError('dead-handle', `${what}: the joint ${this} has ended; check joint.alive first`)
  }

  /** Refuses what joints of this type do not have. */
  protected among(what: string, ...types: number[]): void {
    if (types.some((type) => JOINT_TYPES[type] === this.type)) return
    const names = types.map((type) => `'${JOINT_TYPES[type]}'`)
    throw new KeenError(
      'bad-argument',
      `'${what}' of a joint: a '${this.type}' has none; it belongs to ${names.join(', ')}`,
    )
  }

  protected only(what: string, type: JointType): void {
    this.among(what, JOINT_TYPES.indexOf(type))
  }

  private soft(what: string): void {
    if (['spring', 'axle', 'fixed', 'carry'].includes(this.type)) return
    this.among(what, JOINT_TYPES.indexOf('spring'), AXLE, JOINT_TYPES.indexOf('fixed'), JOINT_TYPES.indexOf('carry'))
  }
}

/** A number with as many digits as tell something. */
function digits(value: number): string {
  return String(Number(value.toPrecision(3)))
}

refuseAssignment(JointHandle.prototype, {
  alive: 'remove() ends it',
  force: 'it is what the joint bore; motor and breaks are set',
  torque: 'it is what the joint bore; motor and breaks are set',
})
