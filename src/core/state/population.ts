/**
 * Who is in the world: bodies and their colliders as slots of two tables, the handles that stand for them, and the
 * list of colliders whose filtering changed since the last step. It knows no shape and no place.
 */

import {
  CHANGED,
  DEAD,
  ENABLED,
  FIXED,
  Filter,
  FRESH,
  HAND_SENSE,
  HAND_SOLID,
  PRESSING,
  RESHAPED_FLAG,
  RETYPED_FLAG,
  SENSOR,
  SENSOR_FLAG,
} from '../filter/filter.ts'
import type { Layers } from '../filter/layers.ts'
import type { StateVisitor } from '../save/state.ts'
import { KeenError } from '../util/errors.ts'
import { ColliderHandles, visitHandles } from './colliderHandles.ts'
import { IntList, SlotSet, Table } from './table.ts'

export const STATIC = 0
export const KINEMATIC = 1
/** Moved by forces and contacts. */
export const DYNAMIC = 2
/** The types of bodies, by the numbers that stand for them. */
export const BODY_TYPES = ['static', 'kinematic', 'dynamic'] as const
/** How a body moves: not at all, as it is told, or as forces and contacts have it. */
export type BodyType = (typeof BODY_TYPES)[number]

/** Bits of a body's flags. */
export const BODY_ENABLED = 1
export const BODY_DEAD = 2
/** Teleported since the last step. */
export const TELEPORTED = 4
const MARKED = 8

/** The lock under which not even questions are allowed. */
export const DECIDING = 'a decide hook'

const NONE = -1

export class Population<B, C> {
  readonly bodies = new Table()
  readonly colliders = new Table()
  readonly filter = new Filter(this.colliders)
  readonly bodyHandles: (B | null)[] = []
  readonly handles = new ColliderHandles<C>()

  readonly type = this.bodies.i32()
  /** The bodies of type {@link KINEMATIC}, and those of type {@link DYNAMIC}. */
  readonly kinematics = new SlotSet()
  readonly dynamics = new SlotSet()
  /** Counts the changes of what stands still: who is there, how it is filtered, its shape and place. */
  stillChanges = 0
  /** The same of what can move, but for its place. */
  moverChanges = 0
  readonly bodyFlags = this.bodies.i32()
  /** The age of a body: counts up over the life of the world, never used again. */
  readonly bodySerial = this.bodies.i32()
  private readonly firstCollider = this.bodies.i32()

  readonly serial = this.colliders.i32()
  readonly tagSet = this.colliders.i32()
  private readonly nextCollider = this.colliders.i32()

  /** Colliders whose filtering, tags or existence changed since the last step. */
  readonly changed = new IntList()
  private readonly marked = new IntList()
  private readonly deadBodies = new IntList()
  private readonly deadColliders = new IntList()
  /** What is running that must not be disturbed, such as `a decide hook`; null if nothing is. */
  lock: string | null = null
  private born = 0
  private bornColliders = 0

  addBody(type: number, enabled: boolean): number {
    const body = this.bodies.claim()
    this.type.data[body] = type
    this.sort(body, type)
    this.countChange(type === STATIC)
    this.bodyFlags.data[body] = enabled ? BODY_ENABLED : 0
    this.bodySerial.data[body] = ++this.born
    this.firstCollider.data[body] = NONE
    return body
  }

  private countChange(still: boolean): void {
    if (still) this.stillChanges++
    else this.moverChanges++
  }

  /** Among which movers a body is. */
  private sort(body: number, type: number): void {
    this.kinematics.set(body, type === KINEMATIC)
    this.dynamics.set(body, type === DYNAMIC)
  }

  /** For a world that shows another's past: a body in a slot. */
  seatBody(body: number, age: number, type: number, handle: B): void {
    this.bodies.seat(body)
    this.type.data[body] = type
    this.bodyFlags.data[body] = BODY_ENABLED
    this.bodySerial.data[body] = age
    this.firstCollider.data[body] = NONE
    this.bodyHandles[body] = handle
  }

  /** A collider in a slot, behind those that its body has. Its words are the caller's to write. */
  seatCollider(c: number, body: number, age: number, handle: C): void {
    this.colliders.seat(c)
    this.filter.body.data[c] = body
    this.serial.data[c] = age
    this.nextCollider.data[c] = NONE
    this.handles.put(c, handle)
    let last = this.firstCollider.data[body]
    if (last === NONE) this.firstCollider.data[body] = c
    else {
      while (this.nextCollider.data[last] !== NONE) last = this.nextCollider.data[last]
      this.nextCollider.data[last] = c
    }
  }

  /** Takes a body and its colliders out of their slots. */
  unseat(body: number, colliders: readonly number[]): void {
    this.bodyHandles[body] = null
    this.bodySerial.data[body] = 0
    this.firstCollider.data[body] = NONE
    for (const c of colliders) {
      this.handles.drop(c)
      this.filter.flags.data[c] = 0
      this.filter.activeLayers.data[c] = 0
    }
  }

