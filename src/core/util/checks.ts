/** Argument checks of the public boundary. Inside it, numbers are trusted. */

import { KeenError, show } from './errors.ts'
import { LEAST_SIZE, SIZE } from './limits.ts'
import { hint } from './suggestions.ts'

/** A finite number, or `bad-number` naming the argument. @param most how far from 0 it may be */
export function finite(value: unknown, what: string, most = Number.MAX_VALUE): number {
  if (typeof value === 'number' && value <= most && value >= -most) return value
  if (typeof value === 'number' && Number.isFinite(value)) {
    throw new KeenError('bad-number', `${what} must be from -${most} to ${most}, got ${value}`)
  }
  throw new KeenError('bad-number', `${what} must be a finite number, got ${show(value)}`)
}

/** A finite number above zero. */
export function positive(value: unknown, what: string, most = Number.MAX_VALUE, least = 0): number {
  const number = finite(value, what)
  if (number > 0 && number >= least && number <= most) return number
  if (number <= 0) throw new KeenError('bad-number', `${what} must be above 0, got ${show(value)}`)
  throw new KeenError('bad-number', `${what} must be from ${least} to ${most}, got ${show(value)}`)
}

/** A size of a shape: above zero, within its bounds. */
export function size(value: unknown, what: string): number {
  return positive(value, what, SIZE, LEAST_SIZE)
}

/** A finite number that is zero or more. */
export function notNegative(value: unknown, what: string, most = Number.MAX_VALUE): number {
  const number = finite(value, what)
  if (number < 0) throw new KeenError('bad-number', `${what} must not be negative, got ${show(value)}`)
  return finite(number, what, most)
}

/** An unsigned 32-bit mask, returned as the signed word that the tables hold. */
export function word(value: unknown, what: string): number {
  if (typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= 0xffffffff) return value | 0
  throw new KeenError(
    'bad-number',
    `${what} must be a whole number from 0 to 4294967295 (2^32 - 1), got ${show(value)}`,
  )
}

/** One of a short list of words. */
export function oneOf<const T extends string>(value: unknown, allowed: readonly T[], what: string): T {
  if (allowed.includes(value as T)) return value as T
  const list = allowed.map((each) => `'${each}'`).join(', ')
  throw new KeenError('bad-argument', `${what} must be one of ${list}, got ${show(value)}`)
}

/** An object with fields, or `bad-argument`. */
export function record(value: unknown, what: string): void {
  if (typeof value === 'object' && value !== null && !Array.isArray(value)) return
  throw new KeenError('bad-argument', `${what} must be an object, got ${show(value)}`)
}

/** A list, or `bad-argument`. A string is none, though it can be gone through. */
export function list(value: unknown, what: string): readonly unknown[] {
  if (Array.isArray(value)) return value
  throw new KeenError('bad-argument', `${what} must be a list, got ${show(value)}`)
}

/** A function, or `bad-argument`. */
export function callable(value: unknown, what: string): void {
  if (typeof value === 'function') return
  throw new KeenError('bad-argument', `${what} must be a function, got ${show(value)}`)
}

/**
 * An object that a query writes its hit into, or nothing.
 * @param maker the function that makes such objects
 * @param vectors its fields that hold vectors; or null, with `empty`
 */
export function hitObject(
  value: unknown,
  maker: string,
  vectors: readonly string[],
  empty = false,
  field = 'collider',
): void {
  if (value === undefined) return
  let whole = typeof value === 'object' && value !== null && field in value && !Object.isFrozen(value)
  for (let i = 0; i < vectors.length && whole; i++) {
    const vector = (value as Record<string, unknown>)[vectors[i]]
    whole = typeof vector === 'object' && (vector !== null || empty)
  }
  if (whole) return
  throw new KeenError('bad-argument', `the object that is written into must come from ${maker}(), got ${show(value)}`)
}

/** A field of the results of a batch: its name, the kind of its array, and how many numbers a ray has there. */
export type ResultArray = readonly [field: string, kind: typeof Float64Array | typeof Int32Array, width: number]

/** Checks the arrays that a batch writes into. @param maker what makes such, as a call */
export function resultArrays(out: object, count: number, arrays: readonly ResultArray[], maker: string): void {
  record(out, `'out' of a batch (from ${maker})`)
  for (const [field, Kind, width] of arrays) {
    const given = (out as Record<string, unknown>)[field]
    if (given instanceof Kind && given.length >= width * count) continue
    const what = given instanceof Kind ? `one of ${given.length}` : show(given)
    throw new KeenError(
      'bad-argument',
      `'${field}' of the 'out' of a batch must be a ${Kind.name} of at least ${width * count} numbers, got ${what}: make it with ${maker}`,
    )
  }
}

