/** What is wrong with a scene file, said with its place, what was found and what was expected. */

import { KeenError } from 'keen-sentry'
import { hint, show } from 'keen-sentry/internal'
import type { z } from 'zod'

/** A mistake in a scene, and how to put it right. */
export interface Problem {
  /** Whether the scene cannot be played, or only will not do what was meant. */
  readonly level: 'error' | 'warning' | 'hint'
  /** Stable name of the kind of mistake. */
  readonly code: string
  /** Where in the file, as `bodies[2].colliders[0].layer`; empty for the file as a whole. */
  readonly place: string
  /** What is wrong and what to do, in a sentence. */
  readonly message: string
  /** What to change; left out where the message says it. */
  readonly cure?: string | undefined
}

type Path = readonly PropertyKey[]

/** Words of the one dimension where the other is meant: each is told as what it is. */
interface Foreign {
  readonly dimension: '2d' | '3d'
  readonly kinds: readonly string[]
  /** Fields of the other dimension, and what they are called here, if anything. */
  readonly fields: Readonly<Record<string, string | null>>
}

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

const FOREIGN: Readonly<Record<'2d' | '3d', Foreign>> = {
  '2d': {
    dimension: '3d',
    kinds: ['sphere', 'cylinder', 'cone', 'hull', 'mesh', 'heightfield'],
    fields: {
      rotation: 'angle',
      model: null,
      eye: 'view.min',
      target: 'view.max',
      z: null,
      surfaceVelocity: 'surfaceSpeed',
    },
  },
  '3d': {
    dimension: '2d',
    kinds: ['circle', 'polygon', 'segment', 'polyline'],
    fields: {
      angle: 'rotation',
      width: 'x, y and z',
      min: 'view.eye',
      max: 'view.target',
      surfaceSpeed: 'surfaceVelocity',
    },
  },
}

/**
 * zod's issues in the words of this library.
 * @param dimension of the scene, so that what belongs to the other is told as that; null where it is not known
 */
export function formProblems(
  root: unknown,
  issues: readonly z.core.$ZodIssue[],
  dimension: '2d' | '3d' | null,
): Problem[] {
  const foreign = dimension === null ? null : FOREIGN[dimension]
  return issues.flatMap((issue) => formProblem(root, issue, [], foreign))
}

/** Says of a value that the other dimension has it, or nothing. */
function strayed(value: unknown, foreign: Foreign | null): string {
  if (foreign === null || typeof value !== 'string' || !foreign.kinds.includes(value)) return ''
  return `: that is of ${foreign.dimension} scenes`
}

function formProblem(root: unknown, issue: z.core.$ZodIssue, prefix: Path, foreign: Foreign | null): Problem[] {
  const path = [...prefix, ...issue.path]
  const at = (code: string, message: string, more: Path = []): Problem[] => [
    { level: 'error', code, place: placeOf([...path, ...more]), message },
  ]
  const value = valueAt(root, path)
  const found = value === undefined ? 'nothing' : show(value)
  switch (issue.code) {
    case 'unrecognized_keys':
      return issue.keys.flatMap((key) => at('unknown-field', fieldText(key, foreign), [key]))
    case 'invalid_value': {
      const expected = issue.values.map((each) => show(each)).join(', ')
      const text = typeof value === 'string' ? `; ${hint(value, issue.values.map(String))}` : ''
      return at(
        'bad-value',
        `found ${found}${strayed(value, foreign)}, expected ${issue.values.length > 1 ? 'one of ' : ''}${expected}${text}`,
      )
    }
    case 'invalid_union':
      return unionProblem(root, issue, path, found, foreign)
    case 'too_small':
    case 'too_big':
    case 'invalid_type':
      return at(value === undefined ? 'missing' : 'bad-value', `found ${found}, expected ${expectation(issue, value)}`)
    default:
      return at('bad-value', `found ${found}: ${issue.message}`)
  }
}

/** What to say of a field that there is not. */
function fieldText(key: string, foreign: Foreign | null): string {
  if (foreign === null || !Object.hasOwn(foreign.fields, key)) return 'there is no such field here'
  const own = foreign.fields[key]
  return `is of ${foreign.dimension} scenes${own === null ? '' : `; here it is ${own}`}`
}

function unionProblem(
  root: unknown,
  issue: z.core.$ZodIssueInvalidUnion,
  path: Path,
  found: string,
  foreign: Foreign | null,
): Problem[] {
  if (issue.errors.length === 0) {
    const key = issue.discriminator ?? 'kind'
    const value = valueAt(root, path)
    const options = 'options' in issue && Array.isArray(issue.options) ? issue.options.map(String) : []
    const text = typeof value === 'string' ? hint(value, options) : `expected a '${key}' out of ${options.join(', ')}`
    const message = `found ${found}${strayed(value, foreign)}; ${text}`
    return [{ level: 'error', code: 'bad-value', place: placeOf(path), message }]
  }
  // The branch that got furthest is the one that was meant.
  const depth = (errors: readonly z.core.$ZodIssue[]): number => Math.max(...errors.map((each) => each.path.length))
  const best = [...issue.errors].sort((a, b) => depth(b) - depth(a) || a.length - b.length)[0]
  if (depth(best) > 0) return best.flatMap((each) => formProblem(root, each, path, foreign))
  const expected = [...new Set(issue.errors.flat().map((each) => expectation(each)))].join(', or ')
  return [{ level: 'error', code: 'bad-value', place: placeOf(path), message: `found ${found}, expected ${expected}` }]
}

/** Numbers of a point, which is a list of so many. */
const AXES = ['x', 'y', 'z', 'w']

function expectation(issue: z.core.$ZodIssue, value?: unknown): string {
  switch (issue.code) {
    case 'invalid_type':
      return issue.expected === 'tuple' ? 'a list of fixed length such as [x, y]' : article(issue.expected)
    case 'too_small': {
      if (isPoint(issue, value)) return `[${AXES.slice(0, Number(issue.minimum)).join(', ')}]`
      if (issue.origin === 'array') return `a list of at least ${issue.minimum}`
      if (issue.origin === 'string') return 'a string that is not empty'
      return `a number ${issue.inclusive === true ? 'of at least' : 'above'} ${issue.minimum}`
    }
    case 'too_big': {
      if (isPoint(issue, value)) return `[${AXES.slice(0, Number(issue.maximum)).join(', ')}]`
      if (issue.origin === 'array') return `a list of at most ${issue.maximum}`
      if (issue.origin === 'string') return `at most ${issue.maximum} characters`
      return `a number ${issue.inclusive === true ? 'of at most' : 'below'} ${issue.maximum}`
    }
    default:
      return issue.message
  }
}

/** Whether a list is too short or too long for the numbers of a point. */
function isPoint(issue: z.core.$ZodIssueTooSmall | z.core.$ZodIssueTooBig, value: unknown): boolean {
  const length = Number(issue.code === 'too_small' ? issue.minimum : issue.maximum)
  const some = Array.isArray(value) && value.length > 0 && value.every((each) => typeof each === 'number')
  return issue.origin === 'array' && some && (length === 2 || length === 3)
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
