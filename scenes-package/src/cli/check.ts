/** `keen-sentry check`: finds the mistakes in a scene before it runs. */
import { Command } from 'commander'
import pc from 'picocolors'
import { check, type Problem } from '../scene/index.ts'
import { FAILED } from './failure.ts'
import { loadModelsOf, modelsOption, readJson, type SceneOptions } from './files.ts'

/** Problems that are printed at most. */
const MOST = 50

export function checkCommand(): Command {
  return new Command('check')
    .description(
      'Check a scene: its form, its names, and what can never do what it was made for. Exits with 1 when there is an error.',
    )
    .argument('<scene>', "scene file, or '-' for standard input")
    .addOption(modelsOption())
    .option('--strict', 'exit with 1 for warnings too')
    .option('--json', 'print the problems as JSON')
    .addHelpText('after', '\nExample:\n  $ keen-sentry check scenes/lantern-reef.json')
    .action(async (path: string, options: SceneOptions & { json?: boolean; strict?: boolean }) => {
      const json = await readJson(path)
      const problems = check(json, await loadModelsOf(path, json, options))
      process.stdout.write(
        options.json === true ? `${JSON.stringify({ file: path, problems }, null, 2)}\n` : report(path, problems),
      )
      const failing = options.strict === true ? ['error', 'warning'] : ['error']
      if (problems.some((problem) => failing.includes(problem.level))) process.exitCode = FAILED
    })
}

function report(path: string, problems: readonly Problem[]): string {
  if (problems.length === 0) return `${pc.green('ok')}  ${path}: no problem found\n`
  const lines = worst(problems).map(({ level, code, place, message, cure }) => {
    const colour = level === 'error' ? pc.red : level === 'warning' ? pc.yellow : pc.cyan
    return `${colour(level)}  ${pc.bold(place === '' ? 'the file' : place)}\n       ${message} ${pc.dim(`[${code}]`)}${cure === undefined ? '' : `\n       => ${cure}`}`
  })
  const count = problems.length === 1 ? '1 problem' : `${problems.length} problems`
  const more = problems.length - lines.length
  const rest = more > 0 ? `, ${more} of them not shown: --json lists all` : ''
  return `${lines.join('\n')}\n\n${path}: ${count}${rest}\n`
}

/** As many as can be read, in the order of the file: errors before warnings before hints where there are more. */
function worst(problems: readonly Problem[]): readonly Problem[] {
  if (problems.length <= MOST) return problems
  const of = (level: Problem['level']): Problem[] => problems.filter((problem) => problem.level === level)
  return [...of('error'), ...of('warning'), ...of('hint')].slice(0, MOST)
}
