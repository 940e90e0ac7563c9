/** A query's filter, compiled to bit masks. */

import { masks, PASS, SENSE, SENSOR, SOLID } from '../filter/filter.ts'
import type { LayerSet, Layers } from '../filter/layers.ts'
import { BodyHandle, ColliderHandle, type Kinds } from '../state/handle.ts'
import type { Population } from '../state/population.ts'
import { oneOf, onlyFields } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'

/** Which colliders a query considers. Every field is optional, and so is the filter itself. */
export interface QueryFilter<K extends Kinds, B, C> {
  /** Only colliders on one of these layers. `[]` and `0` match none. */
  layers?: LayerSet<K['layer']> | undefined
  /** Sensors: left out (default), taken in, or nothing but them. */
  sensors?: boolean | 'only' | undefined
  /** A body, a collider or several of them that the query passes over. */
  except?: B | C | readonly (B | C)[] | undefined
  /** A last word on each collider that got through the rest. The slowest way to filter. */
  where?: ((collider: C) => boolean) | undefined
  /** What to make of a shape that the start lies in: a hit at 0 (default), or pass it over. */
  inside?: 'hit' | 'skip' | undefined
  /**
   * Ask as if one were on these layers, or were this collider: by the same formula as pairs. Instead of `layers` and `sensors`. A shape that is
   * cast as a collider is held by one-way sides as that is.
   */
  as?: LayerSet<K['layer']> | C | undefined
  /** With `as`: what the answer of that formula must be. Default `'solid'`. */
  response?: 'solid' | 'sense' | 'any' | undefined
}

const FIELDS = ['layers', 'sensors', 'except', 'where', 'inside', 'as', 'response'] as const
const NO_SENSORS = 0
const ANY = 1
const ONLY_SENSORS = 2

/** What a world gives to compile a filter. */
export interface FilterHost<B, C> {
  readonly population: Population<object, object>
  readonly layers: Layers
  /** Refuses a handle of another world; false for one that is not there (in the past). */
  owned(handle: B | C, what: string): boolean
  /** Hears which layers are asked for, in a world that advises; else null. */
  readonly onMask: ((mask: number) => void) | null
}

export class CompiledFilter<K extends Kinds, B extends BodyHandle<K, unknown>, C extends ColliderHandle<K, B>> {
  /** A collider without any of these layers is refused: for pruning inside a tree. */
  mask = -1
  /** Whether any sensor can get through. */
  sensors = false
  skipInside = false
  /** Nothing is asked beyond `mask` and leaving sensors out (or not). */
  plain = true
  noSensors = true
  private readonly host: FilterHost<B, C>
  /** Nothing is set that an empty filter would have to take back. */
  private blank = true
  private mode = NO_SENSORS
  private as = false
  private asAt = 0
  private asPress = 0
  private asMeet = 0
  private wanted = SOLID
  private asBody = -1
  /** The collider that the question is asked as, or -1. */
  asCollider = -1
  /** Whether one-way sides count: they do for a collider. */
  get oneWay(): boolean {
    return this.asCollider >= 0
  }

  private where: ((collider: C) => boolean) | null = null
  private readonly exceptBodies: number[] = []
  private readonly exceptColliders: number[] = []

  constructor(host: FilterHost<B, C>) {
    this.host = host
  }

  /** Throws `unknown-layer`, `bad-number`, `bad-argument`, `dead-handle`, `foreign-handle`. */
  compile(filter: QueryFilter<K, B, C> | undefined): void {
    if (filter === undefined && this.blank) return
    this.mask = -1
    this.mode = NO_SENSORS
    this.noSensors = true
    this.sensors = false
    this.skipInside = false
    this.as = false
    this.asBody = -1
    this.asCollider = -1
    this.where = null
    this.plain = true
    this.exceptBodies.length = 0
    this.exceptColliders.length = 0
    this.blank = filter === undefined
    if (filter === undefined) return
    onlyFields(filter, FIELDS, 'the filter of a query')
    const { layers, sensors, except, where, inside, as, response } = filter
    if (layers !== undefined) {
      this.mask = this.host.layers.word(layers, "'layers' of a query")
      this.host.onMask?.(this.mask)
    }
    if (sensors !== undefined) {
      if (typeof sensors !== 'boolean' && sensors !== 'only') {
        throw new KeenError('bad-argument', `'sensors' of a query must be true, false or 'only', got ${show(sensors)}`)
      }
      this.mode = sensors === 'only' ? ONLY_SENSORS : sensors ? ANY : NO_SENSORS
      this.sensors = sensors !== false
      this.noSensors = sensors === false
      if (sensors === 'only') this.plain = false
    }
    if (inside !== undefined) this.skipInside = oneOf(inside, ['hit', 'skip'], "'inside' of a query") === 'skip'
    if (where !== undefined) {
      if (typeof where !== 'function')
        throw new KeenError('bad-argument', `'where' of a query must be a function, got ${show(where)}`)
      this.where = where
      this.plain = false
    }
    if (except !== undefined) this.compileExcept(except)
    if (as !== undefined) this.compileAs(filter, as)
    else if (response !== undefined) {
      throw new KeenError('bad-argument', "'response' of a query only has a meaning together with 'as'")
    }
  }

