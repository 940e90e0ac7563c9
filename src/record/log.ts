/** The event log: one JSON object a line. What each line holds is documented in docs/event-log.md. */
import type { Cause, EventKind, WatchEvent } from '../core/index.ts'

/** The name of the format, as it stands in the header. */
export const LOG_FORMAT = 'keen-sentry-events'
/** The version of the format. */
export const LOG_VERSION = 1

/** A point or a direction: x, y of 2D; x, y, z of 3D. */
type LogVector = [number, number] | [number, number, number]

/** The first line. */
export interface LogHeader {
  /** The name of the format. */
  format: typeof LOG_FORMAT
  /** The version of the format. */
  version: typeof LOG_VERSION
  /** The name of the scene. */
  scene: string
  /** SHA-256 of the scene as compact JSON, in hexadecimal. */
  hash: string
  /** The dimension of the scene. */
  dimension: '2d' | '3d'
  /** Ticks a second. */
  rate: number
  /** The tick after which the log begins. */
  tick: number
}

/** A begin, during or end. */
export interface LogEvent {
  /** The tick that reported it. */
  tick: number
  /** Seconds at the end of the tick. */
  time: number
  /** What it reports. */
  kind: EventKind
  /** The key of the watch. */
  watch: string
  /** The name of the body on the first side. */
  a: string
  /** The name of the body on the second side. */
  b: string
  /** Index of the collider within its body, -1 when it was removed. */
  aCollider: number
  /** The index of the collider of `b`. */
  bCollider: number
  /** How the two treat each other. */
  response: 'solid' | 'sense'
  /** Why it began or ended. */
  cause: Cause
  /** When in the tick, 0..1. */
  when: number
  /** Seconds since the begin. */
  dwell: number
  /** Unit normal from a to b; solid pairs only. */
  normal?: LogVector | undefined
  /** Newton seconds along the normal in this tick, and across it; solid pairs only. */
  impulse?: number | undefined
  /** Newton seconds across the normal in that tick. */
  friction?: number | undefined
  /** Metres a second at which the two came together in this tick; solid pairs only. */
  closingSpeed?: number | undefined
}

/** A ray that meets something else than before. */
export interface LogRay {
  /** The tick after which it was so. */
  tick: number
  /** Simulated seconds until then. */
  time: number
  /** Which line it is. */
  kind: 'ray'
  /** The name of the ray. */
  ray: string
  /** What it meets; null for nothing. */
  hit: null | {
    body: string
    collider: number
    point: LogVector
    normal: LogVector
    fraction: number
    distance: number
  }
}

/** Something that the scene did from outside: a teleport, a removal. */
export interface LogAction {
  /** The tick before which it was carried out. */
  tick: number
  /** Simulated seconds until then. */
  time: number
  /** Which line it is. */
  kind: 'action'
  /** What was done. */
  do: string
  /** The name of the body to which it was done; of what was done to a joint, left out. */
  body?: string | undefined
  /** The name of the joint to which it was done. */
  joint?: string | undefined
  /** The index of the collider to which it was done; left out for the whole body. */
  collider?: number | undefined
}

/** The end of a joint. */
export interface LogJoint {
  /** The tick in which it ended. */
  tick: number
  /** Seconds at the end of the tick. */
  time: number
  /** Which line it is. */
  kind: 'joint'
  /** The name of the joint. */
  joint: string
  /** The name of its first body. */
  a: string
  /** The name of its second body; null for the world. */
  b: string | null
  /** Why it ended. */
  cause: 'broken' | 'removed'
  /** Newtons that it bore in that tick. */
  force: number
  /** Newtons times a metre by which it was twisted in that tick. */
  torque: number
}

/** The hash of the world after a tick, where it was asked for. */
export interface LogState {
  /** The tick that has ended. */
  tick: number
  /** Simulated seconds at its end. */
  time: number
  /** Which line it is. */
  kind: 'state'
  /** 16 hexadecimal digits, as `world.hash()` gives them. */
  hash: string
}

/** The last line. */
export interface LogEnd {
  /** Which line it is. */
  kind: 'done'
  /** Ticks that were played. */
  ticks: number
  /** Lines of each kind before this one. */
  counts: Record<string, number>
}

/** Any line of a log. */
export type LogLine = LogHeader | LogEvent | LogRay | LogAction | LogJoint | LogState | LogEnd

interface Vector {
  readonly x: number
  readonly y: number
  readonly z?: number | undefined
}

/** A ray's hit, as the worlds of both dimensions give it. */
interface Hit {
  readonly body: object
  readonly collider: { readonly index: number }
  readonly point: Vector
  readonly normal: Vector
  readonly fraction: number
  readonly distance: number
}

type AnyEvent = Omit<WatchEvent<object, { readonly index: number }, Vector>, 'watch' | 'keep' | 'points'> & {
  readonly watch: { readonly key: string }
}

