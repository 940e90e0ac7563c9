/**
 * The faces of bodies and colliders that know no dimension: one object for the whole life of a slot. After removal a
 * handle still reads, and whatever would change or ask something through it throws `dead-handle`.
 */

import { DEAD, ENABLED, SENSOR_FLAG } from '../filter/filter.ts'
import type { LayerSet } from '../filter/layers.ts'
import type { StateVisitor } from '../save/state.ts'
import { flag, oneOf, refuseAssignment } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'
import { INSPECT } from '../util/inspect.ts'
import type { Host } from '../world.ts'
import { BODY_ENABLED, BODY_TYPES, type BodyType } from './population.ts'

/** What types a world: the names of its layers and tags, and the user's own data on bodies. */
export interface Kinds {
  /** The names of the layers. */
  layer: string
  /** The names of the tags. */
  tag: string
  /** What the user keeps with a body. */
  data: unknown
}

/** The names and data that type a world. */
export interface KindsOf<L extends string, T extends string, D> extends Kinds {
  /** The names of the layers. */
  layer: L
  /** The names of the tags. */
  tag: T
  /** What the user keeps with a body. */
  data: D
}

/** The kinds of any world: what a plain `Body2` or `World3`, without type arguments, stands for. */
// biome-ignore lint/suspicious/noExplicitAny: worlds are typed by names in both directions, and only `any` goes both ways
export type AnyKinds = any

/** What `add` asks for besides: `data`, where it is typed and may not be left out. */
export type NeedsData<D> = undefined extends D ? unknown : { data: D }

/** The bodies of a world: `BodyOf<typeof world>`. */
export type BodyOf<W> = W extends { bodies(): (infer B)[] } ? B : never
/** The colliders of a world: `ColliderOf<typeof world>`. */
export type ColliderOf<W> = W extends { colliderAt(id: number): infer C | null } ? C : never
/** What the handlers of a world's watches are given: `EventOf<typeof world>`. */
export type EventOf<W> = W extends { events(): (infer E)[] } ? Extract<E, { readonly joint: null }> : never

/** Stands for the type `D`, exactly as it was written. Made by {@link ofType}. */
export interface DataType<D> {
  /** For the compiler alone: takes and gives what it stands for. */
  readonly of: (data: D) => D
}

/**
 * Stands for a type where a value is wanted: `createWorld({ layers, data: ofType<{ oxygen: number }>() })`. `add` then asks for
 * `data` of that type, unless the type allows `undefined`.
 */
export function ofType<D>(): DataType<D> {
  return Object.freeze({ of: (data: D) => data })
}

/** What `JSON.stringify` writes for a body. */
export interface BodyJson<Pose> {
  /** Its name, or null. */
  readonly name: string | null
  /** Its age in the world. */
  readonly serial: number
  /** How it moves. */
  readonly type: BodyType
  /** False after its removal. */
  readonly alive: boolean
  /** Place and turn. */
  readonly pose: Pose
  /** The layers of its colliders, in the order of the world's list. */
  readonly layers: readonly string[]
}

/** What `JSON.stringify` writes for a collider. */
export interface ColliderJson {
  /** The name of its body, or `body #` and its age. */
  readonly body: string
  /** Its place among the colliders of the body, -1 after removal. */
  readonly index: number
  /** Where it is. */
  readonly layers: readonly string[]
  /** The tags it carries. */
  readonly tags: readonly string[]
  /** Whether it only senses. */
  readonly sensor: boolean
  /** Whether it meets anything. */
  readonly enabled: boolean
}

export abstract class BodyHandle<K extends Kinds, C> {
  /** Whatever the user keeps with a body. */
  data: K['data']
  /** @internal */ readonly slot: number
  /** @internal */ protected abstract readonly host: Host
  private readonly given: string | null
  private age: number
  /** Null until somebody asks. */
  private list: readonly C[] | null = null
  private dead = false
  private lastEnabled = true
  private lastType: BodyType = 'static'

