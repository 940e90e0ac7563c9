/** What is wrong with a scene file, said with its place, what was found and what was expected. */
import type { z } from 'zod'
import { show } from '../core/errors.ts'
import { KeenError } from '../core/index.ts'
import { hint } from '../core/suggest.ts'

export interface Problem {
  readonly level: 'error' | 'warning' | 'hint'
  /** Stable name of the kind of mistake. */
  readonly code: string
  /** Where in the file, as `bodies[2].colliders[0].layer`; empty for the file as a whole. */
  readonly place: string
  readonly message: string
  /** What to change; left out where the message says it. */
  readonly cure?: string
}

type Path = readonly PropertyKey[]

/** A path as one would write it in code. */
export function placeOf(path: Path): string {
  let text = ''
  for (const step of path) {
    if (typeof step === 'number') text += `[${step}]`
    else if (/^[\w$]+$/.test(String(step))) text += text === '' ? String(step) : `.${String(step)}`
    else text += `[${JSON.stringify(String(step))}]`
  }
  return text
}

/** The value at a path, or undefined. */
function valueAt(root: unknown, path: Path): unknown {
  let value = root
  for (const step of path) {
    if (typeof value !== 'object' || value === null || !Object.hasOwn(value, step)) return undefined
    value = (value as Record<PropertyKey, unknown>)[step]
  }
  return value
}

/** zod's issues in the words of this library. */
export function formProblems(root: unknown, issues: readonly z.core.$ZodIssue[]): Problem[] {
  return issues.flatMap((issue) => formProblem(root, issue, []))
}

function formProblem(root: unknown, issue: z.core.$ZodIssue, prefix: Path): Problem[] {
  const path = [...prefix, ...issue.path]
  const at = (code: string, message: string, more: Path = []): Problem[] => [
    { level: 'error', code, place: placeOf([...path, ...more]), message },
  ]
  const value = valueAt(root, path)
  const found = value === undefined ? 'nothing' : show(value)
  switch (issue.code) {
    case 'unrecognized_keys':
      return issue.keys.flatMap((key) => at('unknown-field', 'there is no such field here', [key]))
    case 'invalid_value': {
      const expected = issue.values.map((each) => show(each)).join(', ')
      const text = typeof value === 'string' ? `; ${hint(value, issue.values.map(String))}` : ''
      return at('bad-value', `found ${found}, expected ${issue.values.length > 1 ? 'one of ' : ''}${expected}${text}`)
    }
    case 'invalid_union':
      return unionProblem(root, issue, path, found)
    case 'too_small':
    case 'too_big':
    case 'invalid_type':
      return at(value === undefined ? 'missing' : 'bad-value', `found ${found}, expected ${expectation(issue)}`)
    default:
      return at('bad-value', `found ${found}: ${issue.message}`)
  }
}

function unionProblem(root: unknown, issue: z.core.$ZodIssueInvalidUnion, path: Path, found: string): Problem[] {
  if (issue.errors.length === 0) {
    const key = issue.discriminator ?? 'kind'
    const value = valueAt(root, path)
    const options = 'options' in issue && Array.isArray(issue.options) ? issue.options.map(String) : []
    const text = typeof value === 'string' ? hint(value, options) : `expected a '${key}' out of ${options.join(', ')}`
    return [{ level: 'error', code: 'bad-value', place: placeOf(path), message: `found ${found}; ${text}` }]
  }
  // The branch that got furthest is the one that was meant.
  const depth = (errors: readonly z.core.$ZodIssue[]): number => Math.max(...errors.map((each) => each.path.length))
  const best = [...issue.errors].sort((a, b) => depth(b) - depth(a) || a.length - b.length)[0]
  if (depth(best) > 0) return best.flatMap((each) => formProblem(root, each, path))
  const expected = [...new Set(issue.errors.flat().map((each) => expectation(each)))].join(', or ')
  return [{ level: 'error', code: 'bad-value', place: placeOf(path), message: `found ${found}, expected ${expected}` }]
}

function expectation(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_type':
      return issue.expected === 'tuple' ? 'a list of fixed length such as [x, y]' : article(issue.expected)
    case 'too_small': {
      if (issue.origin === 'array') return `a list of at least ${issue.minimum}`
      if (issue.origin === 'string') return 'a string that is not empty'
      return `a number ${issue.inclusive === true ? 'of at least' : 'above'} ${issue.minimum}`
    }
    case 'too_big': {
      if (issue.origin === 'array') return `a list of at most ${issue.maximum}`
      if (issue.origin === 'string') return `at most ${issue.maximum} characters`
      return `a number ${issue.inclusive === true ? 'of at most' : 'below'} ${issue.maximum}`
    }
    default:
      return issue.message
  }
}

function article(type: string): string {
  if (type === 'int') return 'a whole number'
  if (type === 'boolean') return 'true or false'
  if (type === 'array') return 'a list'
  return /^[aeiou]/.test(type) ? `an ${type}` : `a ${type}`
}

/** One problem as a line of text. */
export function problemText(problem: Problem): string {
  return `${problem.place === '' ? 'the file' : problem.place}: ${problem.message}`
}

/** Throws `bad-scene` with every error in the message. */
export function refuse(problems: readonly Problem[]): void {
  const errors = problems.filter((problem) => problem.level === 'error')
  if (errors.length === 0) return
  const listed = errors.slice(0, 20).map((problem) => `  ${problemText(problem)}`)
  const more = errors.length > 20 ? [`  and ${errors.length - 20} more`] : []
  const count = errors.length === 1 ? 'an error' : `${errors.length} errors`
  throw new KeenError('bad-scene', [`the scene has ${count}:`, ...listed, ...more].join('\n'), { others: errors })
}