  addCollider(body: number, layers: Layers, bits: number, enabled: boolean, sensor: boolean): number {
    const c = this.colliders.claim()
    const { filter } = this
    filter.body.data[c] = body
    this.serial.data[c] = ++this.bornColliders
    let flags = FRESH
    if (enabled) flags |= ENABLED
    if (sensor) flags |= SENSOR_FLAG
    if (this.type.data[body] === STATIC) flags |= FIXED
    if (this.type.data[body] === DYNAMIC) flags |= PRESSING
    filter.flags.data[c] = flags
    this.nextCollider.data[c] = NONE
    this.fillWords(c, layers, bits)
    // Kept in the order of attaching, so that walking a body's colliders follows their age.
    let last = this.firstCollider.data[body]
    if (last === NONE) this.firstCollider.data[body] = c
    else {
      while (this.nextCollider.data[last] !== NONE) last = this.nextCollider.data[last]
      this.nextCollider.data[last] = c
    }
    this.markDirty(c)
    return c
  }

  /** Sets where a collider is, and all three words again from the pair table. */
  fillWords(c: number, layers: Layers, bits: number): void {
    const { filter } = this
    filter.layerBits.data[c] = bits
    filter.solidBits.data[c] = layers.solidBits(bits >>> 0)
    filter.senseBits.data[c] = layers.senseBits(bits >>> 0)
    filter.flags.data[c] &= ~(HAND_SOLID | HAND_SENSE)
  }

  /** What a collider is solid to, set by hand. */
  setSolid(c: number, bits: number): void {
    this.filter.solidBits.data[c] = bits
    this.filter.flags.data[c] |= HAND_SOLID
  }

  /** What a collider senses, set by hand. */
  setSense(c: number, bits: number): void {
    this.filter.senseBits.data[c] = bits
    this.filter.flags.data[c] |= HAND_SENSE
  }

  /** Takes a changed pair table over into one collider, leaving alone what was set by hand. */
  refillWords(c: number, layers: Layers): void {
    const { filter } = this
    const bits = filter.layerBits.data[c]
    const flags = filter.flags.data[c]
    const solid = (flags & HAND_SOLID) !== 0 ? filter.solidBits.data[c] : layers.solidBits(bits >>> 0)
    const sense = (flags & HAND_SENSE) !== 0 ? filter.senseBits.data[c] : layers.senseBits(bits >>> 0)
    if (solid === filter.solidBits.data[c] && sense === filter.senseBits.data[c]) return
    filter.solidBits.data[c] = solid
    filter.senseBits.data[c] = sense
    this.markDirty(c)
  }

  /** Recomputes the effective masks after a change, and lists the collider for the next step. */
  markDirty(c: number): void {
    const { filter } = this
    this.countChange((filter.flags.data[c] & FIXED) !== 0)
    filter.fold(c, (this.bodyFlags.data[filter.body.data[c]] & BODY_ENABLED) !== 0)
    if ((filter.flags.data[c] & CHANGED) !== 0) return
    filter.flags.data[c] |= CHANGED
    this.changed.push(c)
  }

  /** A collider has another shape, in part: whoever keeps what was there looks again. */
  reshaped(c: number): void {
    this.countChange((this.filter.flags.data[c] & FIXED) !== 0)
  }

  /** The first collider of a body, or -1. */
  first(body: number): number {
    return this.firstCollider.data[body]
  }

  /** The handles of the colliders of a body, in the order of their attaching. */
  collidersOf(body: number): C[] {
    return this.slotsOf(body).map((c) => this.handles.of(c))
  }

  /** Their slots. */
  slotsOf(body: number): number[] {
    const found: number[] = []
    for (let c = this.first(body); c >= 0; c = this.next(c)) found.push(c)
    return found
  }

  /** Whether a collider is the only one of its body. */
  isAlone(c: number): boolean {
    return this.next(c) < 0 && this.first(this.filter.body.data[c]) === c
  }

  /** The next collider of the same body, or -1. */
  next(c: number): number {
    return this.nextCollider.data[c]
  }

  /** Lists a collider as one that got another shape. */
  markReshaped(c: number): void {
    this.filter.flags.data[c] |= RESHAPED_FLAG
    this.markDirty(c)
  }

  /** Makes a body static, kinematic or dynamic. */
  retype(body: number, type: number): void {
    const { flags } = this.filter
    this.type.data[body] = type
    this.sort(body, type)
    this.countChange(true)
    this.countChange(false)
    for (let c = this.first(body); c >= 0; c = this.next(c)) {
      const kept = flags.data[c] & ~(FIXED | PRESSING)
      flags.data[c] = kept | RETYPED_FLAG | (type === STATIC ? FIXED : type === DYNAMIC ? PRESSING : 0)
      this.markDirty(c)
    }
  }

