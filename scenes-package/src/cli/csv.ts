/** Events as CSV (RFC 4180): one head, one row an event, empty where a field has no meaning. */
import { stringify } from 'csv-stringify/sync'
import type { LogEvent } from 'keen-sentry/record'

const HEAD = [
  'tick',
  'time',
  'kind',
  'watch',
  'a',
  'b',
  'aCollider',
  'bCollider',
  'response',
  'cause',
  'when',
  'dwell',
  'impulse',
  'friction',
  'closingSpeed',
] as const

export function csvHead(): string {
  return stringify([[...HEAD]])
}

export function csvRow(line: LogEvent): string {
  return stringify([HEAD.map((field) => line[field] ?? '')])
}
