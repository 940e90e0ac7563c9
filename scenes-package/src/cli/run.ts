/** `keen-sentry run`: plays a scene and tells what happens. */

import { createHash } from 'node:crypto'
import { Command, InvalidArgumentError, Option } from 'commander'
import { EVENT_KINDS, type EventKind } from 'keen-sentry'
import { hint } from 'keen-sentry/internal'
import {
  actionLine,
  EventLog,
  eventLine,
  headerLine,
  type LogAction,
  type LogEvent,
  type LogRay,
  rayLine,
} from 'keen-sentry/record'
import pc from 'picocolors'
import { playScene, type Scene, type ScenePlayer, type SceneSide, type SceneWatch } from '../scene/index.ts'
import { tickCount } from './arguments.ts'
import { Failure, USAGE } from './failure.ts'
import { LineFile, loadModelsOf, loadScene } from './files.ts'
import { actionSentence, EventTable, eventSentence, raySentence } from './text.ts'

interface RunOptions {
  ticks?: number | undefined
  log?: string | undefined
  watch?: string[] | undefined
  kinds?: EventKind[] | undefined
  json?: boolean | undefined
  story?: boolean | undefined
  quiet?: boolean | undefined
}

/** Milliseconds after which a run counts as long, and between two notes of its progress. */
const PATIENCE = 1000

