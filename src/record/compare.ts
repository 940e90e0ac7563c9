/** Where two runs part: the first value of two worlds, or the first line of two event logs, that is not the same. */
import { KeenError, show } from '../core/util/errors.ts'
import type { LogEnd, LogHeader, LogLine, LogState } from './log.ts'

/** A body, as far as it is compared. */
interface ComparedBody {
  readonly serial: number
  readonly name: string | null
  readonly colliders: readonly object[]
}

/** A joint, as far as it is compared. */
interface ComparedJoint {
  readonly serial: number
}

/** Layers, as far as they are compared. */
interface ComparedLayers {
  readonly all: readonly string[]
  pair(a: never, b: never): string
}

/** A world of either dimension, as far as it is compared. */
export interface ComparedWorld {
  /** Ticks it has made. */
  readonly tick: number
  /** Ticks a second. */
  readonly rate: number
  /** Of all that decides its future. */
  hash(): string
  /** The layers with their pair table. */
  readonly layers: ComparedLayers
  /** By age. */
  bodies(): readonly ComparedBody[]
  /** By age. */
  joints(): readonly ComparedJoint[]
}

/** Two worlds that are not the same. */
export interface WorldDifference {
  /** Whose value it is: a body, a collider, a joint, or the world. */
  readonly what: string
  /** Which value, as `at.x`; `''` for the whole of it. */
  readonly field: string
  /** What it is in the first world; undefined where it is not there. */
  readonly a: unknown
  /** What it is in the second. */
  readonly b: unknown
}

/** Two logs that are not the same. */
export interface LogDifference {
  /** The tick of the first line that differs. */
  readonly tick: number
  /** The number of that line in the first log and in the second, from 1; null where a log has ended. */
  readonly line: { readonly a: number | null; readonly b: number | null }
  /** That line of the first log. */
  readonly a: LogLine | null
  /** That line of the second. */
  readonly b: LogLine | null
  /** The fields in which the two lines differ; none where they are of different things. */
  readonly fields: readonly string[]
}

/** What of a body, a collider, a joint is compared, in this order. */
const BODY = ['name', 'type', 'enabled', 'sleeping', 'at', 'angle', 'rotation', 'velocity', 'spin', 'gravityScale']
/** What follows from the colliders, or was set. */
const WEIGHT = ['mass', 'inertia']
const COLLIDER = ['layerBits', 'solidBits', 'senseBits', 'sensor', 'enabled', 'tags', 'friction', 'restitution']
const JOINT = ['type', 'name', 'enabled', 'force', 'torque']

/**
 * The first value in which two worlds differ, by the age of bodies, to the bit: null where there is none. Where all that can be read is the same, but the hash is not,
 * it is what the future is made of: contacts, sleep, what watches have told.
 * @throws KeenError `bad-argument`
 * @example const parted = compareWorlds(mine, theirs); if (parted) console.log(differenceText(parted))
 */
export function compareWorlds(a: ComparedWorld, b: ComparedWorld): WorldDifference | null {
  for (const world of [a, b] as unknown[])
    if (typeof (world as ComparedWorld | null)?.hash !== 'function')
      throw new KeenError('bad-argument', `compareWorlds takes two worlds, got ${show(world)}`)
  if (a.tick !== b.tick) return { what: 'the world', field: 'tick', a: a.tick, b: b.tick }
  if (a.hash() === b.hash()) return null
  return (
    differenceOf([a], [b], ['rate', 'gravity'], () => 'the world') ??
    layersOf(a.layers, b.layers) ??
    differenceOf(a.bodies(), b.bodies(), BODY, bodyText) ??
    collidersOf(a.bodies(), b.bodies()) ??
    differenceOf(a.bodies(), b.bodies(), WEIGHT, bodyText) ??
    differenceOf(a.joints(), b.joints(), JOINT, (joint) => `joint ${String(joint)}`) ?? {
      what: 'the world',
      field: 'hash',
      a: a.hash(),
      b: b.hash(),
    }
  )
}

/** The first difference of two pair tables, by the names of the layers. */
function layersOf(a: ComparedLayers, b: ComparedLayers): WorldDifference | null {
  const names = valuesOf(a.all, b.all, 'layers')
  if (names !== null) return { what: 'the world', ...names }
  for (const one of a.all as never[]) {
    for (const other of a.all as never[]) {
      const [x, y] = [a.pair(one, other), b.pair(one, other)]
      if (x !== y) return { what: 'the pair table', field: `${one} with ${other}`, a: x, b: y }
    }
  }
  return null
}

const bodyText = ({ name, serial }: ComparedBody): string => `body ${name ?? `#${serial}`}`

function collidersOf(a: readonly ComparedBody[], b: readonly ComparedBody[]): WorldDifference | null {
  for (const [i, body] of a.entries()) {
    const found = differenceOf(body.colliders, b[i].colliders, COLLIDER, String)
    if (found !== null) return found
  }
  return null
}

