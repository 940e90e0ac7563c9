/** `keen-sentry run`: plays a scene and tells what happens. */

import { Presets, SingleBar } from 'cli-progress'
import { Command, InvalidArgumentError, Option } from 'commander'
import { type Advice, EVENT_KINDS, type EventKind } from 'keen-sentry'
import { hint } from 'keen-sentry/internal'
import { EventLog, stateLine } from 'keen-sentry/record'
import pc from 'picocolors'
import {
  CoverageCounter,
  playScene,
  type Scene,
  type ScenePlayer,
  type SceneSide,
  type SceneWatch,
} from '../scene/index.ts'
import { tickCount } from './arguments.ts'
import { coverageText } from './coverageText.ts'
import { csvHead, csvRow } from './csv.ts'
import { Failure, USAGE } from './failure.ts'
import { LineFile, modelsOption, openScene, readJson, type SceneOptions } from './files.ts'
import { resume, saveRun } from './halfway.ts'
import { headerOf, type LineTaker, playTick, tellStart, watchKey } from './lines.ts'
import { actionSentence, EventTable, eventSentence, jointSentence, raySentence } from './text.ts'

interface RunOptions extends SceneOptions {
  over?: Strength | undefined
  csv?: boolean | undefined
  ticks?: number | undefined
  log?: string | undefined
  watch?: string[] | undefined
  kinds?: EventKind[] | undefined
  json?: boolean | undefined
  story?: boolean | undefined
  quiet?: boolean | undefined
  advise?: boolean | undefined
  hashes?: boolean | undefined
  save?: string | undefined
  from?: string | undefined
  coverage?: boolean | undefined
}

/** Milliseconds after which a run counts as long, and shows how far it is. */
const PATIENCE = 2000

