/** The two sides of a watch: which colliders they match. */
import type { Filter } from '../filter/filter.ts'
import type { Population } from '../state/population.ts'
import type { Tags } from '../state/tags.ts'

export const STAR = 0
export const LAYERS = 1
export const TAG = 2
export const HANDLE = 3

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
          this.population.colliderHandles[c] === side.handle ||
          this.population.bodyHandles[this.filter.body.data[c]] === side.handle
        )
    }
  }

  /** Whether it belonged to the side as the last step saw it; only layers change. */
  matchedBefore(side: Side, c: number): boolean {
    return side.kind === LAYERS ? (this.filter.previousLayers.data[c] & side.bits) !== 0 : this.matches(side, c)
  }
}
