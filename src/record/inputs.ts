/**
 * Runs that play again: what came from outside (keys, messages, clicks) is written down by its tick, with the hash of the world now and then. Given the same world at the start
 * and the same inputs, all else follows to the bit, on any engine.
 */
import { KeenError, show } from '../core/util/errors.ts'
import { type Form, fault, object, optional, whole } from './form.ts'

/** The name of the format, as it stands in the header. */
export const INPUT_FORMAT = 'keen-sentry-inputs'
/** The version of the format. */
export const INPUT_VERSION = 1

/** A world, as far as its run is written down and played again. */
export interface ReplayedWorld {
  /** Ticks it has made. */
  readonly tick: number
  /** Ticks a second. */
  readonly rate: number
  /** Of all that decides its future. */
  hash(): string
  /** Makes a tick. */
  step(): void
}

/** How a run is written down. */
export interface InputLogOptions {
  /** The hash of the world is noted after every so many ticks; 0 for never. Default 60. */
  hashEvery?: number | undefined
  /** Anything that JSON can hold, for whoever plays it again: the level, the version of the game. */
  about?: unknown
}

/** What came of playing a run again. */
export interface ReplayResult {
  /** Ticks that were played. */
  readonly ticks: number
  /** Inputs that were applied. */
  readonly inputs: number
  /** Hashes that were compared, and were the same. */
  readonly compared: number
  /** Where the run parted: the first tick whose hash is another one, with both; null where none did. */
  readonly parted: { readonly tick: number; readonly expected: string; readonly found: string } | null
  /** Whether the log says where it ends; one that was cut off is played as far as it goes. */
  readonly finished: boolean
}

const tick = whole(0)
const header = object('the first line', {
  format: { const: INPUT_FORMAT },
  version: { const: INPUT_VERSION },
  rate: { type: 'number', exclusiveMinimum: 0, description: 'ticks a second' },
  tick: { ...tick, description: 'ticks that the world had made when it began' },
  hash: { type: 'string', pattern: '^[0-9a-f]{16}$', description: 'of the world when it began' },
  about: optional({ description: 'anything' }),
})
const input = object('what came from outside, before the step of that tick', {
  tick: { ...tick, description: 'the tick that the step made' },
  input: { description: 'anything' },
})
const state = object('the hash of the world after a tick', {
  tick,
  hash: { type: 'string', pattern: '^[0-9a-f]{16}$' },
})
const end = object('the last line; a log without it was cut short', { tick, done: { const: 'done' } })

interface Line {
  readonly tick: number
  readonly input?: unknown
  readonly hash?: string
  readonly done?: string
  readonly about?: unknown
  readonly rate?: number
}

/** Writes the run of a world down, tick by tick. */
export class InputLog {
  private readonly world: ReplayedWorld
  private readonly write: (line: string) => void
  private readonly every: number
  private lastTick: number

  /**
   * Begins at where the world is now.
   * @param write takes the lines as they come, each with its line break
   * @throws KeenError `bad-argument`, `bad-number`
   * @example const lines: string[] = []; const log = new InputLog(world, (line) => lines.push(line))
   */
  constructor(world: ReplayedWorld, write: (line: string) => void, options: InputLogOptions = {}) {
    if (typeof world?.hash !== 'function')
      throw new KeenError('bad-argument', `an InputLog is of a world, got ${show(world)}`)
    if (typeof write !== 'function')
      throw new KeenError('bad-argument', `an InputLog writes by a function, got ${show(write)}`)
    const { hashEvery = 60, about } = options
    if (!Number.isSafeInteger(hashEvery) || hashEvery < 0) {
      throw new KeenError('bad-number', `'hashEvery' must be a whole number from 0 on, got ${show(hashEvery)}`)
    }
    this.world = world
    this.write = write
    this.every = hashEvery
    this.lastTick = world.tick
    const { rate, tick: from } = world
    this.line({ format: INPUT_FORMAT, version: INPUT_VERSION, rate, tick: from, hash: world.hash(), about })
  }

  /** Something that comes from outside, before the next step: anything that JSON can hold. Notes it; applying it is yours. */
  input(value: unknown): void {
    if (value === undefined || JSON.stringify(value) === undefined) {
      throw new KeenError('bad-argument', `an input is something that JSON can hold, got ${show(value)}`)
    }
    this.line({ tick: this.world.tick + 1, input: value })
  }

