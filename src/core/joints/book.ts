/**
 * The joints of a world as slots of a table: which two bodies, of what type, how they are set, what they bore in the last tick. Where
 * their anchors are is kept by a dimension. A joint to the world has it as its first body, so that what it measures is the motion of the other.
 */
import type { IgnoredPairs } from '../filter/ignoredPairs.ts'
import type { StateVisitor } from '../save/state.ts'
import type { Population } from '../state/population.ts'
import { type Column, IntList, Table } from '../state/table.ts'

export const JOINT_TYPES = ['hinge', 'ball', 'distance', 'spring', 'slide', 'axle', 'fixed', 'carry'] as const
/** How a joint holds. */
export type JointType = (typeof JOINT_TYPES)[number]

/** Places in that list. */
export const HINGE = 0
export const BALL = 1
export const DISTANCE = 2
export const SPRING = 3
export const SLIDE = 4
export const AXLE = 5
export const FIXED = 6
export const CARRY = 7

/** Stands for the world where a body could be. */
export const WORLD = -1

/** Rows that a joint has at most; an impulse is known from tick to tick by the place of its row. */
export const MOST_ROWS = 8

/** Bits of a joint's flags. */
export const JOINT_ENABLED = 1
/** The two bodies may touch. */
export const TOUCHING = 2
/** A target gives a turn too. */
export const TURNS = 4
const JOINT_DEAD = 8
/** The load of the last tick was more than it bears. */
export const BROKEN = 16

/** Places in {@link JointBook.settings}. */
export const MIN = 0
export const MAX = 1
/** Of the motor: its speed, and the most that it gives; 0 for none. */
export const SPEED = 2
export const STRENGTH = 3
/** Cycles a second, and the part of critical damping. */
export const FREQUENCY = 4
export const DAMPING = 5
export const LENGTH = 6
/** Radians of a cone; of a ball, the limits above are those of its twist. */
export const SWING = 7
/** What it bears, and what a hand gives at most. */
export const BREAK_FORCE = 8
export const BREAK_TORQUE = 9
export const HOLD_FORCE = 10
export const HOLD_TORQUE = 11
export const SETTINGS = 12

/** Places in {@link JointBook.load}: newtons, and newtons times a length, of the last tick. */
export const FORCE = 0
export const TORQUE = 1

/** What a joint's handle is to the book. */
export interface JointFace {
  /** @internal */ readonly slot: number
  readonly alive: boolean
  /** @internal */ markDead(): void
  /** @internal */ setAlive(alive: boolean): void
}

export class JointBook<J extends JointFace> {
  readonly table = new Table(8)
  readonly handles: (J | null)[] = []
  /** Slots of the living, by age: the order in which they are solved. */
  readonly order = new IntList()
  readonly serial: Column<Int32Array>
  readonly type: Column<Int32Array>
  readonly flags: Column<Int32Array>
  /** The two bodies; {@link WORLD} for the world. */
  readonly one: Column<Int32Array>
  readonly two: Column<Int32Array>
  readonly settings: Column<Float64Array>
  /** Impulses of the last substep, by row. */
  readonly impulses: Column<Float64Array>
  readonly load: Column<Float64Array>
  /** The last angle that was measured: the next is told from it without a jump. */
  readonly lastAngle: Column<Float64Array>
  private born = 0
  private readonly population: Population<object, object>
  private readonly joined: IgnoredPairs
  /** How many joints keep two bodies from touching. */
  private readonly counts = new Map<string, number>()

  constructor(population: Population<object, object>) {
    this.population = population
    this.joined = population.filter.bodiesJoined
    const { table } = this
    this.serial = table.i32()
    this.type = table.i32()
    this.flags = table.i32()
    this.one = table.i32()
    this.two = table.i32()
    this.settings = table.f64(SETTINGS)
    this.impulses = table.f64(MOST_ROWS)
    this.load = table.f64(2)
    this.lastAngle = table.f64()
  }

  /** A new joint between two bodies, the first of which may be the world: enabled, with nothing set. */
  add(type: number, one: number, two: number, touching: boolean): number {
    const joint = this.table.claim()
    this.serial.data[joint] = ++this.born
    this.type.data[joint] = type
    this.flags.data[joint] = JOINT_ENABLED | (touching ? TOUCHING : 0)
    this.one.data[joint] = one
    this.two.data[joint] = two
    const at = SETTINGS * joint
    const { data } = this.settings
    data[at + MIN] = -Infinity
    data[at + MAX] = data[at + SWING] = Infinity
    for (let k = BREAK_FORCE; k < SETTINGS; k++) data[at + k] = Infinity
    this.order.push(joint)
    if (!touching) this.count(joint, 1)
    return joint
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    const kept = v.objects(this.handles)
    if (kept !== this.handles) {
      for (const handle of this.handles) if (handle?.alive && !kept.includes(handle)) handle.markDead()
      this.handles.length = 0
      this.handles.push(...kept)
    }
    this.table.visit(v)
    this.order.visit(v)
    this.born = v.number(this.born)
    v.copy(
      () => [...this.counts],
      (counts) => {
        this.counts.clear()
        for (const [key, count] of counts) this.counts.set(key, count)
      },
    )
    if (kept === this.handles) return
    for (let joint = 0; joint < this.handles.length; joint++)
      this.handles[joint]?.setAlive((this.flags.data[joint] & JOINT_DEAD) === 0)
  }

  /** Takes a joint out at once; its slot stays until {@link release}. */
  remove(joint: number): void {
    if ((this.flags.data[joint] & JOINT_DEAD) !== 0) return
    this.flags.data[joint] |= JOINT_DEAD
    this.order.remove(joint)
    if ((this.flags.data[joint] & TOUCHING) === 0) this.count(joint, -1)
    this.handles[joint]!.markDead()
  }

  /** Frees the slot of a joint whose end was told. */
  release(joint: number): void {
    this.handles[joint] = null
    this.table.release(joint)
  }

  setTouching(joint: number, touching: boolean): void {
    const { data } = this.flags
    if (((data[joint] & TOUCHING) !== 0) === touching) return
    data[joint] ^= TOUCHING
    this.count(joint, touching ? -1 : 1)
  }

  isActive(joint: number): boolean {
    return (this.flags.data[joint] & (JOINT_ENABLED | JOINT_DEAD)) === JOINT_ENABLED
  }

  /** The joints of a body, by age. */
  of(body: number): number[] {
    const found: number[] = []
    const { order, one, two } = this
    for (let i = 0; i < order.length; i++) {
      const joint = order.data[i]
      if (one.data[joint] === body || two.data[joint] === body) found.push(joint)
    }
    return found
  }

  /** The joints between two bodies, by age. */
  between(a: number, b: number): J[] {
    const found = this.of(a).filter((joint) => this.one.data[joint] === b || this.two.data[joint] === b)
    return found.map((joint) => this.handles[joint]!)
  }

  /** One joint more or less keeps its two bodies from touching. */
  private count(joint: number, by: number): void {
    const one = this.one.data[joint]
    const two = this.two.data[joint]
    if (one === WORLD || two === WORLD) return
    const key = one < two ? `${one} ${two}` : `${two} ${one}`
    const before = this.counts.get(key) ?? 0
    const after = before + by
    if (after === 0) this.counts.delete(key)
    else this.counts.set(key, after)
    if (before === 0 || after === 0) {
      this.joined.set(one, two, after > 0)
      const { population } = this
      for (let c = population.first(one); c >= 0; c = population.next(c)) population.markDirty(c)
    }
  }
}
