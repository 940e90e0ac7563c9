/** Finds the sub-command of `keen-sentry`, and turns every failure into one sentence and an exit code. */
import { readFileSync } from 'node:fs'
import { Command, CommanderError } from 'commander'
import { KeenError } from 'keen-sentry'
import pc from 'picocolors'
import { askCommand } from './ask.ts'
import { checkCommand } from './check.ts'
import { compareCommand } from './compare.ts'
import { drawCommand } from './draw.ts'
import { explainCommand } from './explain.ts'
import { BROKEN, EXIT_CODES, FAILED, Failure, USAGE } from './failure.ts'
import { levelCommand, outlineCommand } from './level.ts'
import { runCommand } from './run.ts'
import { timelineCommand } from './timeline.ts'

const { version } = JSON.parse(readFileSync(new URL('../../package.json', import.meta.url), 'utf8')) as {
  version: string
}

/** Does what the words of a command line ask for; leaves the exit code in `process.exitCode`. */
export async function run(words: readonly string[]): Promise<void> {
  const program = new Command('keen-sentry')
    .description('Who meets whom in a scene, when, and why it ended.')
    .version(version)
    .showHelpAfterError('(--help after the command lists its options)')
    .addHelpText('after', `\nExample:\n  $ keen-sentry run scenes/lantern-reef.json\n${EXIT_CODES}`)

  const commands = [
    runCommand(),
    checkCommand(),
    askCommand(),
    explainCommand(),
    compareCommand(),
    drawCommand(),
    levelCommand(),
    outlineCommand(),
    timelineCommand(),
  ]
  for (const command of commands) program.addCommand(command.copyInheritedSettings(program))
  for (const command of [program, ...program.commands]) command.exitOverride()
  try {
    await program.parseAsync(words, { from: 'user' })
  } catch (error) {
    process.exitCode = report(error, words.includes('--json'))
  }
}

/** Says what went wrong, in a sentence and, with `--json`, as JSON too; gives the exit code. */
function report(error: unknown, asJson: boolean): number {
  // commander has printed its own sentence by then; help and version leave with 0.
  if (error instanceof CommanderError && error.exitCode === 0) return 0
  const { code, exitCode, message } = failureOf(error)
  if (asJson) {
    process.stdout.write(`${JSON.stringify({ error: { code, exitCode, message } }, null, 2)}\n`)
  }
  if (exitCode === BROKEN)
    process.stderr.write(`${pc.red('a fault of keen-sentry')}: ${(error as Error)?.stack ?? error}\n`)
  else if (!(error instanceof CommanderError)) process.stderr.write(`${pc.red('error')}: ${message}\n`)
  return exitCode
}

function failureOf(error: unknown): { code: string; exitCode: number; message: string } {
  if (error instanceof Failure) return error
  if (error instanceof KeenError) return { code: error.code, exitCode: FAILED, message: error.message }
  if (error instanceof CommanderError) {
    return { code: 'usage', exitCode: USAGE, message: error.message.replace(/^error: /, '') }
  }
  return { code: 'broken', exitCode: BROKEN, message: String(error) }
}