  /** Whether the query considers this collider. */
  accepts(c: number): boolean {
    const { filter } = this.host.population
    if ((filter.activeLayers.data[c] & this.mask) === 0) return false
    if (this.mode !== ANY && ((filter.flags.data[c] & SENSOR) !== 0) !== (this.mode === ONLY_SENSORS)) return false
    return this.plain || this.acceptsRest(c)
  }

  private acceptsRest(c: number): boolean {
    const { population } = this.host
    const { filter } = population
    if (this.as) {
      if (
        filter.body.data[c] === this.asBody ||
        (this.asCollider >= 0 && (filter.ignores(this.asCollider, c) || filter.joined(this.asCollider, c)))
      )
        return false
      const response = masks(
        this.asAt,
        this.asPress,
        this.asMeet,
        filter.activeLayers.data[c],
        filter.activeSolid.data[c],
        filter.activeMeet.data[c],
      )
      if (this.wanted === PASS ? response === PASS : response !== this.wanted) return false
    }
    if (this.exceptColliders.includes(c) || this.exceptBodies.includes(filter.body.data[c])) return false
    if (this.where === null) return true
    const { lock } = population
    population.lock = "a query's 'where'"
    try {
      return this.where(population.handles.of(c) as C)
    } finally {
      population.lock = lock
    }
  }

  private compileExcept(except: B | C | readonly (B | C)[]): void {
    this.plain = false
    for (const each of Array.isArray(except) ? (except as readonly (B | C)[]) : [except as B | C]) {
      if (!(each instanceof BodyHandle || each instanceof ColliderHandle)) {
        throw new KeenError('bad-argument', `'except' of a query takes bodies and colliders, got ${show(each)}`)
      }
      if (!this.host.owned(each as B | C, "'except' of a query")) continue
      if (each instanceof BodyHandle) this.exceptBodies.push(each.slot)
      else this.exceptColliders.push(each.slot)
    }
  }

  private compileAs(filter: QueryFilter<K, B, C>, as: LayerSet<K['layer']> | C): void {
    if (filter.layers !== undefined || filter.sensors !== undefined) {
      throw new KeenError('bad-argument', "a query takes either 'as' or 'layers' and 'sensors', not both")
    }
    this.as = true
    this.plain = false
    this.mode = ANY
    this.noSensors = false
    this.sensors = true
    const response = oneOf(filter.response ?? 'solid', ['solid', 'sense', 'any'], "'response' of a query")
    this.wanted = response === 'solid' ? SOLID : response === 'sense' ? SENSE : PASS
    if (as instanceof ColliderHandle) {
      if (!this.host.owned(as as C, "'as' of a query"))
        throw new KeenError('bad-argument', `'as' of a query: ${as} was not there in the tick that is asked about`)
      const words = this.host.population.filter
      this.asAt = words.activeLayers.data[as.slot]
      this.asPress = words.activeSolid.data[as.slot]
      this.asMeet = words.activeMeet.data[as.slot]
      this.asBody = words.body.data[as.slot]
      this.asCollider = as.slot
    } else {
      const { layers } = this.host
      this.asAt = layers.word(as as LayerSet<string>, "'as' of a query")
      this.asPress = layers.solidBits(this.asAt >>> 0) | 0
      this.asMeet = this.asPress | layers.senseBits(this.asAt >>> 0)
    }
    this.mask = this.wanted === SOLID ? this.asPress : this.asMeet
  }
}
