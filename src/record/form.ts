/**
 * The part of JSON Schema (draft 2020-12) that the log is described in, and what a value has wrong by it. So the published schema and what
 * is accepted are one and the same, without a package.
 */
import { show } from '../core/util/errors.ts'

/** A schema. */
export interface Form {
  readonly type?: 'string' | 'number' | 'integer' | 'object' | 'array' | 'null'
  readonly description?: string
  readonly const?: string | number
  readonly enum?: readonly string[]
  readonly pattern?: string
  readonly minimum?: number
  readonly maximum?: number
  readonly exclusiveMinimum?: number
  readonly items?: Form
  readonly minItems?: number
  readonly maxItems?: number
  readonly properties?: Readonly<Record<string, Form>>
  readonly required?: readonly string[]
  readonly additionalProperties?: false | Form
  readonly anyOf?: readonly Form[]
}

const OPTIONAL = Symbol('optional')

/** Marks a field of {@link object} that can be left out. */
export function optional(form: Form): Form {
  return { ...form, [OPTIONAL]: true } as Form
}

/** An object with these fields and no others. */
export function object(description: string, properties: Readonly<Record<string, Form>>): Form {
  const required = Object.keys(properties).filter((name) => !(OPTIONAL in properties[name]))
  return { type: 'object', description, properties, required, additionalProperties: false }
}

/** One of these words. */
export function oneOf(words: readonly string[]): Form {
  return { type: 'string', enum: words }
}

/** A whole number from `least` on. */
export function whole(least: number): Form {
  return { type: 'integer', minimum: least, maximum: Number.MAX_SAFE_INTEGER }
}

/** So many numbers. */
export function listOf(count: number): Form {
  return { type: 'array', items: { type: 'number' }, minItems: count, maxItems: count }
}

function typeOf(value: unknown): string {
  if (value === null) return 'null'
  return Array.isArray(value) ? 'array' : typeof value
}

/** What is wrong with a value that JSON gave, with its place; null where it fits. */
export function fault(form: Form, value: unknown, place = 'it'): string | null {
  if (form.anyOf !== undefined) {
    const faults = form.anyOf.map((each) => fault(each, value, place))
    return faults.includes(null) ? null : faults[0]
  }
  if (form.const !== undefined)
    return value === form.const ? null : `${place} is ${show(value)}, not ${show(form.const)}`
  if (form.type === undefined) return null
  const type = typeOf(value)
  if (form.type === 'integer' ? !Number.isSafeInteger(value) : type !== form.type) {
    return `${place} is ${show(value)}, and ${form.type} is wanted`
  }
  if (type === 'number') return numberFault(form, value as number, place)
  if (type === 'string') return textFault(form, value as string, place)
  if (type === 'array') return listFault(form, value as unknown[], place)
  return type === 'object' ? fieldsFault(form, value as Record<string, unknown>, place) : null
}

function numberFault(form: Form, value: number, place: string): string | null {
  const { minimum = -Infinity, maximum = Infinity, exclusiveMinimum = -Infinity } = form
  return value >= minimum && value <= maximum && value > exclusiveMinimum
    ? null
    : `${place} is ${value}, out of its range`
}

function textFault(form: Form, value: string, place: string): string | null {
  if (form.enum !== undefined && !form.enum.includes(value)) {
    return `${place} is ${show(value)}, and one of ${form.enum.join(', ')} is wanted`
  }
  return form.pattern === undefined || new RegExp(form.pattern).test(value) ? null : `${place} is ${show(value)}`
}

function listFault(form: Form, value: readonly unknown[], place: string): string | null {
  const { items = {}, minItems = 0, maxItems = Infinity } = form
  if (value.length < minItems || value.length > maxItems) return `${place} has ${value.length} entries`
  for (const [index, each] of value.entries()) {
    const wrong = fault(items, each, `entry ${index} of ${place}`)
    if (wrong !== null) return wrong
  }
  return null
}

function fieldsFault(form: Form, value: Readonly<Record<string, unknown>>, place: string): string | null {
  const { properties = {}, required = [], additionalProperties } = form
  const within = place === 'it' ? '' : ` of ${place}`
  for (const name of required) if (!Object.hasOwn(value, name)) return `'${name}'${within} is missing`
  for (const [name, each] of Object.entries(value)) {
    const own = Object.hasOwn(properties, name) ? properties[name] : additionalProperties
    if (own === false || own === undefined) return `'${name}'${within} is unknown`
    const wrong = fault(own, each, `'${name}'${within}`)
    if (wrong !== null) return wrong
  }
  return null
}
