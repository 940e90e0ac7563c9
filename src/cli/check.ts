/** `keen-sentry check`: finds the mistakes in a scene before it runs. */
import { Command } from 'commander'
import pc from 'picocolors'
import { check, type Problem } from '../scene/index.ts'
import { FAILED } from './failure.ts'
import { readJson } from './files.ts'

export function checkCommand(): Command {
  return new Command('check')
    .description('Check a scene: its form, and every name and index in it. Exits with 1 when there is an error.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .option('--json', 'print the problems as JSON')
    .addHelpText('after', '\nExample:\n  $ keen-sentry check scenes/lantern-reef.json')
    .action((path: string, options: { json?: boolean }) => {
      const problems = check(readJson(path))
      process.stdout.write(
        options.json === true ? `${JSON.stringify({ file: path, problems }, null, 2)}\n` : report(path, problems),
      )
      if (problems.some((problem) => problem.level === 'error')) process.exitCode = FAILED
    })
}

function report(path: string, problems: readonly Problem[]): string {
  if (problems.length === 0) return `${pc.green('ok')}  ${path}: no problem found\n`
  const lines = problems.map(({ level, code, place, message }) => {
    const colour = level === 'error' ? pc.red : level === 'warning' ? pc.yellow : pc.cyan
    return `${colour(level)}  ${pc.bold(place === '' ? 'the file' : place)}\n       ${message} ${pc.dim(`[${code}]`)}`
  })
  const count = problems.length === 1 ? '1 problem' : `${problems.length} problems`
  return `${lines.join('\n')}\n\n${path}: ${count}\n`
}
