/** What a question of the command line holds, whatever the dimension of the scene. */
import { KeenError } from 'keen-sentry'
import { Failure, USAGE } from './failure.ts'
import type { SceneOptions } from './files.ts'
import type { PictureOptions } from './picture.ts'

export const KINDS = ['ray', 'shape', 'overlap', 'nearest'] as const
export type Kind = (typeof KINDS)[number]

/** Points and turns are as many numbers as were given; the dimension of the scene says how many they must be. */
export interface AskOptions extends PictureOptions, SceneOptions {
  from?: number[] | undefined
  to?: number[] | undefined
  at?: number[] | undefined
  shape?: string | undefined
  angle?: number | undefined
  rotation?: number[] | undefined
  turn?: number[] | undefined
  reach?: number | undefined
  mode: 'first' | 'all' | 'any'
  layers?: string[] | undefined
  sensors?: boolean | 'only' | undefined
  except?: string[] | undefined
  as?: string[] | undefined
  response?: 'solid' | 'sense' | 'any' | undefined
  inside?: 'hit' | 'skip' | undefined
  tick: number
  json?: boolean | undefined
  out?: string | undefined
}

/** One hit as it is printed: what there is depends on the question. */
interface Answer<V = object> {
  readonly body: string
  readonly collider: number
  readonly point: V | null
  readonly normal: V | null
  readonly fraction?: number | undefined
  readonly distance?: number | undefined
  readonly depth?: number | undefined
  readonly startedInside?: boolean | undefined
  readonly part: number
  readonly child: number
}

interface Hit<V> {
  readonly body: object
  readonly collider: { readonly index: number }
  readonly point: V | null
  readonly normal: V | null
  readonly fraction?: number | undefined
  readonly distance?: number | undefined
  readonly depth?: number | undefined
  readonly startedInside?: boolean | undefined
  readonly part: number
  readonly child: number
}

/** The fields of a hit that are printed, in their order. */
function printed<V>(hit: Hit<V>): Answer<V> {
  const { point, normal, fraction, distance, startedInside, depth, part, child } = hit
  const place = { body: String(hit.body), collider: hit.collider.index, part, child, point, normal }
  return { ...place, fraction, distance, startedInside, depth }
}

/** What a question got: its hits, or with the mode `any` whether there is one. */
export interface Got<V = object> {
  readonly answers: readonly Answer<V>[]
  readonly any: boolean | null
}

/** A kind of question of a world, as all of them are asked. */
interface Asked<Q, F, H> {
  first(question: Q, filter: F): H | null
  all(question: Q, filter: F): H[]
  any?(question: Q, filter: F): boolean
}

/** Puts a question in one of its modes. */
export function put<Q, F, V, H extends Hit<V>>(
  mode: AskOptions['mode'],
  asked: Asked<Q, F, H>,
  question: Q,
  filter: F,
): Got<V> {
  if (mode === 'any') {
    const any = asked.any === undefined ? asked.first(question, filter) !== null : asked.any(question, filter)
    return { answers: [], any }
  }
  const hit = mode === 'first' ? asked.first(question, filter) : null
  const hits = mode === 'all' ? asked.all(question, filter) : hit === null ? [] : [hit]
  return { answers: hits.map((each) => printed<V>(each)), any: null }
}

interface World<B> {
  find(name: string): B | null
}

/** The filter as the queries of a world take it. */
export function filterOf<B>(world: World<B>, options: AskOptions) {
  const { layers, sensors, as, response, inside, except } = options
  const named = except?.map((name) => {
    const body = world.find(name)
    if (body === null) throw new Failure(`--except: no living body is called '${name}' at tick ${options.tick}`, USAGE)
    return body
  })
  const given = { layers, sensors, as, response, inside, except: named }
  return Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined)) as typeof given
}

/** A shape by its short form or as JSON; a mistake in it is one of the command line. */
export function shapeBy<S>(
  value: string,
  short: (kind: string, numbers: readonly number[]) => object | null,
  read: (json: unknown) => S,
  forms: string,
): S {
  try {
    if (value.trimStart().startsWith('{')) return read(JSON.parse(value))
    const [kind, rest = ''] = value.split(':')
    const numbers = rest.split(',').map((part) => Number(part.trim() === '' ? Number.NaN : part))
    const json = numbers.some((each) => !Number.isFinite(each)) ? null : short(kind, numbers)
    if (json === null) throw new Failure(`--shape: expected ${forms}, or JSON`, USAGE)
    return read(json)
  } catch (error) {
    if (error instanceof KeenError || error instanceof SyntaxError)
      throw new Failure(`--shape: ${error.message}`, USAGE)
    throw error
  }
}