export function runCommand(): Command {
  return new Command('run')
    .description('Play a scene and tell what meets what, when, and why it ended.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .option('-t, --ticks <count>', 'how many ticks to play (default: as the scene says)', tickCount)
    .option('-l, --log <file>', 'write the event log as JSON Lines')
    .option('-w, --watch <a:b>', 'watch these instead of what the scene watches; can be given several times', collect)
    .option('-k, --kinds <kinds>', 'which events, separated by commas: begin, during, end', kindsOf)
    .addOption(new Option('--json', 'print one JSON document instead of a table').conflicts(['story', 'quiet']))
    .addOption(new Option('--story', 'tell it in sentences instead of a table').conflicts('quiet'))
    .option('-q, --quiet', 'print the summary only')
    .addHelpText('after', '\nExample:\n  $ keen-sentry run scenes/lantern-reef.json --ticks 600 --log out/events.jsonl')
    .action(run)
}

/** Gathers an option that is given several times. */
function collect(value: string, before: string[] = []): string[] {
  return [...before, value]
}

function kindsOf(text: string): EventKind[] {
  return text.split(',').map((word) => {
    const kind = EVENT_KINDS.find((each) => each === word.trim())
    if (kind === undefined) throw new InvalidArgumentError(`'${word}': expected ${EVENT_KINDS.join(', ')}.`)
    return kind
  })
}

/** The scene with the watches and kinds that were asked for. */
function withWatches(scene: Scene, { watch, kinds }: RunOptions): Scene {
  if (watch === undefined && kinds === undefined) return scene
  const watches: readonly SceneWatch[] = watch?.map((text) => {
    const sides = text.split(':')
    if (sides.length !== 2) throw new Failure(`--watch takes two sides as a:b, got '${text}'`, USAGE)
    return { a: sideOf(scene, sides[0]), b: sideOf(scene, sides[1]), name: text }
  }) ??
    scene.watches ?? [{ a: '*', b: '*' }]
  return { ...scene, watches: watches.map((each) => (kinds === undefined ? each : { ...each, kinds })) }
}

/** A side as it is typed: a layer, layers joined by +, a body, #tag or *. */
function sideOf(scene: Scene, text: string): SceneSide {
  const layers = scene.layers.names
  const bodies = scene.bodies.map((body) => body.name)
  const tags = scene.tags ?? []
  if (text === '*' || layers.includes(text)) return text
  if (bodies.includes(text)) return { body: text }
  if (text.startsWith('#') && tags.includes(text.slice(1))) return { tag: text.slice(1) }
  const several = text.split('+')
  if (several.length > 1 && several.every((name) => layers.includes(name))) return several
  const known = [...layers, ...bodies, ...tags.map((tag) => `#${tag}`)]
  throw new Failure(`--watch: no layer, body or #tag is called '${text}'; ${hint(text, known)}`, USAGE)
}

/** Tells two scenes apart, however their files are laid out. */
function hashOf(scene: Scene): string {
  return createHash('sha256').update(JSON.stringify(scene)).digest('hex')
}

async function run(path: string, options: RunOptions): Promise<void> {
  const file = loadScene(path)
  const scene = withWatches(file, options)
  const player = playScene(scene, await loadModelsOf(path, scene))
  const { world } = player
  const ticks = options.ticks ?? player.ticks
  const target = options.log === undefined ? null : new LineFile(options.log)
  const kept: unknown[] = []
  const log = new EventLog(headerLine(scene.name, hashOf(file), scene.dimension, world.rate), (text) => {
    target?.write(text)
    if (options.json === true) kept.push(JSON.parse(text))
  })
  const print = (text: string): void => {
    process.stdout.write(text)
  }
  const teller =
    options.json === true || options.quiet === true
      ? null
      : options.story === true
        ? story(print)
        : table(player, print)

  const rays = (states: readonly ShownState[]): void => {
    for (const { ray, hit } of states) {
      const line = rayLine(world, ray.name, hit)
      log.add(line)
      teller?.ray(line)
    }
  }
  if (options.story === true)
    print(`${pc.bold(scene.name)}\n${scene.about === undefined ? '' : `${pc.dim(scene.about)}\n`}\n`)
  // Before the first tick a ray is only worth a line when it meets something.
  rays((player.rays as readonly ShownState[]).filter((state) => state.hit !== null))
  const progress = new Progress(ticks)
  for (let tick = 1; tick <= ticks; tick++) {
    const report = player.step()
    for (const action of report.actions) {
      const line = actionLine(tick, world.rate, action)
      log.add(line)
      teller?.action(line)
    }
    for (const event of report.events) {
      const line = eventLine(event)
      log.add(line)
      const { say } = player.watchOf(event)
      teller?.event(line, line.kind === 'during' ? undefined : say?.[line.kind])
    }
    rays(report.rays)
    progress.at(tick)
  }
  progress.done()
  log.finish(ticks)
  await target?.close()

  const summary = {
    scene: scene.name,
    ticks,
    seconds: ticks / world.rate,
    counts: log.counts,
    bodies: world.stats.bodies,
  }
  if (options.json === true) print(`${JSON.stringify({ ...summary, lines: kept }, null, 2)}\n`)
  else print(`${teller === null ? '' : '\n'}${summaryText(summary, options.log)}\n`)
}

/** A ray of either dimension, as it is told. */
type ShownState = ScenePlayer['rays'][number]

interface Teller {
  event(line: LogEvent, telling: string | undefined): void
  ray(line: LogRay): void
  action(line: LogAction): void
}

function table(player: ScenePlayer, print: (text: string) => void): Teller {
  let longest = 0
  for (const { name } of [...player.scene.bodies, ...(player.scene.rays ?? [])])
    longest = Math.max(longest, name.length)
  return new EventTable(longest, print)
}

function story(print: (text: string) => void): Teller {
  return {
    event: (line, telling) => print(`${eventSentence(line, telling)}\n`),
    ray: (line) => print(`${raySentence(line)}\n`),
    action: (line) => print(`${actionSentence(line)}\n`),
  }
}

function summaryText(
  summary: { scene: string; ticks: number; seconds: number; counts: Record<string, number> },
  log: string | undefined,
): string {
  const { counts } = summary
  const count = (kind: string, one: string, many: string): string | null => {
    const n = counts[kind] ?? 0
    return n === 0 ? null : `${n} ${n === 1 ? one : many}`
  }
  const parts = [
    count('begin', 'begin', 'begins') ?? '0 begins',
    count('end', 'end', 'ends') ?? '0 ends',
    count('during', 'during', 'durings'),
    count('impact', 'impact', 'impacts'),
    count('ray', 'ray change', 'ray changes'),
    count('action', 'action', 'actions'),
  ].filter((part) => part !== null)
  const open = (counts['begin'] ?? 0) - (counts['end'] ?? 0)
  const still = open === 1 ? '; 1 pair still meets' : open > 1 ? `; ${open} pairs still meet` : ''
  const where = log === undefined ? '' : `\nEvent log: ${log}`
  return `${pc.bold(summary.scene)}: ${summary.ticks} ticks (${summary.seconds.toFixed(1)} s), ${parts.join(', ')}${still}.${where}`
}

/** A note on the terminal while a run takes long; nothing where there is no terminal. */
class Progress {
  private readonly total: number
  private readonly shown = process.stderr.isTTY === true
  private last = Date.now()
  private wrote = false

  constructor(total: number) {
    this.total = total
  }

  at(tick: number): void {
    if (!this.shown || tick % 64 !== 0 || Date.now() - this.last < PATIENCE) return
    this.last = Date.now()
    this.wrote = true
    process.stderr.write(
      `\r\u001b[2K${pc.dim(`tick ${tick} of ${this.total}, ${Math.floor((100 * tick) / this.total)} %`)}\r`,
    )
  }

  done(): void {
    if (this.wrote) process.stderr.write('\r\u001b[2K')
  }
}
