/** What a joint is made from, as far as that knows no dimension: the fields of each type, and their checks. */
import { finite, notNegative, onlyFields, positive } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import { ANGLE, COORDINATE, DAMPING, FORCE, RATE, SPEED } from '../util/limits.ts'
import type { JointType } from './book.ts'

/** How far something may go, from where it was at joining: radians or lengths. */
export interface Limits {
  /** How far the one way: no more than `max`. */
  readonly min: number
  /** How far the other way. */
  readonly max: number
}

/** Limits of which an end can be left out: then it goes as far as it likes that way. */
export interface OpenLimits {
  /** How far the one way. */
  readonly min?: number | undefined
  /** How far the other way. */
  readonly max?: number | undefined
}

/** What drives a joint. */
export interface Motor {
  /** Radians a second; lengths a second for a slide. */
  readonly speed: number
  /** Newtons times a length at most: for a hinge and an axle. */
  readonly torque?: number | undefined
  /** Newtons at most: for a slide. */
  readonly force?: number | undefined
}

/** Cycles a second and damping of what is soft when nothing else is said. */
export const SOFT = { frequency: 2, damping: 0.7 }
export const HAND = { frequency: 4, damping: 1 }

/** An end of the limits may be left out: then there is none on that side. */
export function checkLimits(value: unknown, type: JointType): Limits {
  if (value === null || value === undefined) return { min: -Infinity, max: Infinity }
  const what = type === 'ball' ? "'twist' of a 'ball'" : `'limits' of a '${type}'`
  onlyFields(value, ['min', 'max'], what)
  const { min, max } = value as { min?: unknown; max?: unknown }
  const least = type === 'hinge' || type === 'ball' ? ANGLE : COORDINATE
  const low = min === undefined || min === -Infinity ? -Infinity : finite(min, `'min' of ${what}`, least)
  const high = max === undefined || max === Infinity ? Infinity : finite(max, `'max' of ${what}`, least)
  if (type === 'distance' && low < 0 && low !== -Infinity) {
    throw new KeenError('bad-number', `'min' of ${what} is a distance and must not be negative, got ${show(min)}`)
  }
  if (low > high) {
    throw new KeenError(
      'bad-number',
      `'min' of ${what} is ${low}, which is more than 'max', ${high}: the other way round`,
    )
  }
  return { min: low, max: high }
}

export function checkMotor(value: unknown, type: JointType): { speed: number; strength: number } {
  if (value === null || value === undefined) return { speed: 0, strength: 0 }
  const what = `'motor' of a '${type}'`
  const unit = type === 'slide' ? 'force' : 'torque'
  onlyFields(value, ['speed', unit], what)
  const motor = value as Record<string, unknown>
  const strength = motor[unit]
  if (strength === undefined) {
    throw new KeenError('bad-argument', `${what} needs '${unit}', the most that it gives: without it nothing is driven`)
  }
  return {
    speed: finite(motor['speed'], `'speed' of ${what}`, SPEED),
    strength: strength === Infinity ? Infinity : notNegative(strength, `'${unit}' of ${what}`, FORCE),
  }
}

export function checkFrequency(value: unknown, type: JointType): number {
  const what = `'frequency' of a '${type}'`
  return type === 'fixed' ? notNegative(value, what, RATE) : positive(value, what, RATE)
}

export function checkDamping(value: unknown): number {
  return notNegative(value, "'damping' of a joint", DAMPING)
}

export function checkLength(value: unknown): number {
  return notNegative(value, "'length' of a 'spring'", COORDINATE)
}

function bounds(value: unknown, what: string): { force: number; torque: number } {
  if (value === null || value === undefined) return { force: Infinity, torque: Infinity }
  onlyFields(value, ['force', 'torque'], what)
  const each = (field: 'force' | 'torque'): number => {
    const most = (value as Record<string, unknown>)[field]
    return most === undefined || most === Infinity ? Infinity : positive(most, `'${field}' of ${what}`, FORCE)
  }
  return { force: each('force'), torque: each('torque') }
}

export function checkBreaks(value: unknown): { force: number; torque: number } {
  return bounds(value, "'breaks' of a joint")
}

export function checkHold(value: unknown): { force: number; torque: number } {
  return bounds(value, "'hold' of a 'carry'")
}

/** What every joint is made with. `B` is the body type of the dimension, `E` the end that is told. */
export interface JointBase<B, E> {
  /** The first body. */
  a: B
  /** Stands for it in texts; unique among the living joints of a world. */
  name?: string | undefined
  /** Whether it holds from the start. Default true. */
  enabled?: boolean | undefined
  /** The two may touch. Default false. */
  touching?: boolean | undefined
  /** What it bears; beyond that it breaks. Default anything. */
  breaks?: { force?: number | undefined; torque?: number | undefined } | null | undefined
  /** Hears of its end. */
  end?: ((event: E) => void) | undefined
}

/** A joint of two bodies, or of a body and the world. */
export interface JointBetween<B, E> extends JointBase<B, E> {
  /** The second body. Default: the world; then what is measured and driven is how the first moves in it. */
  b?: B | null | undefined
}

/** A joint of two points. */
export interface JointOfPoints<B, E, V> extends JointBetween<B, E> {
  /** Where it holds the first body, as a point of the world. Default: its centre of mass. */
  atA?: V | undefined
  /** Where it holds the second body or the world, as a point of the world. Default: the centre of mass of that body. */
  atB?: V | undefined
}

/** Of a joint that swings. */
export interface Softness {
  /** Cycles a second at which what it joins would swing. */
  frequency?: number | undefined
  /** 0 swings for ever, 1 just does not swing. */
  damping?: number | undefined
}

/** Of a joint that goes only so far, and may be driven. */
export interface Driven {
  /** How far it may go from how the two stand at joining: radians (not wrapped), lengths for a slide and an axle. Default: any way. */
  limits?: OpenLimits | null | undefined
  /** Drives it, as strongly as is said. Default none. */
  motor?: Motor | null | undefined
}

/** Of a rod or a rope. */
export interface Apart {
  /** Lengths; as much as `max`: a rod. Both left out: as far as they are at joining. */
  min?: number | undefined
  /** Lengths; with a `min` of 0: a rope. */
  max?: number | undefined
}

/** Of a hand. */
export interface Holding {
  /** Newtons that it gives at most. Default: any. */
  force?: number | undefined
  /** Newtons times a length that it gives at most. Default: any. */
  torque?: number | undefined
}

const COMMON = ['type', 'a', 'name', 'enabled', 'touching', 'breaks', 'end'] as const
const SOFTNESS = ['frequency', 'damping'] as const

/** The fields of each type of joint; `axes` are those that only one dimension has. */
export function jointFields(
  axes: Readonly<Partial<Record<JointType, readonly string[]>>>,
): Readonly<Record<JointType, readonly string[]>> {
  const of = (type: JointType, ...fields: string[]): readonly string[] => [...COMMON, ...fields, ...(axes[type] ?? [])]
  return {
    hinge: of('hinge', 'b', 'at', 'limits', 'motor'),
    ball: of('ball', 'b', 'at'),
    distance: of('distance', 'b', 'atA', 'atB', 'min', 'max'),
    spring: of('spring', 'b', 'atA', 'atB', 'length', ...SOFTNESS),
    slide: of('slide', 'b', 'at', 'axis', 'limits', 'motor'),
    axle: of('axle', 'b', 'at', 'axis', 'limits', 'motor', ...SOFTNESS),
    fixed: of('fixed', 'b', 'at', ...SOFTNESS),
    carry: of('carry', 'at', 'target', 'force', 'torque', ...SOFTNESS),
  }
}
