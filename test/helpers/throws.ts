import assert from 'node:assert/strict'
import { type ErrorCode, KeenError } from '../../src/core/index.ts'

/** The call must throw a KeenError with this code and a message that matches. */
export function throwsKeen(code: ErrorCode, message: RegExp, call: () => unknown): KeenError {
  let thrown: unknown
  try {
    call()
  } catch (error) {
    thrown = error
  }
  assert.ok(thrown instanceof KeenError, `expected a KeenError, got ${String(thrown)}`)
  assert.equal(thrown.code, code)
  assert.match(thrown.message, message)
  return thrown
}

/** As {@link throwsKeen}, of a promise. */
export async function rejectsKeen(code: ErrorCode, message: RegExp, promise: Promise<unknown>): Promise<void> {
  const outcome = await promise.then(
    () => null,
    (error: unknown) => error,
  )
  throwsKeen(code, message, () => {
    throw outcome
  })
}
