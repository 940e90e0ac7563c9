/** `keen-sentry compare`: where two runs part. */
import { Command } from 'commander'
import { defineLayers, KeenError, type Layers } from 'keen-sentry'
import * as two from 'keen-sentry/2d'
import * as flat from 'keen-sentry/2d/kinematic'
import * as three from 'keen-sentry/3d'
import * as deep from 'keen-sentry/3d/kinematic'
import {
  type ComparedWorld,
  compareLogs,
  compareWorlds,
  differenceText,
  type LogLine,
  saveHeader,
  type WorldDifference,
} from 'keen-sentry/record'
import pc from 'picocolors'
import { playScene } from '../scene/index.ts'
import { tickCount } from './arguments.ts'
import { FAILED, Failure, USAGE } from './failure.ts'
import { modelsOption, type OpenScene, type SceneOptions } from './files.ts'
import { linesOf, openSide, type Side } from './sides.ts'
import { actionSentence, clock, eventSentence, jointSentence, raySentence } from './text.ts'

interface CompareOptions extends SceneOptions {
  ticks?: number | undefined
  json?: boolean | undefined
}

/** What came of it. */
interface Verdict {
  readonly equal: boolean
  /** The first tick that differs. */
  readonly tick: number | null
  readonly seconds: number | null
  /** The line of each that differs. */
  readonly a: LogLine | null
  readonly b: LogLine | null
  /** The fields in which these two differ. */
  readonly fields: readonly string[]
  /** The first value of the two worlds that differs after that tick, where both worlds are at hand. */
  readonly value: WorldDifference | null
  /** Ticks and lines that were compared. */
  readonly ticks: number
  readonly lines: number
  readonly notes: readonly string[]
}

export function compareCommand(): Command {
  return new Command('compare')
    .description(
      'Find where two runs part: the first tick, event and value that differ. Takes event logs, scenes, saved runs, saved worlds. Exits with 1 when they differ.',
    )
    .argument(
      '<a>',
      "a scene, an event log (run --log), a saved run (run --save), or the bytes of world.save(); one of the two can be '-', standard input",
    )
    .argument('<b>', 'what it is compared with')
    .option('-t, --ticks <count>', 'how many ticks of two scenes are played (default: as the first says)', tickCount)
    .addOption(modelsOption())
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      '\nExample:\n  $ keen-sentry run scenes/wreck.json --hashes --log before.jsonl\n  $ keen-sentry compare scenes/wreck.json before.jsonl',
    )
    .action(async (first: string, second: string, options: CompareOptions) => {
      if (first === '-' && second === '-') throw new Failure('standard input can be one of the two only', USAGE)
      const [a, b] = [await openSide(first, options), await openSide(second, options)]
      const verdict = compare(a, b, options)
      process.stdout.write(
        options.json === true
          ? `${JSON.stringify({ files: [first, second], ...verdict }, null, 2)}\n`
          : report(verdict, first, second),
      )
      if (!verdict.equal) process.exitCode = FAILED
    })
}

function compare(a: Side, b: Side, options: CompareOptions): Verdict {
  if (a.kind === 'scene' && b.kind === 'scene') return compareScenes(a.opened, b.opened, options)
  if (options.ticks !== undefined)
    throw new Failure('--ticks belongs to two scenes: a log or a save says where it ends', USAGE)
  if (a.kind === 'log' && b.kind === 'log') return ofLines(a.lines, b.lines, notesOf(a.lines, b.lines))
  if (a.kind === 'scene' && b.kind === 'log') return compareWithLog(a, b)
  if (a.kind === 'log' && b.kind === 'scene') return mirrored(compareWithLog(b, a))
  if (a.kind === 'log' || b.kind === 'log') {
    throw new Failure(
      'a log holds events, and a save a world: compare either with a scene, or with its own kind',
      USAGE,
    )
  }
  const tick = a.kind === 'save' ? a.tick : (b as { tick: number }).tick
  const scene = [a, b].find((side) => side.kind === 'scene')
  const [one, other] = [a, b].map((side) => worldOf(side, tick, scene?.opened))
  const value = compareWorlds(one, other)
  const differs = value === null ? null : Math.min(one.tick, other.tick)
  return {
    ...EQUAL,
    equal: value === null,
    tick: differs,
    seconds: differs === null ? null : differs / one.rate,
    value,
    ticks: tick,
  }
}

const EQUAL: Verdict = {
  equal: true,
  tick: null,
  seconds: null,
  a: null,
  b: null,
  fields: [],
  value: null,
  ticks: 0,
  lines: 0,
  notes: [],
}

/**
 * The world of a side: of a scene as it is after so many ticks; of a save that is compared with a scene with the watches of that, so that what these have told is
 * compared too.
 */
function worldOf(side: Side, tick: number, scene: OpenScene | undefined): ComparedWorld {
  if (side.kind === 'scene') {
    const player = playScene(side.opened.scene, side.opened.models)
    while (player.world.tick < tick) player.step()
    return player.world
  }
  const { bytes } = side as { bytes: Uint8Array }
  const { world, layers, tags } = saveHeader(bytes)
  const made = { layers: defineLayers(layers), tags, rate: world.rate, unit: world.unit }
  try {
    if (scene !== undefined) {
      const player = playScene(scene.scene, scene.models)
      player.world.restore(bytes)
      return player.world
    }
    return restored(world.dimension, world.forces, made, bytes)
  } catch (error) {
    throw error instanceof KeenError ? new Failure(`${side.path}: ${error.message}`, FAILED, error.code) : error
  }
}