  /** @internal */
  constructor(host: Host, slot: number, name: string | null, data: K['data']) {
    this.slot = slot
    this.given = name
    this.data = data
    this.age = host.population.bodySerial.data[slot]
  }

  /** The name it was given; unique among the living of a world. */
  get name(): string | null {
    return this.given
  }

  /** The age of the body: 1 for the first of a world, never used twice. */
  get serial(): number {
    return this.age
  }

  /** False from the moment of removal on. */
  get alive(): boolean {
    return !this.dead
  }

  /**
   * `'static'` stands still, `'kinematic'` moves as it is told, `'dynamic'` as forces and contacts have it. It can be changed at
   * any time; what begins or ends by that has cause `retyped`.
   */
  get type(): BodyType {
    return this.dead ? this.lastType : BODY_TYPES[this.host.population.type.data[this.slot]]
  }

  set type(value: BodyType) {
    this.change('type')
    if (oneOf(value, BODY_TYPES, "'type' of a body") !== this.type)
      this.host.retype(this.slot, BODY_TYPES.indexOf(value))
  }

  /** Its colliders, in the order of their attaching. */
  get colliders(): readonly C[] {
    this.list ??= this.host.population.collidersOf(this.slot) as C[]
    return this.list
  }

  /** A disabled body meets nothing and is met by nothing; its pairs end with cause `disabled`. */
  get enabled(): boolean {
    return this.dead ? this.lastEnabled : (this.host.population.bodyFlags.data[this.slot] & BODY_ENABLED) !== 0
  }

  set enabled(value: boolean) {
    this.change('enabled')
    const { population } = this.host
    if (flag(value ?? null, true, "'enabled' of a body")) population.bodyFlags.data[this.slot] |= BODY_ENABLED
    else population.bodyFlags.data[this.slot] &= ~BODY_ENABLED
    for (let c = population.first(this.slot); c >= 0; c = population.next(c)) this.host.wordsChanged(c)
  }

  /** Takes the body out of its world at once. What was reported about it ends with cause `removed`. */
  remove(): void {
    this.change('remove')
    this.host.removeBody(this.slot)
  }

  toString(): string {
    return this.name ?? `body #${this.serial}`
  }

  /** The body and another one pass through each other, whatever their layers say. What that ends has cause `ignored`. */
  ignore(other: BodyHandle<K, C>): void {
    this.host.ignoreBodies(this, other, true)
  }

  /** Takes {@link ignore} back, whichever of the two it was called on. What that begins has cause `unignored`. */
  unignore(other: BodyHandle<K, C>): void {
    this.host.ignoreBodies(this, other, false)
  }

  /** Whether the two were told to ignore each other. */
  ignores(other: BodyHandle<K, C>): boolean {
    if (!(other instanceof BodyHandle)) {
      throw new KeenError('bad-argument', `ignores of a body takes another body, got ${show(other)}`)
    }
    if (!this.alive || !other.alive) return false
    return this.host.population.filter.bodiesIgnoring.now(this.slot, other.slot)
  }

  /** Throws `dead-handle` when the body was removed, `locked` where nothing may be changed. @internal */
  change(what: string): void {
    this.use(what)
    this.host.population.guard(what)
  }

  /** Throws `dead-handle` when the body was removed. @internal */
  use(what: string): void {
    if (this.dead) {
      throw new KeenError(
        'dead-handle',
        `${what}: ${this} was removed from its world (check 'alive' before using a kept handle)`,
      )
    }
  }

  /** It has others; the list of before stays as it was. @internal */
  changeColliders(): void {
    this.list = null
  }

  /** Whether it is, or was, of a world. @internal */
  livesIn(world: object): boolean {
    return (this.host as object) === world
  }

  /** It was made for a slot whose state is still to come. @internal */
  reborn(serial: number): void {
    this.age = serial
  }

  /** Its slot was put back, with these colliders. @internal */
  setAlive(alive: boolean, colliders: readonly C[]): void {
    if (alive) {
      this.dead = false
      this.list = colliders
    } else if (!this.dead) this.markDead()
  }

