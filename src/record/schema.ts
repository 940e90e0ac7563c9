/** The form of the event log, version 1: what each line may hold; the published JSON Schema; and reading a log. */
import { z } from 'zod'
import { CAUSES, EVENT_KINDS, KeenError } from '../core/index.ts'
import { LOG_FORMAT, LOG_VERSION, type LogLine } from './log.ts'

const tick = z.int().min(0)
const seconds = z.number().min(0).describe('simulated seconds')
const vector = z
  .union([z.tuple([z.number(), z.number()]), z.tuple([z.number(), z.number(), z.number()])])
  .describe('x, y of 2D; x, y, z of 3D')
const collider = z.int().min(-1).describe('index among the colliders of its body; -1 when it is gone')

/** The form of the first line of a log. */
export const logHeaderSchema = z
  .strictObject({
    format: z.literal(LOG_FORMAT),
    version: z.literal(LOG_VERSION),
    scene: z.string(),
    hash: z
      .string()
      .regex(/^[0-9a-f]{64}$/)
      .describe('SHA-256 of the scene as compact JSON: two logs of one hash are of one scene'),
    dimension: z.enum(['2d', '3d']),
    rate: z.number().positive().describe('ticks a second'),
    tick: tick.describe('the tick after which the log begins'),
  })
  .describe('the first line')

const event = z
  .strictObject({
    tick,
    time: seconds.describe('at the end of the tick'),
    kind: z.enum(EVENT_KINDS),
    watch: z.string(),
    a: z.string(),
    b: z.string(),
    aCollider: collider,
    bCollider: collider,
    response: z.enum(['solid', 'sense']),
    cause: z.enum(CAUSES),
    when: z.number().min(0).max(1).describe('when in the tick'),
    dwell: seconds.describe('since the begin'),
    normal: vector.optional().describe('unit, from a to b; solid pairs only; as long as the dimension'),
    impulse: z.number().min(0).optional().describe('newton seconds along the normal in this tick; solid pairs only'),
    friction: z.number().min(0).optional().describe('newton seconds across the normal in this tick; solid pairs only'),
    closingSpeed: z
      .number()
      .min(0)
      .optional()
      .describe('metres a second at which they came together; solid pairs only'),
  })
  .describe('two that begin to meet, go on, or cease')

const ray = z
  .strictObject({
    tick,
    time: seconds,
    kind: z.literal('ray'),
    ray: z.string(),
    hit: z
      .strictObject({
        body: z.string(),
        collider,
        point: vector,
        normal: vector,
        fraction: z.number().min(0).max(1),
        distance: z.number().min(0),
      })
      .nullable(),
  })
  .describe('a ray of the scene that meets something else than before')

const action = z
  .strictObject({
    tick,
    time: seconds,
    kind: z.literal('action'),
    do: z.string(),
    body: z.string(),
    collider: z.int().min(0).optional(),
  })
  .describe('something that the scene did from outside')

const done = z
  .strictObject({ kind: z.literal('done'), ticks: tick, counts: z.record(z.string(), z.int()) })
  .describe('the last line; a log without it was cut short')

/** Any line. */
export const logLineSchema = z
  .union([logHeaderSchema, event, ray, action, done])
  .describe('One line of an event log of Keen Sentry.')

/** The published JSON Schema of a line. */
export function logJsonSchema(): Record<string, unknown> {
  const schema = z.toJSONSchema(logLineSchema) as Record<string, unknown>
  return { ...schema, title: 'Keen Sentry event log, version 1: one line' }
}

/**
 * The lines of a log. The first is the header; whether it was finished is told by its last line.
 * @throws KeenError `bad-log` with the number of the first line that is wrong
 */
export function readLog(text: string): LogLine[] {
  const lines = text.split('\n')
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
    const parsed = (index === 0 ? logHeaderSchema : logLineSchema).safeParse(value)
    if (!parsed.success) refuse(index === 0 ? 'is no header of an event log' : 'is no line of an event log')
    return parsed.data as LogLine
  })
}