function restored(
  dimension: 2 | 3,
  forces: boolean,
  options: { layers: Layers; tags: readonly string[]; rate: number; unit: number },
  bytes: Uint8Array,
): ComparedWorld {
  if (dimension === 2 && forces) {
    const world = two.createWorld(options)
    world.restore(bytes)
    return world
  }
  if (dimension === 2) {
    const world = flat.createWorld(options)
    flat.restore(world, bytes)
    return world
  }
  if (forces) {
    const world = three.createWorld(options)
    world.restore(bytes)
    return world
  }
  const world = deep.createWorld(options)
  deep.restore(world, bytes)
  return world
}

/** Two scenes, tick by tick; where they part both are played again up to there, to say which value it was. */
function compareScenes(a: OpenScene, b: OpenScene, options: CompareOptions): Verdict {
  const ticks = options.ticks ?? playScene(a.scene, a.models).ticks
  const [one, other] = [a, b].map((opened) => linesOf(opened, ticks, true))
  const verdict = ofLines(one, other, [])
  if (verdict.equal || verdict.tick === null) return verdict
  const [x, y] = [a, b].map(({ scene, models }) => {
    const player = playScene(scene, models)
    while (player.world.tick < verdict.tick!) player.step()
    return player.world as ComparedWorld
  })
  return { ...verdict, value: compareWorlds(x, y) }
}

function compareWithLog(side: Side, log: Side): Verdict {
  const { opened } = side as Extract<Side, { kind: 'scene' }>
  const { lines, path } = log as Extract<Side, { kind: 'log' }>
  const [head] = lines
  const end = lines.at(-1)!
  if (!('format' in head) || head.tick !== 0)
    throw new Failure(`${path} does not begin at tick 0: compare it with a log that begins where it does`)
  const last = Math.max(0, ...lines.map((line) => ('ticks' in line ? line.ticks : 'tick' in line ? line.tick : 0)))
  const played = linesOf(opened, last, true)
  // One that was cut off is compared as far as it goes.
  const notes = 'ticks' in end ? [] : [`${path} was cut short after tick ${last}`]
  const whole = 'ticks' in end ? lines : [...lines, played.at(-1)!]
  return ofLines(played, whole, [...notesOf(played, lines), ...notes])
}

function notesOf(a: readonly LogLine[], b: readonly LogLine[]): string[] {
  const [one, other] = [a[0], b[0]]
  return 'hash' in one && 'hash' in other && one.hash !== other.hash ? ['they are of two different scene files'] : []
}

function ofLines(a: readonly LogLine[], b: readonly LogLine[], notes: readonly string[]): Verdict {
  const found = compareLogs(a, b)
  const ticks = Math.max(0, ...[a, b].map((lines) => lastTickOf(lines)))
  if (found === null) return { ...EQUAL, ticks, lines: a.length, notes }
  const { rate } = a[0] as { rate: number }
  const { tick, fields } = found
  return {
    ...EQUAL,
    equal: false,
    tick,
    seconds: tick / rate,
    a: found.a,
    b: found.b,
    fields,
    ticks,
    lines: a.length,
    notes,
  }
}

function lastTickOf(lines: readonly LogLine[]): number {
  const last = lines.at(-1)!
  return 'ticks' in last ? last.ticks : 'tick' in last ? last.tick : 0
}

function mirrored(verdict: Verdict): Verdict {
  const { a, b, value } = verdict
  return { ...verdict, a: b, b: a, value: value === null ? null : { ...value, a: value.b, b: value.a } }
}

function report(verdict: Verdict, first: string, second: string): string {
  const notes = verdict.notes.map((note) => pc.dim(`note: ${note}\n`)).join('')
  const what =
    verdict.lines > 0 ? `${verdict.ticks} ticks, ${verdict.lines} lines` : `the world at tick ${verdict.ticks}`
  if (verdict.equal) return `${notes}${pc.green('equal')}  ${what}\n`
  const rows = [`${notes}${pc.red('parted')}  at tick ${verdict.tick} (${verdict.seconds!.toFixed(3)} s)`]
  const { a, b, fields, value } = verdict
  if (a !== null || b !== null) {
    rows.push(
      `  ${pc.bold('first')}   ${told(a)}  ${pc.dim(first)}`,
      `  ${pc.bold('second')}  ${told(b)}  ${pc.dim(second)}`,
    )
    // Two lines of hashes have said it already.
    for (const field of fields.filter((each) => each !== 'hash')) {
      const [x, y] = [a, b].map((line) => JSON.stringify((line as never)[field]) ?? 'nothing')
      rows.push(`  ${field}: ${x} in the first, ${y} in the second`)
    }
  }
  if (value !== null) rows.push(`  ${differenceText(value)}`)
  return `${rows.join('\n')}\n`
}

/** A line as a sentence. */
function told(line: LogLine | null): string {
  if (line === null) return 'nothing more'
  if ('format' in line) return 'the header'
  if (line.kind === 'done') return `the end, after ${line.ticks} ticks`
  if (line.kind === 'state') return `${clock(line.time)} the world has the hash ${line.hash}`
  if (line.kind === 'ray') return raySentence(line)
  if (line.kind === 'action') return actionSentence(line)
  if (line.kind === 'joint') return jointSentence(line, undefined)
  return eventSentence(line, undefined)
}