  /** @internal */
  markDead(): void {
    // Its slot says which they are for the last time.
    this.list ??= this.colliders
    this.lastEnabled = this.enabled
    this.lastType = this.type
    this.dead = true
  }
}

/** The words of a collider after its slot was removed. */
interface LastWords {
  layer: number
  solid: number
  sense: number
  flags: number
  tags: number
}

export abstract class ColliderHandle<K extends Kinds, B extends BodyHandle<K, unknown>> {
  /** @internal */ readonly slot: number
  /** @internal */ protected abstract readonly host: Host
  private readonly owner: B
  private age: number
  private last: LastWords | null = null

  /** @internal */
  constructor(host: Host, slot: number, body: B) {
    this.slot = slot
    this.owner = body
    this.age = host.population.serial.data[slot]
  }

  /**
   * What a dimension adds to a hit on this collider, whose place is written already.
   * @param around the bounds of what asked, where the hit has no point
   * @param kernel of the world that was asked: this one, or the one that shows its past
   * @internal
   */
  describeHit(_hit: object, _around: Float64Array | null, _kernel: object): void {}

  /** The body it belongs to, also after removal. */
  get body(): B {
    return this.owner
  }

  /** The age of the collider within its world. */
  get serial(): number {
    return this.age
  }

  /** False from the moment of removal on. */
  get alive(): boolean {
    return this.last === null
  }

  /** Its place among the colliders of its body, -1 after removal. */
  get index(): number {
    return (this.body.colliders as readonly unknown[]).indexOf(this)
  }

  /**
   * The layer it is on, or the list of them when there are several. Setting it fills all three words again from the
   * pair table.
   */
  get layer(): K['layer'] | readonly K['layer'][] {
    const names = this.host.layers.names(this.words().layer >>> 0)
    return names.length === 1 ? names[0] : names
  }

  set layer(value: LayerSet<K['layer']>) {
    this.change('layer')
    const { population, layers } = this.host
    population.fillWords(this.slot, layers, layers.word(value, 'layer'))
    this.host.wordsChanged(this.slot)
  }

  /** Where it is: an unsigned 32-bit mask; takes names too. Setting it leaves the other two words as they are. */
  get layerBits(): number {
    return this.words().layer >>> 0
  }

  set layerBits(value: LayerSet<K['layer']>) {
    this.change('layerBits')
    this.host.population.filter.layerBits.data[this.slot] = this.host.layers.word(value, 'layerBits')
    this.host.wordsChanged(this.slot)
  }

  /** What it is solid to: an unsigned 32-bit mask; takes names too. Set by hand, `setPair` leaves it alone. */
  get solidBits(): number {
    return this.words().solid >>> 0
  }

  set solidBits(value: LayerSet<K['layer']>) {
    this.change('solidBits')
    this.host.population.setSolid(this.slot, this.host.layers.word(value, 'solidBits'))
    this.host.wordsChanged(this.slot)
  }

  /** What it senses: an unsigned 32-bit mask; takes names too. Set by hand, `setPair` leaves it alone. */
  get senseBits(): number {
    return this.words().sense >>> 0
  }

  set senseBits(value: LayerSet<K['layer']>) {
    this.change('senseBits')
    this.host.population.setSense(this.slot, this.host.layers.word(value, 'senseBits'))
    this.host.wordsChanged(this.slot)
  }

  /** Flagged a sensor: it presses nobody, whatever its words say. */
  get sensor(): boolean {
    return (this.words().flags & SENSOR_FLAG) !== 0
  }

  set sensor(value: boolean) {
    this.change('sensor')
    this.mark(SENSOR_FLAG, value, 'sensor')
  }

  /** A disabled collider meets nothing; its pairs end with cause `disabled`. */
  get enabled(): boolean {
    return (this.words().flags & ENABLED) !== 0
  }

  set enabled(value: boolean) {
    this.change('enabled')
    this.mark(ENABLED, value, 'enabled')
  }

  /** The tags it carries, in the order of the world's list. */
  get tags(): readonly K['tag'][] {
    return this.host.tags.names(this.words().tags)
  }