/** The first of two lists, and of fields of what is there, that differs. */
function differenceOf<T extends object>(
  a: readonly T[],
  b: readonly T[],
  fields: readonly string[],
  called: (each: T) => string,
): WorldDifference | null {
  for (let i = 0; i < Math.max(a.length, b.length); i++) {
    const [one, other] = [a[i], b[i]] as (T & { readonly serial?: number })[]
    if (one === undefined || other === undefined || one.serial !== other.serial) {
      // The younger is the one that the other world does not have.
      const first = other === undefined || (one !== undefined && (one.serial ?? 0) < (other.serial ?? 0))
      return first
        ? { what: called(one), field: '', a: 'is there', b: undefined }
        : { what: called(other), field: '', a: undefined, b: 'is there' }
    }
    for (const field of fields) {
      const found = valuesOf((one as never)[field], (other as never)[field], field)
      if (found !== null) return { what: called(one), ...found }
    }
  }
  return null
}

/** The first number or word in two values that differs, with its place. */
function valuesOf(a: unknown, b: unknown, field: string): { field: string; a: unknown; b: unknown } | null {
  if (Object.is(a, b)) return null
  if (typeof a === 'object' && typeof b === 'object' && a !== null && b !== null) {
    for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
      const found = valuesOf((a as never)[key], (b as never)[key], `${field}.${key}`)
      if (found !== null) return found
    }
    return null
  }
  return { field, a, b }
}

/** A difference as a sentence. */
export function differenceText({ what, field, a, b }: WorldDifference): string {
  if (field === '') return `${what} is in the ${a === undefined ? 'second' : 'first'} only`
  if (field === 'hash') {
    return `all that can be read is the same, but not the hash: contacts, sleep, or what watches have told (${shown(a)} in the first, ${shown(b)} in the second)`
  }
  return `${what}: ${field} is ${shown(a)} in the first, ${shown(b)} in the second`
}

function shown(value: unknown): string {
  return typeof value === 'number' || typeof value === 'string' ? String(value) : JSON.stringify(value)
}

/**
 * The first line in which two logs differ, as `readLog` gave them: null where there is none. Names of scenes and their hashes may differ, so that a scene can be compared with
 * what it was before; the dimension and the rate may not. Lines of hashes are compared where both logs have one of that tick.
 * @throws KeenError `bad-argument`
 */
export function compareLogs(a: readonly LogLine[], b: readonly LogLine[]): LogDifference | null {
  for (const lines of [a, b] as unknown[])
    if (!Array.isArray(lines) || lines.length === 0)
      throw new KeenError('bad-argument', `compareLogs takes two logs as readLog gives them, got ${show(lines)}`)
  const head = fieldsThatDiffer(a[0], b[0]).filter((field) => field !== 'scene' && field !== 'hash')
  if (head.length > 0) {
    return { tick: (a[0] as LogHeader).tick, line: { a: 1, b: 1 }, a: a[0], b: b[0], fields: head }
  }
  const hashed = [hashedTicks(a), hashedTicks(b)]
  const rest = [a, b].map((lines, which) =>
    lines
      .map((line, index) => ({ line, number: index + 1 }))
      .slice(1)
      // A hash that the other log does not have says nothing; the last line is what the others add up to.
      .filter(({ line }) => !isState(line) || hashed[1 - which].has(line.tick))
      .filter(({ line }) => !isEnd(line)),
  )
  const [one, other] = rest
  for (let i = 0; i < Math.max(one.length, other.length); i++) {
    const [x, y] = [one[i], other[i]]
    const fields = x === undefined || y === undefined ? [] : fieldsThatDiffer(x.line, y.line)
    if (x !== undefined && y !== undefined && fields.length === 0) continue
    const tick = Math.min(tickOf(x?.line), tickOf(y?.line))
    const same = x !== undefined && y !== undefined && isOfTheSame(x.line, y.line)
    return {
      tick,
      line: { a: x?.number ?? null, b: y?.number ?? null },
      a: x?.line ?? null,
      b: y?.line ?? null,
      fields: same ? fields : [],
    }
  }
  const [endA, endB] = [a, b].map((lines) => lines.at(-1)!)
  const played = (line: LogLine): number | null => (isEnd(line) ? line.ticks : null)
  if (played(endA) === played(endB)) return null
  const ticks = [played(endA), played(endB)].map((tick) => tick ?? Infinity)
  return { tick: Math.min(...ticks), line: { a: a.length, b: b.length }, a: endA, b: endB, fields: ['ticks'] }
}

function hashedTicks(lines: readonly LogLine[]): ReadonlySet<number> {
  return new Set(lines.filter(isState).map(({ tick }) => tick))
}

function isState(line: LogLine): line is LogState {
  return 'kind' in line && line.kind === 'state'
}

function isEnd(line: LogLine): line is LogEnd {
  return 'kind' in line && line.kind === 'done'
}

function tickOf(line: LogLine | undefined): number {
  return line === undefined || !('tick' in line) ? Infinity : line.tick
}

/** Whether two lines are of the same fact, with other numbers. */
function isOfTheSame(a: LogLine, b: LogLine): boolean {
  const of = (line: LogLine): string => {
    const {
      kind,
      tick,
      a: one,
      b: other,
      watch,
      ray,
      joint,
      body,
      do: done,
    } = line as unknown as Record<string, unknown>
    return JSON.stringify([kind, tick, one, other, watch, ray, joint, body, done])
  }
  return of(a) === of(b)
}

function fieldsThatDiffer(a: LogLine, b: LogLine): string[] {
  const keys = new Set([...Object.keys(a), ...Object.keys(b)])
  const text = (line: LogLine, key: string): string | undefined => JSON.stringify((line as never)[key])
  return [...keys].filter((key) => text(a, key) !== text(b, key))
}