export function runCommand(): Command {
  return new Command('run')
    .description('Play a scene and report what meets what, when, and why it ended.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .option('-t, --ticks <count>', 'how many ticks to play (default: as the scene says)', tickCount)
    .option('-l, --log <file>', 'write the event log as JSON Lines')
    .option(
      '--hashes',
      'write the hash of the world into the log after every tick, so that `compare` finds the least difference',
    )
    .option('--save <file>', 'write where the run is at its end, for --from')
    .option('--from <file>', 'go on from where a run was saved with --save')
    .option('-w, --watch <a:b>', 'watch these instead of what the scene watches; can be given several times', collect)
    .option('-k, --kinds <kinds>', `which events, separated by commas: ${EVENT_KINDS.join(', ')}`, kindsOf)
    .option(
      '--over <strength>',
      'what counts as an impact: from 5Ns (newton seconds), or from 3m/s (closing speed)',
      strengthOf,
    )
    .addOption(modelsOption())
    .addOption(new Option('--json', 'print one JSON document instead of a table').conflicts(['story', 'quiet', 'csv']))
    .addOption(new Option('--csv', 'print the events as CSV instead of a table').conflicts(['story', 'quiet']))
    .addOption(new Option('--story', 'report in sentences instead of a table').conflicts('quiet'))
    .option('-q, --quiet', 'print the summary only')
    .addOption(
      new Option(
        '--coverage',
        'say at the end which watches told nothing, which layers came near and met, which rows of the pair table decided anything',
      ).conflicts('csv'),
    )
    .addOption(
      new Option(
        '--advise',
        'say at the end what is worth a look: watches that told nothing, what left, what was passed',
      ).conflicts('csv'),
    )
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

type Strength = NonNullable<SceneWatch['over']>

function strengthOf(text: string): Strength {
  const [, digits, unit] = /^(\d+(?:\.\d+)?)(Ns|m\/s)$/.exec(text) ?? []
  const value = Number(digits)
  if (!(value > 0)) throw new InvalidArgumentError('Expected a strength above 0 with its unit, as 5Ns or 3m/s.')
  return unit === 'Ns' ? { impulse: value } : { speed: value }
}

/** The scene with the watches, kinds and strength that were asked for. */
function withWatches(scene: Scene, { watch, kinds, over }: RunOptions): Scene {
  if (watch === undefined && kinds === undefined && over === undefined) return scene
  const watches: readonly SceneWatch[] = watch?.map((text) => {
    const sides = text.split(':')
    if (sides.length !== 2) throw new Failure(`--watch takes two sides as a:b, got '${text}'`, USAGE)
    return { a: sideOf(scene, sides[0]), b: sideOf(scene, sides[1]), name: text }
  }) ??
    scene.watches ?? [{ a: '*', b: '*' }]
  if (over !== undefined && watches.every(({ response }) => response === 'sense')) {
    throw new Failure('--over has no effect: every watch of the scene is of sense pairs, which have no impacts', USAGE)
  }
  const strong = watches.map((each) => (over === undefined || each.response === 'sense' ? each : { ...each, over }))
  if (kinds === undefined) return { ...scene, watches: strong }
  const narrowed = strong.flatMap((each) => narrowedTo(each, kinds))
  if (narrowed.length > 0) return { ...scene, watches: narrowed }
  throw new Failure('--kinds impact: no watch says what counts as an impact; --over 5Ns or --over 3m/s does', USAGE)
}

/** A watch that reports these kinds only; nothing where it can report none of them. */
function narrowedTo(watch: SceneWatch, kinds: readonly EventKind[]): SceneWatch[] {
  const { over, ...rest } = watch
  const possible = over === undefined ? kinds.filter((kind) => kind !== 'impact') : [...kinds]
  if (possible.length === 0) return []
  return [{ ...rest, ...(possible.includes('impact') ? { over } : {}), kinds: possible }]
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

async function run(path: string, options: RunOptions): Promise<void> {
  if (options.hashes === true && options.log === undefined && options.json !== true)
    throw new Failure('--hashes has no effect: hashes stand in the log, and neither --log nor --json is given', USAGE)
  const opened = await openScene(path, options)
  const scene = withWatches(opened.scene, options)
  const player = playScene(scene, opened.models, { advise: options.advise })
  if (options.from !== undefined) resume(player, opened, options.from, await readJson(options.from))
  const { world } = player
  const from = world.tick
  const ticks = options.ticks ?? player.ticks - from
  if (ticks < 0)
    throw new Failure(`${options.from} is beyond the end of the scene: --ticks says how many to play`, USAGE)
  const target = options.log === undefined ? null : new LineFile(options.log)
  const kept: unknown[] = []
  const log = new EventLog(headerOf(opened.scene, player), (text) => {
    target?.write(text)
    if (options.json === true) kept.push(JSON.parse(text))
  })
  const print = (text: string): void => {
    process.stdout.write(text)
  }
  const teller =
    options.json === true || options.quiet === true
      ? null
      : options.csv === true
        ? csv(print)
        : options.story === true
          ? story(print)
          : table(player, print)
  const coverage = options.coverage === true ? new CoverageCounter(player) : null
  const taker: LineTaker = {
    event: (line, telling) => {
      coverage?.note(line.watch)
      log.add(line)
      teller?.event(line, telling)
    },
    joint: (line, telling) => {
      log.add(line)
      teller?.joint(line, telling)
    },
    ray: (line) => {
      log.add(line)
      teller?.ray(line)
    },
    action: (line) => {
      log.add(line)
      teller?.action(line)
    },
  }
  if (options.story === true)
    print(`${pc.bold(scene.name)}\n${scene.about === undefined ? '' : `${pc.dim(scene.about)}\n`}\n`)
  if (from === 0) tellStart(player, taker)
  const progress = new Progress(ticks)
  for (let tick = 1; tick <= ticks; tick++) {
    playTick(player, taker)
    coverage?.stepped()
    if (options.hashes === true) log.add(stateLine(world))
    progress.at(tick)
  }
  progress.done()
  log.finish(ticks)
  await target?.close()
  if (options.save !== undefined) saveRun(options.save, opened, player)

  const summary = {
    scene: scene.name,
    ticks,
    seconds: ticks / world.rate,
    counts: log.counts,
    bodies: world.stats.bodies,
  }
  const advice = options.advise === true ? { advice: world.advice() } : null
  const covered = coverage?.result((scene.watches ?? [{ a: '*', b: '*' }]).map(watchKey))
  const ruled = covered === undefined ? {} : { coverage: covered }
  if (options.json === true) print(`${JSON.stringify({ ...summary, ...advice, ...ruled, lines: kept }, null, 2)}\n`)
  else if (options.csv !== true) print(`${teller === null ? '' : '\n'}${summaryText(summary, options)}\n`)
  if (covered !== undefined && options.json !== true) coverageText(covered, print)
  if (advice !== null && options.json !== true) print(adviceText(advice.advice))
}

function adviceText(advice: readonly Advice[]): string {
  if (advice.length === 0) return `${pc.green('ok')}  nothing is worth a look\n`
  return advice
    .map(({ code, text, cure }) => `${pc.yellow('look')}  ${text} ${pc.dim(`[${code}]`)}\n      => ${cure}\n`)
    .join('')
}

function table({ scene }: ScenePlayer, print: (text: string) => void): LineTaker {
  const { bodies, rays = [], watches = [] } = scene
  const longestName = [...bodies, ...rays].reduce((most, { name }) => Math.max(most, name.length), 0)
  const impacts = watches.some(({ over }) => over !== undefined)
  return new EventTable({ longestName, impacts, rays: rays.length > 0 }, print)
}

/** Events alone: joints, rays and actions have other columns, and stand in the log. */
function csv(print: (text: string) => void): LineTaker {
  print(csvHead())
  return { event: (line) => print(csvRow(line)), joint: () => {}, ray: () => {}, action: () => {} }
}

function story(print: (text: string) => void): LineTaker {
  return {
    event: (line, telling) => print(`${eventSentence(line, telling)}\n`),
    joint: (line, telling) => print(`${jointSentence(line, telling)}\n`),
    ray: (line) => print(`${raySentence(line)}\n`),
    action: (line) => print(`${actionSentence(line)}\n`),
  }
}

function summaryText(
  summary: { scene: string; ticks: number; seconds: number; counts: Record<string, number> },
  { log, save }: RunOptions,
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
    count('joint', 'joint that ended', 'joints that ended'),
    count('ray', 'ray change', 'ray changes'),
    count('action', 'action', 'actions'),
  ].filter((part) => part !== null)
  const open = (counts['begin'] ?? 0) - (counts['end'] ?? 0)
  const still = open === 1 ? '; 1 pair still meets' : open > 1 ? `; ${open} pairs still meet` : ''
  const where = `${log === undefined ? '' : `\nEvent log: ${log}`}${save === undefined ? '' : `\nSaved run: ${save}`}`
  return `${pc.bold(summary.scene)}: ${summary.ticks === 1 ? '1 tick' : `${summary.ticks} ticks`} (${summary.seconds.toFixed(1)} s), ${parts.join(', ')}${still}.${where}`
}

/** A bar on the terminal while a run takes long; nothing where there is no terminal. */
class Progress {
  private readonly total: number
  private readonly since = Date.now()
  private bar: SingleBar | null = null

  constructor(total: number) {
    this.total = total
  }

  at(tick: number): void {
    if (tick % 64 !== 0 || Date.now() - this.since < PATIENCE || process.stderr.isTTY !== true) return
    if (this.bar === null) {
      const format = `${pc.dim('{bar}')} tick {value} of {total}, {eta_formatted} left`
      this.bar = new SingleBar(
        { format, stream: process.stderr, clearOnComplete: true, hideCursor: true },
        Presets.shades_classic,
      )
      this.bar.start(this.total, tick)
    }
    this.bar.update(tick)
  }

  done(): void {
    this.bar?.stop()
  }
}
