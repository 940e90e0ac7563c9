/** Argument checks of the public boundary. Inside it, numbers are trusted. */
import { KeenError, show } from './errors.ts'

/** A finite number, or `bad-number` naming the argument. */
export function finite(value: unknown, what: string): number {
  if (typeof value === 'number' && Number.isFinite(value)) return value
  throw new KeenError('bad-number', `${what} must be a finite number, got ${show(value)}`)
}

/** A finite number above zero. */
export function positive(value: unknown, what: string): number {
  if (finite(value, what) > 0) return value as number
  throw new KeenError('bad-number', `${what} must be above 0, got ${show(value)}`)
}

/** A finite number that is zero or more. */
export function notNegative(value: unknown, what: string): number {
  if (finite(value, what) >= 0) return value as number
  throw new KeenError('bad-number', `${what} must not be negative, got ${show(value)}`)
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

/** Refuses fields nobody reads: an option that is silently ignored is a bug that cannot be seen. */
export function onlyFields(value: object, allowed: readonly string[], what: string): void {
  for (const key in value) {
    // Asked of every query: a plain loop over a few names is the fastest.
    let known = false
    for (let i = 0; i < allowed.length && !known; i++) known = allowed[i] === key
    if (!known) throw new KeenError('bad-argument', `${what} has no field ${show(key)}; it takes ${allowed.join(', ')}`)
  }
}

/** True or false, or what stands for it when it is left out. */
export function flag(value: unknown, otherwise: boolean, what: string): boolean {
  if (value === undefined) return otherwise
  if (typeof value === 'boolean') return value
  throw new KeenError('bad-argument', `${what} must be true or false, got ${show(value)}`)
}
