/**
 * What is watched: from all watches, the layers that each collider can usefully be tested against, and for a pair of
 * colliders the watches that match it. A sense pair that no watch asks about is never tested.
 *
 * A watch is filed under its more telling side, so the work for a pair grows with the watches that may match it and
 * not with all that exist.
 */

import type { Population } from '../state/population.ts'
import type { Tags } from '../state/tags.ts'
import { LAYERS, type Matcher, type Side, STAR, TAG } from './sides.ts'

export interface Watcher {
  /** @internal */ readonly id: number
  /** @internal */ readonly first: Side
  /** @internal */ readonly second: Side
  /** SENSE or SOLID to hear of these only, 0 for both. @internal */
  readonly response: number
  /** The round in which it was last collected. @internal */
  stamp: number
}

export class Interest<W extends Watcher, B extends object, C extends object> {
  readonly watches = new Set<W>()
  private readonly population: Population<B, C>
  private readonly matcher: Matcher<B, C>
  private readonly tags: Tags
  private star: W[] = []
  private byLayer: W[][] = Array.from({ length: 32 }, () => [])
  private byTag = new Map<number, W[]>()
  private byHandle = new Map<object, W[]>()
  private starBits = 0
  private readonly layerBits = new Int32Array(32)
  private tagBits = new Map<number, number>()
  private handleBits = new Map<object, number>()
  private round = 0

  constructor(population: Population<B, C>, matcher: Matcher<B, C>, tags: Tags) {
    this.population = population
    this.matcher = matcher
    this.tags = tags
  }

  /** Rebuilds the indexes from the watches that exist. Cost: their number. */
  rebuild(): void {
    this.star = []
    this.byLayer = Array.from({ length: 32 }, () => [])
    this.byTag = new Map()
    this.byHandle = new Map()
    this.starBits = 0
    this.layerBits.fill(0)
    this.tagBits = new Map()
    this.handleBits = new Map()
    for (const watch of this.watches) {
      this.want(watch.first, watch.second.bits)
      this.want(watch.second, watch.first.bits)
      this.file(watch.first.kind >= watch.second.kind ? watch.first : watch.second, watch)
    }
  }

  private want(side: Side, bits: number): void {
    if (side.kind === STAR) this.starBits |= bits
    else if (side.kind === LAYERS) {
      for (let i = 0; i < 32; i++) if ((side.bits & (1 << i)) !== 0) this.layerBits[i] |= bits
    } else if (side.kind === TAG) this.tagBits.set(side.tag, (this.tagBits.get(side.tag) ?? 0) | bits)
    else this.handleBits.set(side.handle!, (this.handleBits.get(side.handle!) ?? 0) | bits)
  }

  private file(side: Side, watch: W): void {
    if (side.kind === STAR) this.star.push(watch)
    else if (side.kind === LAYERS) {
      for (let i = 0; i < 32; i++) if ((side.bits & (1 << i)) !== 0) this.byLayer[i].push(watch)
    } else if (side.kind === TAG) put(this.byTag, side.tag, watch)
    else put(this.byHandle, side.handle!, watch)
  }

  /** The layers that a collider is worth testing against: the word in `filter.watched`. */
  bitsOf(c: number): number {
    const { population, layerBits } = this
    let bits = this.starBits
    for (let at = population.filter.activeLayers.data[c]; at !== 0; at &= at - 1)
      bits |= layerBits[31 - Math.clz32(at & -at)]
    if (this.tagBits.size > 0) {
      for (const tag of this.tags.members(population.tagSet.data[c])) bits |= this.tagBits.get(tag) ?? 0
    }
    if (this.handleBits.size > 0) {
      bits |= this.handleBits.get(population.handles.known(c)!) ?? 0
      bits |= this.handleBits.get(population.bodyHandles[population.filter.body.data[c]]!) ?? 0
    }
    return bits === 0 ? 0 : bits
  }

  hasTag(c: number, tag: number): boolean {
    return this.tags.has(this.population.tagSet.data[c], tag)
  }

  /** Whether any watch matches this pair. */
  any(a: number, b: number, response: number): boolean {
    let found = false
    this.visit(a, b, (watch) => {
      found ||= this.side(watch, a, b, response) !== 0
    })
    return found
  }

  /** Appends the watches that match a pair to `watches`, and to `flips` whether the first side is `b`. */
  collect(a: number, b: number, response: number, watches: W[], flips: boolean[]): void {
    const round = ++this.round
    this.visit(a, b, (watch) => {
      const side = this.side(watch, a, b, response)
      if (side === 0 || watch.stamp === round) return
      watch.stamp = round
      watches.push(watch)
      flips.push(side === 2)
    })
  }

  /** Whether a watch matched this pair by the layers that the last step saw. */
  spokeBefore(watch: W, a: number, b: number): boolean {
    const { matcher } = this
    if (matcher.matchedBefore(watch.first, a) && matcher.matchedBefore(watch.second, b)) return true
    return matcher.matchedBefore(watch.first, b) && matcher.matchedBefore(watch.second, a)
  }

  /** 0: no match; 1: `a` is the first side; 2: only the other way round. */
  private side(watch: W, a: number, b: number, response: number): number {
    if (watch.response !== 0 && watch.response !== response) return 0
    const { matcher } = this
    if (matcher.matches(watch.first, a) && matcher.matches(watch.second, b)) return 1
    return matcher.matches(watch.first, b) && matcher.matches(watch.second, a) ? 2 : 0
  }

  private visit(a: number, b: number, each: (watch: W) => void): void {
    const { population } = this
    const { activeLayers } = population.filter
    for (const watch of this.star) each(watch)
    for (let bits = activeLayers.data[a] | activeLayers.data[b]; bits !== 0; bits &= bits - 1) {
      for (const watch of this.byLayer[31 - Math.clz32(bits & -bits)]) each(watch)
    }
    if (this.byTag.size > 0) {
      for (const c of [a, b]) {
        for (const tag of this.tags.members(population.tagSet.data[c])) {
          for (const watch of this.byTag.get(tag) ?? []) each(watch)
        }
      }
    }
    if (this.byHandle.size > 0) {
      for (const c of [a, b]) {
        for (const watch of this.byHandle.get(population.handles.known(c)!) ?? []) each(watch)
        for (const watch of this.byHandle.get(population.bodyHandles[population.filter.body.data[c]]!) ?? [])
          each(watch)
      }
    }
  }
}

function put<K, W>(map: Map<K, W[]>, key: K, watch: W): void {
  const list = map.get(key)
  if (list === undefined) map.set(key, [watch])
  else list.push(watch)
}