/** An object without unknown fields, or `bad-argument`: an option that is silently ignored is an invisible bug. */
export function onlyFields(value: unknown, allowed: readonly string[], what: string): void {
  record(value, what)
  for (const key in value as object) {
    // Asked of every query: a plain loop over a few names is the fastest.
    let known = false
    for (let i = 0; i < allowed.length && !known; i++) known = allowed[i] === key
    if (known) continue
    throw new KeenError('bad-argument', `${what} has no field ${show(key)}; ${meant(key, allowed)}`)
  }
}

/** Words that are used for a field elsewhere. */
const SYNONYMS: Readonly<Record<string, readonly string[]>> = {
  position: ['at', 'from', 'point'],
  pos: ['at', 'from', 'point'],
  location: ['at', 'point'],
  x: ['at', 'from', 'point'],
  y: ['at', 'from', 'point'],
  rotation: ['angle'],
  angle: ['rotation'],
  orientation: ['angle', 'rotation'],
  shape: ['colliders'],
  shapes: ['colliders'],
  collider: ['colliders'],
  mask: ['solidBits', 'layers', 'layerBits'],
  group: ['layer', 'layers'],
  trigger: ['sensor'],
  bounce: ['restitution'],
  elasticity: ['restitution'],
  angularVelocity: ['spin'],
  end: ['to'],
  start: ['from'],
  origin: ['from'],
  distance: ['reach'],
  length: ['reach'],
  radius: ['reach'],
}

/** Fields that are nowhere, and what to do instead. */
const NOWHERE: Readonly<Record<string, string>> = {
  scale: 'there is no scale: give the shape its size',
}

function meant(key: string, allowed: readonly string[]): string {
  if (Object.hasOwn(NOWHERE, key)) return NOWHERE[key]
  const other = SYNONYMS[key]?.find((each) => allowed.includes(each))
  if (other !== undefined) return `did you mean ${show(other)}?`
  return hint(key, allowed)
}

/** Says how a vector is written, where one was given as a list of numbers. */
export function vectorHint(value: unknown, axes: readonly string[]): string {
  if (!Array.isArray(value) || value.length !== axes.length || !value.every((each) => typeof each === 'number'))
    return ''
  return `: write { ${axes.map((axis, i) => `${axis}: ${value[i]}`).join(', ')} }`
}

/** A boolean, or the default when it is left out. */
export function flag(value: unknown, otherwise: boolean, what: string): boolean {
  if (value === undefined) return otherwise
  if (typeof value === 'boolean') return value
  throw new KeenError('bad-argument', `${what} must be true or false, got ${show(value)}`)
}

/**
 * Makes properties of a class that cannot be assigned say so, and what to do instead: without it the engine throws an error of its own,
 * about a property that has only a getter.
 */
export function refuseAssignment(prototype: object, cures: Readonly<Record<string, string>>): void {
  for (const [name, cure] of Object.entries(cures)) {
    let owner = prototype
    while (!Object.hasOwn(owner, name)) owner = Object.getPrototypeOf(owner)
    const { get } = Object.getOwnPropertyDescriptor(owner, name)!
    Object.defineProperty(prototype, name, {
      ...(get === undefined ? {} : { get }),
      set() {
        throw new KeenError('bad-argument', `'${name}' of ${String(this)} cannot be assigned: ${cure}`)
      },
      configurable: true,
      enumerable: false,
    })
  }
}

/** Throws `bad-shape` for what is no shape of a dimension; of the other one's it says so. */
export function refuseForeignShape(value: unknown, what: string, dimension: 2 | 3): void {
  if (typeof value === 'object' && value !== null && 'pieces' in value) {
    const { dimension: own } = value as { dimension?: unknown }
    if (own === dimension) return
    if (own === 5 - dimension) {
      throw new KeenError(
        'bad-shape',
        `${what} is a shape of ${own}D, from keen-sentry/${own}d: make it with the functions of keen-sentry/${dimension}d`,
      )
    }
  }
  const makers = dimension === 2 ? 'circle(), box(), polygon()' : 'sphere(), box(), mesh()'
  throw new KeenError(
    'bad-shape',
    `${what} must be made by ${makers} or another function for shapes, got ${show(value)}`,
  )
}