  /** Whether a collider is a sensor: it never presses. */
  isSensor(c: number): boolean {
    return (this.filter.flags.data[c] & SENSOR) !== 0
  }

  markTeleported(body: number): void {
    this.bodyFlags.data[body] |= TELEPORTED
    this.mark(body)
  }

  private mark(body: number): void {
    if ((this.bodyFlags.data[body] & MARKED) !== 0) return
    this.bodyFlags.data[body] |= MARKED
    this.marked.push(body)
  }

  /** Refuses a change of the world while something runs that must not be disturbed. */
  guard(what: string): void {
    if (this.lock === null) return
    throw new KeenError(
      'locked',
      `${what}: the world cannot be changed inside ${this.lock}; note it there, and do it in an event handler or after the step`,
    )
  }

  /** Refuses a question while poses are in flux. */
  guardQuery(): void {
    if (this.lock !== DECIDING) return
    throw new KeenError(
      'locked',
      `the world cannot be asked inside ${DECIDING}, for poses are in flux: ask before the step, or in an event handler`,
    )
  }

  /** Takes a collider out at once; its slot and handle stay until {@link release}. */
  killCollider(c: number): void {
    const { filter } = this
    this.countChange((filter.flags.data[c] & FIXED) !== 0)
    const body = filter.body.data[c]
    if (this.firstCollider.data[body] === c) this.firstCollider.data[body] = this.nextCollider.data[c]
    else {
      let before = this.firstCollider.data[body]
      while (this.nextCollider.data[before] !== c) before = this.nextCollider.data[before]
      this.nextCollider.data[before] = this.nextCollider.data[c]
    }
    filter.flags.data[c] |= DEAD
    filter.fold(c, false)
    this.deadColliders.push(c)
  }

  killBody(body: number): void {
    this.countChange(this.type.data[body] === STATIC)
    this.bodyFlags.data[body] |= BODY_DEAD
    this.deadBodies.push(body)
  }

  bodyAlive(body: number): boolean {
    return (this.bodyFlags.data[body] & BODY_DEAD) === 0
  }

  /** Forgets the changes that this step has compared; what callbacks change from here on is listed for the next. */
  endTick(): void {
    const { changed, filter, marked } = this
    for (let i = 0; i < changed.length; i++) filter.endTick(changed.data[i])
    changed.clear()
    for (let i = 0; i < marked.length; i++) this.bodyFlags.data[marked.data[i]] &= ~(TELEPORTED | MARKED)
    marked.clear()
    filter.bodiesIgnoring.endTick()
    filter.collidersIgnoring.endTick()
    filter.bodiesJoined.endTick()
  }

  /**
   * Its state. The handles come first, while their slots still hold what the last words of one are read from that was made later.
   */
  visit(v: StateVisitor): void {
    visitHandles(this.bodyHandles, v)
    this.handles.visit(v)
    this.bodies.visit(v)
    this.colliders.visit(v)
    this.kinematics.visit(v)
    this.dynamics.visit(v)
    // Whatever is put back, others may be there.
    v.copy(
      () => null,
      () => {
        this.countChange(true)
        this.countChange(false)
      },
    )
    this.changed.visit(v)
    this.marked.visit(v)
    this.deadBodies.visit(v)
    this.deadColliders.visit(v)
    this.born = v.number(this.born)
    this.bornColliders = v.number(this.bornColliders)
    this.filter.bodiesIgnoring.visit(v)
    this.filter.collidersIgnoring.visit(v)
    this.filter.bodiesJoined.visit(v)
  }

  /** Frees the slots of the dead. `each` is called for every collider slot first. */
  release(each: (c: number) => void): void {
    const { deadBodies, deadColliders, changed, filter } = this
    if (deadBodies.length === 0 && deadColliders.length === 0) return
    let kept = 0
    for (let i = 0; i < changed.length; i++) {
      if ((filter.flags.data[changed.data[i]] & DEAD) === 0) changed.data[kept++] = changed.data[i]
    }
    changed.length = kept
    for (let i = 0; i < deadColliders.length; i++) {
      const c = deadColliders.data[i]
      each(c)
      filter.collidersIgnoring.release(c)
      this.handles.drop(c)
      this.colliders.release(c)
    }
    deadColliders.clear()
    for (let i = 0; i < deadBodies.length; i++) {
      filter.bodiesIgnoring.release(deadBodies.data[i])
      filter.bodiesJoined.release(deadBodies.data[i])
      this.bodyHandles[deadBodies.data[i]] = null
      this.sort(deadBodies.data[i], STATIC)
      this.bodies.release(deadBodies.data[i])
    }
    deadBodies.clear()
  }
}