  /** To be called after each step. */
  stepped(): void {
    const { tick: now } = this.world
    if (now !== this.lastTick + 1) {
      throw new KeenError(
        'bad-argument',
        `stepped() of an InputLog belongs after each step: it was at tick ${this.lastTick}, and the world is at ${now}`,
      )
    }
    this.lastTick = now
    if (this.every > 0 && now % this.every === 0) this.line({ tick: now, hash: this.world.hash() })
  }

  /** The end of the run. */
  finish(): void {
    if (this.every > 0 && this.lastTick % this.every !== 0) this.line({ tick: this.lastTick, hash: this.world.hash() })
    this.line({ tick: this.lastTick, done: 'done' })
  }

  private line(line: object): void {
    this.write(`${JSON.stringify(line)}\n`)
  }
}

/** The published JSON Schema of a line of an input log. */
export function inputsJsonSchema(): Record<string, unknown> {
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Keen Sentry input log, version 1: one line',
    description: 'One line of an input log of Keen Sentry.',
    anyOf: [header, input, state, end],
  }
}

function readInputs(text: unknown): Line[] {
  if (typeof text !== 'string') throw new KeenError('bad-argument', `replay takes the text of a log, got ${show(text)}`)
  const rows = text.split('\n')
  // What was cut off in the middle of a line ends before it.
  if (rows[rows.length - 1] === '' || rows.length > 1) rows.pop()
  let now = 0
  return rows.map((row, index) => {
    const refuse = (reason: string): never => {
      throw new KeenError('bad-log', `line ${index + 1} of the input log ${reason}`)
    }
    let value: unknown
    try {
      value = JSON.parse(row)
    } catch (error) {
      refuse(`is not JSON: ${(error as Error).message}`)
    }
    const wrong = fault(index === 0 ? header : formOf(value), value)
    if (wrong !== null) refuse(`is no ${index === 0 ? 'header' : 'line'} of an input log: ${wrong}`)
    const line = value as Line
    if (line.tick < now) refuse(`is of tick ${line.tick}, after one of ${now}`)
    now = line.tick
    return line
  })
}

function formOf(value: unknown): Form {
  if (typeof value !== 'object' || value === null) return input
  return 'hash' in value ? state : 'done' in value ? end : input
}

/**
 * Plays a run again: applies each input before the step that it was noted for, steps, and compares hashes. It stops where the run has parted.
 * @param log the text that an {@link InputLog} wrote
 * @param world as it was when the log began: made and filled in the same way, or restored
 * @param apply does what the game does with an input
 * @throws KeenError `bad-log` for what is no such log, or where the world is not as it was when it began; `bad-argument`
 * @example const { parted } = replay(text, world, (input) => steer(world, input))
 */
export function replay<W extends ReplayedWorld>(
  log: string,
  world: W,
  apply: (input: unknown, world: W) => void,
): ReplayResult {
  if (typeof world?.hash !== 'function') throw new KeenError('bad-argument', `replay takes a world, got ${show(world)}`)
  if (typeof apply !== 'function')
    throw new KeenError('bad-argument', `replay applies inputs by a function, got ${show(apply)}`)
  const [head, ...lines] = readInputs(log)
  if (head.rate !== world.rate) {
    throw new KeenError('bad-log', `the log is of a world at rate ${head.rate}, and this one has ${world.rate}`)
  }
  if (head.tick !== world.tick || head.hash !== world.hash()) {
    throw new KeenError(
      'bad-log',
      `the log begins at tick ${head.tick} with a world of hash ${head.hash}, and this one is at tick ${world.tick}, ${world.hash()}`,
    )
  }
  let [inputs, compared] = [0, 0]
  const result = (parted: ReplayResult['parted'], finished: boolean): ReplayResult => ({
    ticks: world.tick - head.tick,
    inputs,
    compared,
    parted,
    finished,
  })
  const playTo = (to: number): void => {
    while (world.tick < to) world.step()
  }
  for (const line of lines) {
    if ('input' in line) {
      playTo(line.tick - 1)
      apply(line.input, world)
      inputs++
      continue
    }
    playTo(line.tick)
    if (line.done !== undefined) return result(null, true)
    const found = world.hash()
    if (found !== line.hash) return result({ tick: line.tick, expected: line.hash!, found }, false)
    compared++
  }
  return result(null, false)
}
