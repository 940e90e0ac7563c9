/** `keen-sentry run`: plays a scene and tells what happens. */
import { Command, Option } from 'commander'
import pc from 'picocolors'
import {
  actionLine,
  EventLog,
  eventLine,
  headerLine,
  type LogAction,
  type LogEvent,
  type LogRay,
  rayLine,
} from '../record/index.ts'
import { ScenePlayer } from '../scene/index.ts'
import { tickCount } from './arguments.ts'
import { LineFile, loadScene } from './files.ts'
import { actionSentence, EventTable, eventSentence, raySentence } from './text.ts'

interface RunOptions {
  ticks?: number
  log?: string
  json?: boolean
  story?: boolean
  quiet?: boolean
}

/** Milliseconds after which a run counts as long, and between two notes of its progress. */
const PATIENCE = 1000

export function runCommand(): Command {
  return new Command('run')
    .description('Play a scene and tell what meets what, when, and why it ended.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .option('-t, --ticks <count>', 'how many ticks to play (default: as the scene says)', tickCount)
    .option('-l, --log <file>', 'write the event log as JSON Lines')
    .addOption(new Option('--json', 'print one JSON document instead of a table').conflicts(['story', 'quiet']))
    .addOption(new Option('--story', 'tell it in sentences instead of a table').conflicts('quiet'))
    .option('-q, --quiet', 'print the summary only')
    .addHelpText('after', '\nExample:\n  $ keen-sentry run scenes/lantern-reef.json --ticks 600 --log out/events.jsonl')
    .action(run)
}

async function run(path: string, options: RunOptions): Promise<void> {
  const scene = loadScene(path)
  const player = new ScenePlayer(scene)
  const { world } = player
  const ticks = options.ticks ?? player.ticks
  const file = options.log === undefined ? null : new LineFile(options.log)
  const kept: unknown[] = []
  const log = new EventLog(headerLine(scene.name, world.rate), (text) => {
    file?.write(text)
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

  const rays = (states: readonly ScenePlayer['rays'][number][]): void => {
    for (const { ray, hit } of states) {
      const line = rayLine(world, ray.name, hit)
      log.add(line)
      teller?.ray(line)
    }
  }
  if (options.story === true)
    print(`${pc.bold(scene.name)}\n${scene.about === undefined ? '' : `${pc.dim(scene.about)}\n`}\n`)
  // Before the first tick a ray is only worth a line when it meets something.
  rays(player.rays.filter((state) => state.hit !== null))
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
  await file?.close()

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

interface Teller {
  event(line: LogEvent, telling: string | undefined): void
  ray(line: LogRay): void
  action(line: LogAction): void
}

function table(player: ScenePlayer, print: (text: string) => void): Teller {
  const names = [...player.scene.bodies.map((body) => body.name), ...(player.scene.rays ?? []).map((ray) => ray.name)]
  return new EventTable(Math.max(0, ...names.map((name) => name.length)), print)
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
    `${counts.begin ?? 0} begins, ${counts.end ?? 0} ends`,
    count('during', 'during', 'durings'),
    count('ray', 'ray change', 'ray changes'),
    count('action', 'action', 'actions'),
  ].filter((part) => part !== null)
  const open = (counts.begin ?? 0) - (counts.end ?? 0)
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
