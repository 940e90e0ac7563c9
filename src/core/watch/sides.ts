/** The two sides of a watch: what a user may write for one, and which colliders it matches. */
import type { Filter } from '../filter/filter.ts'
import type { Layers } from '../filter/layers.ts'
import { BodyHandle, ColliderHandle, type Kinds } from '../state/handle.ts'
import type { Population } from '../state/population.ts'
import type { Tags } from '../state/tags.ts'
import { KeenError, show } from '../util/errors.ts'
import { hint } from '../util/suggestions.ts'

export const STAR = 0
export const LAYERS = 1
export const TAG = 2
const HANDLE = 3

/** One side, resolved: `'*'`, some layers, a tag, or one body or collider. */
export interface Side {
  readonly kind: typeof STAR | typeof LAYERS | typeof TAG | typeof HANDLE
  /** Layers that can match; every bit unless the side is given by layers. */
  readonly bits: number
  readonly tag: number
  readonly handle: object | null
  /** The slot of that handle, -1 for the other kinds. */
  readonly slot: number
  /** The side as the user wrote it, for messages and keys. */
  readonly text: string
}

/** A side of a watch: a layer, several, a body, a collider, `{ tag }`, or `'*'` for all. */
export type WatchSide<K extends Kinds, B, C> =
  | K['layer']
  | '*'
  | readonly K['layer'][]
  | B
  | C
  | { readonly tag: K['tag'] }

/**
 * Resolves a side as a user wrote it.
 * @param owned refuses handles of another world
 * @throws KeenError `bad-argument`, `unknown-layer`, `unknown-tag`, and what `owned` throws
 */
export function readSide(
  value: unknown,
  what: string,
  layers: Layers,
  tags: Tags,
  owned: (handle: object) => void,
): Side {
  if (value === '*') return { kind: STAR, bits: -1, tag: -1, handle: null, slot: -1, text: '*' }
  if (typeof value === 'string') return layerSide([value], what, layers)
  if (Array.isArray(value)) return layerSide(value, what, layers)
  if (value instanceof BodyHandle || value instanceof ColliderHandle) {
    owned(value)
    return { kind: HANDLE, bits: -1, tag: -1, handle: value, slot: value.slot, text: String(value) }
  }
  if (typeof value === 'object' && value !== null && 'tag' in value) {
    const tag = value.tag as string
    return { kind: TAG, bits: -1, tag: tags.index(tag), handle: null, slot: -1, text: `#${tag}` }
  }
  throw new KeenError(
    'bad-argument',
    `${what} must be a layer, a list of layers, a body, a collider, { tag } or '*', got ${show(value)}`,
  )
}

function layerSide(names: readonly unknown[], what: string, layers: Layers): Side {
  if (names.length === 0) throw new KeenError('bad-argument', `${what} names no layer: it could never match`)
  let bits = 0
  for (const name of names) {
    if (typeof name !== 'string') {
      throw new KeenError('unknown-layer', `${what}: a layer is named by a string, got ${show(name)}`)
    }
    if (!layers.has(name)) {
      throw new KeenError('unknown-layer', `${what}: no layer is called ${show(name)}; ${hint(name, layers.all)}`)
    }
    bits |= layers.mask(name)
  }
  return { kind: LAYERS, bits, tag: -1, handle: null, slot: -1, text: names.join('+') }
}

/** Answers whether a collider belongs to a side. */
export class Matcher<B extends object, C extends object> {
  private readonly population: Population<B, C>
  private readonly filter: Filter
  private readonly tags: Tags

  constructor(population: Population<B, C>, tags: Tags) {
    this.population = population
    this.filter = population.filter
    this.tags = tags
  }

  matches(side: Side, c: number): boolean {
    switch (side.kind) {
      case STAR:
        return true
      case LAYERS:
        return (this.filter.activeLayers.data[c] & side.bits) !== 0
      case TAG:
        return this.tags.has(this.population.tagSet.data[c], side.tag)
      default:
        return (
          this.population.handles.known(c) === side.handle ||
          this.population.bodyHandles[this.filter.body.data[c]] === side.handle
        )
    }
  }

  /** Whether it belonged to the side as the last step saw it; only layers change. */
  matchedBefore(side: Side, c: number): boolean {
    return side.kind === LAYERS ? (this.filter.previousLayers.data[c] & side.bits) !== 0 : this.matches(side, c)
  }
}
