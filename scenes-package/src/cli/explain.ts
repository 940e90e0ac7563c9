/** `keen-sentry explain`: why two things of a scene meet or do not, and what was told of them until then. */

import { Command } from 'commander'
import type { Explanation } from 'keen-sentry'
import { hint } from 'keen-sentry/internal'
import { eventLine, type LogEvent } from 'keen-sentry/record'
import pc from 'picocolors'
import type { ScenePlayer } from '../scene/index.ts'
import { tickNumber } from './arguments.ts'
import { Failure, USAGE } from './failure.ts'
import { checkTick, modelsOption, openScene, playedUntil, type SceneOptions } from './files.ts'
import { eventSentence } from './text.ts'

/** A body or a collider of a player's world. */
type Body = NonNullable<ReturnType<ScenePlayer['world']['find']>>
type Thing = Body | Body['colliders'][number]

interface ExplainOptions extends SceneOptions {
  tick: number
  json?: boolean | undefined
}

export function explainCommand(): Command {
  return new Command('explain')
    .description('Say why two bodies or colliders of a scene meet or do not, check by check, and what to change.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .argument('<a>', 'name of a body, or name:0 for its first collider')
    .argument('<b>', 'the other one')
    .addOption(modelsOption())
    .option('-t, --tick <number>', 'after which tick; 0 is before the first', tickNumber, 0)
    .option('--json', 'print it as JSON')
    .addHelpText('after', '\nExample:\n  $ keen-sentry explain scenes/lantern-reef.json lantern beacon --tick 440')
    .action(run)
}

async function run(path: string, a: string, b: string, options: ExplainOptions): Promise<void> {
  const player = playedUntil(await openScene(path, options), 0)
  checkTick(player, options.tick)
  // Looked up before the first tick, for a body that is removed by then can be explained too.
  const one = find(player, a)
  const other = find(player, b)
  const bodies = new Set<object>([bodyOf(one), bodyOf(other)])
  const history: LogEvent[] = []
  for (let tick = 1; tick <= options.tick; tick++) {
    for (const event of player.step().events) {
      if (event.kind !== 'during' && bodies.has(event.a) && bodies.has(event.b)) history.push(eventLine(event))
    }
  }
  const explanation = explainIn(player.world, one, other)
  if (options.json === true) {
    const { meets, response, watched, refusedBy, checks, cures } = explanation
    const document = { tick: options.tick, a, b, meets, response, watched, refusedBy, checks, cures, history }
    process.stdout.write(`${JSON.stringify(document, null, 2)}\n`)
    return
  }
  process.stdout.write(`${report(explanation, options.tick, player.world.time, history)}\n`)
}

function find(player: ScenePlayer, text: string): Thing {
  const exact = player.world.find(text)
  if (exact !== null) return exact
  const parts = /^(.*):(\d+)$/.exec(text)
  const body = parts === null ? null : player.world.find(parts[1])
  if (body === null) {
    const names = player.scene.bodies.map((each) => each.name)
    throw new Failure(`no body is called '${text}'; ${hint(text, names)}`, USAGE)
  }
  const collider = body.colliders[Number(parts![2])]
  if (collider !== undefined) return collider
  throw new Failure(`${body} has no collider ${parts![2]}: it has ${body.colliders.length}, counted from 0`, USAGE)
}

/** Both things were found in that very world. */
function explainIn(world: { explain(a: never, b: never): Explanation }, a: Thing, b: Thing): Explanation {
  return world.explain(a as never, b as never)
}

function bodyOf(thing: Thing): Body {
  return 'body' in thing ? thing.body : thing
}

function report(explanation: Explanation, tick: number, time: number, history: readonly LogEvent[]): string {
  const when = tick === 0 ? 'before the first tick' : `after tick ${tick} (${time.toFixed(2)} s)`
  const marks = { passed: pc.green('ok'), refused: pc.red('NO'), note: pc.yellow('..') }
  const lines = [
    `${pc.bold(`${explanation.a} and ${explanation.b}`)} ${when}: ${pc.bold(explanation.summary())}`,
    '',
    ...explanation.checks.map((each) => `  ${marks[each.verdict]}  ${each.check.padEnd(11)}  ${each.detail}`),
  ]
  const { cures } = explanation
  if (cures.length > 0) lines.push('', `  ${pc.bold('To change that:')} ${cures.join(`\n${' '.repeat(18)}`)}`)
  lines.push(
    '',
    history.length === 0
      ? pc.dim('  Nothing was reported about the two until then.')
      : '  What was reported about them until then:',
  )
  for (const line of history) lines.push(`  ${eventSentence(line, undefined)}`)
  return lines.join('\n')
}
