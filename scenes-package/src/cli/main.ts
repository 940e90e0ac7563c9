#!/usr/bin/env node
/** The command `keen-sentry`: finds the sub-command, and turns every failure into one sentence and an exit code. */
import { readFileSync } from 'node:fs'
import { Command, CommanderError } from 'commander'
import { KeenError } from 'keen-sentry'
import pc from 'picocolors'
import { askCommand } from './ask.ts'
import { checkCommand } from './check.ts'
import { drawCommand } from './draw.ts'
import { explainCommand } from './explain.ts'
import { FAILED, Failure, USAGE } from './failure.ts'
import { runCommand } from './run.ts'

const { version } = JSON.parse(readFileSync(new URL('../../package.json', import.meta.url), 'utf8')) as {
  version: string
}

// A reader that has seen enough closes the pipe: that is no failure.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0)
  process.stderr.write(`keen-sentry: cannot print: ${error.message}\n`)
  process.exit(FAILED)
})

const program = new Command('keen-sentry')
  .description('Who meets whom in a scene, when, and why it ended.')
  .version(version)
  .showHelpAfterError('(--help after the command lists its options)')
  .addHelpText('after', '\nExample:\n  $ keen-sentry run scenes/lantern-reef.json')

for (const command of [runCommand(), checkCommand(), askCommand(), explainCommand(), drawCommand()])
  program.addCommand(command.copyInheritedSettings(program))
for (const command of [program, ...program.commands]) command.exitOverride()

try {
  await program.parseAsync()
} catch (error) {
  process.exitCode = exitCodeOf(error)
}

function exitCodeOf(error: unknown): number {
  // commander has printed its own sentence by then; help and version leave with 0.
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : USAGE
  if (error instanceof Failure) {
    process.stderr.write(`${pc.red('error')}: ${error.message}\n`)
    return error.exitCode
  }
  if (error instanceof KeenError) {
    process.stderr.write(`${pc.red('error')}: ${error.message}\n`)
    return FAILED
  }
  throw error
}