/** The first line of a log. */
export function headerLine(scene: string, hash: string, dimension: '2d' | '3d', rate: number, tick = 0): LogHeader {
  return { format: LOG_FORMAT, version: LOG_VERSION, scene, hash, dimension, rate, tick }
}

function numbers({ x, y, z }: Vector): LogVector {
  return z === undefined ? [x, y] : [x, y, z]
}

/** The line of an event. Two events are the same fact when all fields but `watch` agree. */
export function eventLine(event: AnyEvent): LogEvent {
  const line: LogEvent = {
    tick: event.tick,
    time: tidy(event.time),
    kind: event.kind,
    watch: event.watch.key,
    a: String(event.a),
    b: String(event.b),
    aCollider: event.aCollider.index,
    bCollider: event.bCollider.index,
    response: event.response,
    cause: event.cause,
    when: event.when,
    dwell: tidy(event.dwell),
  }
  if (event.normal !== null) {
    line.normal = numbers(event.normal)
    line.impulse = event.impulse
    line.friction = event.friction
    line.closingSpeed = event.closingSpeed
  }
  return line
}

/** The line of a ray that meets something else than before. */
export function rayLine(world: { readonly tick: number; readonly time: number }, ray: string, hit: Hit | null): LogRay {
  return {
    tick: world.tick,
    time: tidy(world.time),
    kind: 'ray',
    ray,
    hit: hit && {
      body: String(hit.body),
      collider: hit.collider.index,
      point: numbers(hit.point),
      normal: numbers(hit.normal),
      fraction: hit.fraction,
      distance: hit.distance,
    },
  }
}

/** The line of an action that was carried out before the tick `tick`. */
export function actionLine(
  tick: number,
  rate: number,
  action: { do: string; body?: string | undefined; joint?: string | undefined; collider?: number | undefined },
): LogAction {
  const line: LogAction = { tick, time: tidy((tick - 1) / rate), kind: 'action', do: action.do }
  if (action.body !== undefined) line.body = action.body
  if (action.joint !== undefined) line.joint = action.joint
  if (action.collider !== undefined) line.collider = action.collider
  return line
}

/** The line of the end of a joint. */
export function jointLine(end: {
  readonly joint: object
  readonly a: object
  readonly b: object | null
  readonly cause: 'broken' | 'removed'
  readonly force: number
  readonly torque: number
  readonly tick: number
  readonly time: number
}): LogJoint {
  const { tick, time, joint, a, b, cause, force, torque } = end
  const names = { joint: String(joint), a: String(a), b: b === null ? null : String(b) }
  return { tick, time: tidy(time), kind: 'joint', ...names, cause, force, torque }
}

/** The line of the hash of a world. */
export function stateLine(world: { readonly tick: number; readonly time: number; hash(): string }): LogState {
  return { tick: world.tick, time: tidy(world.time), kind: 'state', hash: world.hash() }
}

/** Fills what stands in braces in the telling of the end of a joint: {joint}, {a}, {b}, {cause}, {force}, {torque}. */
export function fillJointTelling(template: string, line: LogJoint): string {
  const { joint, a, b, cause, force, torque } = line
  return fill(template, { joint, a, b: b ?? 'the world', cause, force: digits(force, 2), torque: digits(torque, 2) })
}

function fill(template: string, values: Readonly<Record<string, string>>): string {
  return template.replace(/\{(\w+)\}/g, (whole, key: string) => (Object.hasOwn(values, key) ? values[key] : whole))
}

/** Fills what stands in braces in the telling of an event: {a}, {b}, {cause}, {dwell}, {impulse}, {speed}. */
export function fillTelling(template: string, line: LogEvent): string {
  return fill(template, {
    a: line.a,
    b: line.b,
    cause: line.cause,
    dwell: line.dwell.toFixed(1),
    impulse: digits(line.impulse ?? 0, 2),
    speed: (line.closingSpeed ?? 0).toFixed(1),
  })
}

/** Gathers lines, counts them, and hands each on as text. */
export class EventLog {
  /** How many lines of each kind were added. */
  readonly counts: Record<string, number> = {}
  private readonly write: (text: string) => void

  constructor(header: LogHeader, write: (text: string) => void) {
    this.write = write
    write(`${JSON.stringify(header)}\n`)
  }

  /** Adds a line. */
  add(line: LogEvent | LogRay | LogAction | LogJoint | LogState): void {
    this.counts[line.kind] = (this.counts[line.kind] ?? 0) + 1
    this.write(`${JSON.stringify(line)}\n`)
  }

  /** Adds the last line and gives the whole as text. */
  finish(ticks: number): void {
    const end: LogEnd = { kind: 'done', ticks, counts: this.counts }
    this.write(`${JSON.stringify(end)}\n`)
  }
}

/** Seconds without the noise of tick * (1 / rate): the nearest nanosecond. */
function tidy(seconds: number): number {
  return Math.round(seconds * 1e9) / 1e9
}

/** A number to so many digits, without an exponent. */
export function digits(value: number, count: number): string {
  return value < 10 ** count ? value.toPrecision(count) : String(Math.round(value))
}
