/** Errors for the person who made the mistake: one class, a stable code, a sentence that says what to do. */

/** The closed list of codes a {@link KeenError} can carry; messages may change, codes do not. */
export type ErrorCode =
  | 'bad-argument'
  | 'bad-level'
  | 'bad-log'
  | 'bad-model'
  | 'bad-number'
  | 'bad-save'
  | 'bad-scene'
  | 'bad-shape'
  | 'callback-failed'
  | 'locked'
  | 'dead-handle'
  | 'duplicate-name'
  | 'expectation-failed'
  | 'foreign-handle'
  | 'step-in-callback'
  | 'too-many-layers'
  | 'unknown-layer'
  | 'unknown-name'
  | 'unknown-tag'

/** Every error that this library throws on purpose. */
export class KeenError extends Error {
  /** Always `'KeenError'`. */
  override readonly name = 'KeenError'
  /** What kind of mistake it was; stable between versions. */
  readonly code: ErrorCode
  /** Further errors of the same dispatch, when several callbacks threw. */
  readonly others: readonly unknown[]

  constructor(code: ErrorCode, message: string, options: { cause?: unknown; others?: readonly unknown[] } = {}) {
    super(message, options.cause === undefined ? undefined : { cause: options.cause })
    this.code = code
    this.others = options.others ?? []
  }
}

/** Says how a value looks, short enough for a sentence. */
export function show(value: unknown): string {
  if (typeof value === 'string') return JSON.stringify(value.length > 40 ? `${value.slice(0, 40)}…` : value)
  if (typeof value === 'number' || typeof value === 'boolean' || value == null) return String(value)
  if (typeof value === 'bigint') return `${value}n`
  if (Array.isArray(value)) return value.length === 0 ? '[]' : `an array of ${value.length}`
  if (typeof value === 'function') return 'a function'
  if (typeof value === 'symbol') return 'a symbol'
  const keys = Object.keys(value as object)
  if (keys.length === 0) return 'an object'
  const named = keys.slice(0, 4).join(', ').slice(0, 60)
  return `an object with ${named}${keys.length > 4 ? ', …' : ''}`
}
