/** The form of the event log, version 1: what each line may hold; the published JSON Schema; and reading a log. */
import { CAUSES, EVENT_KINDS, KeenError } from '../core/index.ts'
import { type Form, fault, listOf, object, oneOf, optional, whole } from './form.ts'
import { LOG_FORMAT, LOG_VERSION, type LogLine } from './log.ts'

const text: Form = { type: 'string' }
const tick = whole(0)
const seconds: Form = { type: 'number', minimum: 0, description: 'simulated seconds' }
const amount = (description: string): Form => ({ type: 'number', minimum: 0, description })
const part: Form = { type: 'number', minimum: 0, maximum: 1 }
const vector: Form = { anyOf: [listOf(2), listOf(3)], description: 'x, y of 2D; x, y, z of 3D' }
const collider: Form = { ...whole(-1), description: 'index among the colliders of its body; -1 when it is gone' }

const header = object('the first line', {
  format: { const: LOG_FORMAT },
  version: { const: LOG_VERSION },
  scene: text,
  hash: {
    type: 'string',
    pattern: '^[0-9a-f]{64}$',
    description: 'SHA-256 of the scene as compact JSON: two logs of one hash are of one scene',
  },
  dimension: oneOf(['2d', '3d']),
  rate: { type: 'number', exclusiveMinimum: 0, description: 'ticks a second' },
  tick: { ...tick, description: 'the tick after which the log begins' },
})

const event = object('two that begin to meet, go on, or cease', {
  tick,
  time: { ...seconds, description: 'at the end of the tick' },
  kind: oneOf(EVENT_KINDS),
  watch: text,
  a: text,
  b: text,
  aCollider: collider,
  bCollider: collider,
  response: oneOf(['solid', 'sense']),
  cause: oneOf(CAUSES),
  when: { ...part, description: 'when in the tick' },
  dwell: { ...seconds, description: 'since the begin' },
  normal: optional({ ...vector, description: 'unit, from a to b; solid pairs only; as long as the dimension' }),
  impulse: optional(amount('newton seconds along the normal in this tick; solid pairs only')),
  friction: optional(amount('newton seconds across the normal in this tick; solid pairs only')),
  closingSpeed: optional(amount('metres a second at which they came together; solid pairs only')),
})

const met = object('what the ray meets now', {
  body: text,
  collider,
  point: vector,
  normal: vector,
  fraction: part,
  distance: { type: 'number', minimum: 0 },
})

const ray = object('a ray of the scene that meets something else than before', {
  tick,
  time: seconds,
  kind: { const: 'ray' },
  ray: text,
  hit: { anyOf: [met, { type: 'null' }] },
})

const action = object('something that the scene did from outside', {
  tick,
  time: seconds,
  kind: { const: 'action' },
  do: text,
  body: optional(text),
  joint: optional(text),
  collider: optional(whole(0)),
})

const joint = object('the end of a joint', {
  tick,
  time: { ...seconds, description: 'at the end of the tick' },
  kind: { const: 'joint' },
  joint: text,
  a: text,
  b: { anyOf: [text, { type: 'null' }], description: 'null for the world' },
  cause: oneOf(['broken', 'removed']),
  force: amount('newtons that it bore in that tick'),
  torque: amount('newtons times a metre by which it was twisted'),
})

const state = object('the hash of the world after a tick, where it was asked for', {
  tick,
  time: { ...seconds, description: 'at the end of the tick' },
  kind: { const: 'state' },
  hash: { type: 'string', pattern: '^[0-9a-f]{16}$' },
})

const done = object('the last line; a log without it was cut short', {
  kind: { const: 'done' },
  ticks: tick,
  counts: { type: 'object', additionalProperties: { type: 'integer' } },
})

/** The published JSON Schema of a line. */
export function logJsonSchema(): Record<string, unknown> {
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Keen Sentry event log, version 1: one line',
    description: 'One line of an event log of Keen Sentry.',
    anyOf: [header, event, ray, action, joint, state, done],
  }
}

/** The form of a line after the first, by its kind. */
function formOf(line: unknown): Form {
  const kind = (line as { kind?: unknown } | null)?.kind
  if (kind === 'ray') return ray
  if (kind === 'action') return action
  if (kind === 'joint') return joint
  if (kind === 'state') return state
  return kind === 'done' ? done : event
}

/**
 * The lines of a log. The first is the header; whether it was finished is told by its last line.
 * @throws KeenError `bad-log` with the number of the first line that is wrong, and what is wrong there; `bad-argument`
 */
export function readLog(log: string): LogLine[] {
  if (typeof log !== 'string') throw new KeenError('bad-argument', 'readLog takes the text of a log')
  const lines = log.split('\n')
  if (lines[lines.length - 1] === '') lines.pop()
  return lines.map((line, index) => {
    const refuse = (reason: string): never => {
      throw new KeenError('bad-log', `line ${index + 1} of the log ${reason}`)
    }
    let value: unknown
    try {
      value = JSON.parse(line)
    } catch (error) {
      refuse(`is not JSON: ${(error as Error).message}`)
    }
    const wrong = fault(index === 0 ? header : formOf(value), value)
    if (wrong !== null) refuse(`is no ${index === 0 ? 'header' : 'line'} of an event log: ${wrong}`)
    return value as LogLine
  })
}