  /** Takes the collider off its body at once. */
  remove(): void {
    this.change('remove')
    this.host.removeCollider(this.slot)
  }

  toString(): string {
    return this.alive ? `collider ${this.index} of ${this.body}` : `a removed collider of ${this.body}`
  }

  /** What `JSON.stringify` writes: the body by name or age, which of its colliders it is, and how it is filtered. */
  toJSON(): ColliderJson {
    const { index, sensor, enabled, tags } = this
    return { body: this.body.toString(), index, layers: this.host.layers.names(this.layerBits), tags, sensor, enabled }
  }

  /** @internal */
  [INSPECT](): string {
    const { layers, tags } = this.toJSON()
    const tagged = tags.length === 0 ? '' : `, tags ${tags.join(', ')}`
    return `${this}: ${this.sensor ? 'sensor ' : ''}on ${layers.join(', ')}${tagged}${this.enabled ? '' : ', disabled'}`
  }

  /** The collider and another one pass through each other, whatever their layers say; their bodies' others do not. */
  ignore(other: ColliderHandle<K, B>): void {
    this.host.ignoreColliders(this, other, true)
  }

  /** Takes {@link ignore} back, whichever of the two it was called on. */
  unignore(other: ColliderHandle<K, B>): void {
    this.host.ignoreColliders(this, other, false)
  }

  /** Whether the two were told to ignore each other; their bodies may be by themselves. */
  ignores(other: ColliderHandle<K, B>): boolean {
    if (!(other instanceof ColliderHandle)) {
      throw new KeenError('bad-argument', `ignores of a collider takes another collider, got ${show(other)}`)
    }
    if (!this.alive || !other.alive) return false
    return this.host.population.filter.collidersIgnoring.now(this.slot, other.slot)
  }

  /** Throws `dead-handle` when the collider was removed, `locked` where nothing may be changed. @internal */
  change(what: string): void {
    this.use(what)
    this.host.population.guard(what)
  }

  /** Throws `dead-handle` when the collider was removed. @internal */
  use(what: string): void {
    if (this.last === null) return
    throw new KeenError(
      'dead-handle',
      `${what}: ${this} was used after its removal (check 'alive' before using a kept handle)`,
    )
  }

  /** @internal */
  markDead(): void {
    this.last = this.words()
  }

  /** Whether it is, or was, of a world. @internal */
  livesIn(world: object): boolean {
    return (this.host as object) === world
  }

  /** It was made for a slot whose state is still to come. @internal */
  reborn(serial: number): void {
    this.age = serial
  }

  /** Its slot was put back. @internal */
  setAlive(alive: boolean): void {
    if (alive) this.last = null
    else if (this.last === null) this.markDead()
  }

  /** What a dimension keeps with it besides. @internal */
  visit(_v: StateVisitor): void {}

  private mark(bit: number, value: unknown, what: string): void {
    flag(value ?? null, false, `'${what}' of a collider`)
    const { flags } = this.host.population.filter
    if (value) flags.data[this.slot] |= bit
    else flags.data[this.slot] &= ~bit
    this.host.wordsChanged(this.slot)
  }

  private words(): LastWords {
    if (this.last !== null) return this.last
    const { filter, tagSet } = this.host.population
    const { slot } = this
    return {
      layer: filter.layerBits.data[slot],
      solid: filter.solidBits.data[slot],
      sense: filter.senseBits.data[slot],
      flags: filter.flags.data[slot] & ~DEAD,
      tags: tagSet.data[slot],
    }
  }
}

refuseAssignment(BodyHandle.prototype, {
  name: 'a body keeps the name that it was added with',
  serial: 'it is the age of the body',
  colliders: 'attach() one, or remove() one',
  alive: 'remove() takes the body out',
})
refuseAssignment(ColliderHandle.prototype, {
  body: 'attach() another collider to that body, and remove() this one',
  serial: 'it is the age of the collider',
  index: 'it is the place among the colliders of its body',
  alive: 'remove() takes the collider off its body',
  tags: 'attach() a collider with these tags, and remove() this one',
})
