/**
 * Who may meet whom: the only place that knows the order of the refusals. The step, the queries and the explanations
 * all ask here. It never looks at shapes or places.
 *
 * A collider's three user words (where it is, what it is solid to, what it senses) are folded into three effective
 * words, so that the hot question is four ANDs: what is off has 0 in all three, a sensor has 0 in `press`.
 */

import type { Column, Table } from '../state/table.ts'
import { IgnoredPairs } from './ignoredPairs.ts'

export const PASS = 0
export const SENSE = 1
export const SOLID = 2
export const RESPONSE_NAMES = ['pass', 'sense', 'solid'] as const

/** Bits of a collider's flags. */
export const ENABLED = 1
/** Flagged `sensor` by the user. */
export const SENSOR_FLAG = 2
/** Presses nobody: flagged, or by its words. */
export const SENSOR = 4
/** On a static body. */
export const FIXED = 8
/** Alive, itself enabled, and on an enabled body. */
export const ON = 16
/** Was on at the end of the last step. */
export const WAS_ON = 32
/** Not yet seen by a step. */
export const FRESH = 64
/** Listed as changed since the last step. */
export const CHANGED = 128
/** Words set by hand, which `setPair` leaves alone. */
export const HAND_SOLID = 256
export const HAND_SENSE = 512
export const DEAD = 1024
/** Got another shape since the last step. */
export const RESHAPED_FLAG = 2048
/** Its body became static, kinematic or dynamic since the last step. */
export const RETYPED_FLAG = 4096
/** On a dynamic body. */
export const PRESSING = 8192

export class Filter {
  readonly body: Column<Int32Array>
  readonly flags: Column<Int32Array>
  /** What the user set. */
  readonly layerBits: Column<Int32Array>
  readonly solidBits: Column<Int32Array>
  readonly senseBits: Column<Int32Array>
  /** The effective words. */
  readonly activeLayers: Column<Int32Array>
  readonly activeSolid: Column<Int32Array>
  readonly activeMeet: Column<Int32Array>
  /** The effective words as the last step saw them. */
  readonly previousLayers: Column<Int32Array>
  readonly previousSolid: Column<Int32Array>
  readonly previousMeet: Column<Int32Array>
  /** Layers that some watch wants to hear of together with this collider. */
  readonly watched: Column<Int32Array>

  /** Bodies, and colliders, that were told to ignore each other. */
  readonly bodiesIgnoring = new IgnoredPairs()
  readonly collidersIgnoring = new IgnoredPairs()
  /** Bodies that a joint keeps from touching. */
  readonly bodiesJoined = new IgnoredPairs()

  constructor(colliders: Table) {
    this.body = colliders.i32()
    this.flags = colliders.i32()
    this.layerBits = colliders.i32()
    this.solidBits = colliders.i32()
    this.senseBits = colliders.i32()
    this.activeLayers = colliders.i32()
    this.activeSolid = colliders.i32()
    this.activeMeet = colliders.i32()
    this.previousLayers = colliders.i32()
    this.previousSolid = colliders.i32()
    this.previousMeet = colliders.i32()
    this.watched = colliders.i32()
  }

  /** Folds the user's words and flags into the effective words. */
  fold(c: number, bodyEnabled: boolean): void {
    const solid = this.solidBits.data[c]
    const sense = this.senseBits.data[c]
    let flags = this.flags.data[c] & ~(SENSOR | ON)
    if ((flags & SENSOR_FLAG) !== 0 || (solid === 0 && sense !== 0)) flags |= SENSOR
    if ((flags & ENABLED) !== 0 && (flags & DEAD) === 0 && bodyEnabled) flags |= ON
    const on = (flags & ON) !== 0
    this.flags.data[c] = flags
    this.activeLayers.data[c] = on ? this.layerBits.data[c] : 0
    this.activeSolid.data[c] = on && (flags & SENSOR) === 0 ? solid : 0
    this.activeMeet.data[c] = on ? solid | sense : 0
  }

  /** The response of two colliders now. */
  respond(a: number, b: number): number {
    return this.refused(a, b) || this.ignores(a, b) || this.joined(a, b) ? PASS : this.byMasks(a, b)
  }

  /** Whether two that are solid to each other are pressed apart: one of them is moved by forces. */
  isPressed(a: number, b: number): boolean {
    return ((this.flags.data[a] | this.flags.data[b]) & PRESSING) !== 0
  }

  /** What the words alone say. */
  byMasks(a: number, b: number): number {
    const { activeLayers, activeSolid, activeMeet } = this
    return masks(
      activeLayers.data[a],
      activeSolid.data[a],
      activeMeet.data[a],
      activeLayers.data[b],
      activeSolid.data[b],
      activeMeet.data[b],
    )
  }

  /** The response that the last step saw. */
  respondBefore(a: number, b: number): number {
    const passed = this.refused(a, b) || this.ignoredBefore(a, b) || this.joinedBefore(a, b)
    return passed ? PASS : this.byMasksBefore(a, b)
  }

  /** What the words that the last step saw alone say. */
  byMasksBefore(a: number, b: number): number {
    const { previousLayers, previousSolid, previousMeet } = this
    return masks(
      previousLayers.data[a],
      previousSolid.data[a],
      previousMeet.data[a],
      previousLayers.data[b],
      previousSolid.data[b],
      previousMeet.data[b],
    )
  }

  /** Whether the two, or their bodies, were told to ignore each other. */
  ignores(a: number, b: number): boolean {
    return (
      this.bodiesIgnoring.now(this.body.data[a], this.body.data[b]) ||
      (this.collidersIgnoring.any && this.collidersIgnoring.now(a, b))
    )
  }

  /** Whether a joint keeps their bodies from touching. */
  joined(a: number, b: number): boolean {
    return this.bodiesJoined.any && this.bodiesJoined.now(this.body.data[a], this.body.data[b])
  }

  private joinedBefore(a: number, b: number): boolean {
    return this.bodiesJoined.before(this.body.data[a], this.body.data[b])
  }

  ignoredBefore(a: number, b: number): boolean {
    return this.bodiesIgnoring.before(this.body.data[a], this.body.data[b]) || this.collidersIgnoring.before(a, b)
  }

  /** The refusals that need no mask: same body, both static. (Dead and disabled have empty words.) */
  private refused(a: number, b: number): boolean {
    if (this.body.data[a] === this.body.data[b]) return true
    return (this.flags.data[a] & this.flags.data[b] & FIXED) !== 0
  }

  /** Remembers what this step saw of a collider. */
  endTick(c: number): void {
    this.previousLayers.data[c] = this.activeLayers.data[c]
    this.previousSolid.data[c] = this.activeSolid.data[c]
    this.previousMeet.data[c] = this.activeMeet.data[c]
    const flags = this.flags.data[c] & ~(WAS_ON | FRESH | CHANGED | RESHAPED_FLAG | RETYPED_FLAG)
    this.flags.data[c] = (flags & ON) !== 0 ? flags | WAS_ON : flags
  }
}

/** The masks rule: both sides must agree; solid before sense. */
export function masks(atA: number, pressA: number, meetA: number, atB: number, pressB: number, meetB: number): number {
  if ((atA & pressB) !== 0 && (atB & pressA) !== 0) return SOLID
  return (atA & meetB) !== 0 && (atB & meetA) !== 0 ? SENSE : PASS
}
