/**
 * The state of a world as bytes that last: for a file, another process, another machine. What a snapshot takes down is written with what its objects
 * are made from again; read, it is checked before anything changes. `docs/save-format.md` has the format.
 */
import { Layers } from '../filter/layers.ts'
import type { JointFace } from '../joints/book.ts'
import type { JointHandle, JointStart } from '../joints/joint.ts'
import { BodyHandle, ColliderHandle, type Kinds } from '../state/handle.ts'
import type { Population } from '../state/population.ts'
import type { Tags } from '../state/tags.ts'
import { KeenError, show } from '../util/errors.ts'
import { Hook } from '../watch/decideHooks.ts'
import { type Side, STAR } from '../watch/sides.ts'
import { Watch } from '../watch/watch.ts'
import { ByteReader, ByteWriter, Damage, type Sort } from './bytes.ts'
import { Hash } from './hash.ts'
import { Keeper, type Numbers, Restorer, Snapshot, type StateVisitor } from './state.ts'

/** Raised whenever a state of the version before could not be read any more. */
const SAVE_VERSION = 1

const MAGIC = 'KEENSAVE'
/** The magic, the version, the whole length, the length of the header. */
const FIXED = MAGIC.length + 12
const CHECKSUM = 8

/** A body of a world, as far as saving knows it. */
type Body = BodyHandle<Kinds, unknown>
type Joint = JointHandle<Kinds, Body>
type SavedCollider = ColliderHandle<Kinds, Body> & {
  /** The shape that it was made with, or got later; and where it is within its body, as the dimension keeps it. */
  madeOf(): { readonly shape: object; readonly place: object }
}

/** What saving asks of a world of either dimension. */
export interface SaveHost {
  readonly population: Population<Body, SavedCollider>
  readonly tags: Tags
  /** Those in force, and those that are over by themselves. */
  readonly watches: Iterable<Watch>
  readonly hooks: readonly Hook<object, object, object>[]
  /** What a world must be made with to take over its state. */
  likeness(): Readonly<Record<string, number | boolean>>
  /** The layers with the pair table of now. */
  layersNow(): Layers
  /** Whether there is what is needed for `travel`; and makes it. */
  readonly hasTraveller: boolean
  needTraveller(): void
  visitState(v: StateVisitor): void
  snapshot(): Snapshot
  makeBody(slot: number, name: string | null): Body
  makeCollider(slot: number, body: Body, shape: object, place: object): SavedCollider
  readonly jointsNow: {
    readonly book: { readonly handles: readonly (JointFace | null)[] }
    makeHandle(slot: number, serial: number, start: JointStart<never>): object
  } | null
  /** A state was put back that is not one of its own past. */
  arrived(): void
}

/** How a state is written. */
export interface SaveOptions<B> {
  /** What is to be kept of a body's `data`: anything that JSON can hold. Default: nothing is. */
  data?: ((body: B) => unknown) | undefined
}

/** How a state is read: what makes `data` of a body from what was kept of it. */
export type Revive = (saved: unknown, name: string | null) => unknown

/** What the header of a save says: what a world must be made with to take it, and a little of what is in it. */
export interface SaveHeader {
  /** What a world must be made with. */
  readonly world: {
    /** 2 or 3. */
    readonly dimension: 2 | 3
    /** Ticks a second. */
    readonly rate: number
    /** The user's lengths to a metre. */
    readonly unit: number
    /** False for worlds of the entries without forces. */
    readonly forces: boolean
  }
  /** The names of the layers, in their order. */
  readonly layers: readonly string[]
  /** The tags, in their order. */
  readonly tags: readonly string[]
  /** Ticks that the world had made. */
  readonly tick: number
  /** Simulated seconds. */
  readonly time: number
  /** Living bodies. */
  readonly bodies: number
  /** Whether any body has used `travel`. */
  readonly travel: boolean
}

/**
 * What a save says of itself, without a world: what one must be made with to take it, the tick, the number of bodies.
 * @param bytes as `world.save()` gave them; they are checked as a whole
 * @throws KeenError `bad-save`, `bad-argument`
 */
export function saveHeader(bytes: Uint8Array): SaveHeader {
  if (!(bytes instanceof Uint8Array)) throw new KeenError('bad-argument', `saveHeader takes bytes, got ${show(bytes)}`)
  return readHeader(bytes).header
}

const ANYBODY: Side = { kind: STAR, bits: -1, tag: -1, handle: null, slot: -1, text: '*' }

/** A shape of either dimension, which is made of nothing but values. */
export function isShape(value: unknown): value is object {
  return typeof value === 'object' && value !== null && 'dimension' in value && 'pieces' in value
}

/** Shapes as all that they are: to the bit, and whatever made them. */
export const shapeSort: Sort<object> = {
  plain: true,
  is: isShape,
  take: (shape) => Object.entries(shape).flat(),
  make: (fields: readonly unknown[]) => {
    const shape: Record<string, unknown> = {}
    for (let i = 0; i < fields.length; i += 2) shape[String(fields[i])] = fields[i + 1]
    return Object.freeze(shape)
  },
  alike: true,
}

/** Handles by their age, for as long as the user has them: so that what was removed comes back under the handle that it had. */
class Known<H extends object> {
  private readonly byAge = new Map<number, WeakRef<H>>()

  note(handles: readonly (H | null)[], ageOf: (handle: H) => number): void {
    for (const [age, ref] of this.byAge) if (ref.deref() === undefined) this.byAge.delete(age)
    for (const handle of handles)
      if (handle !== null && this.find(ageOf(handle)) !== handle) this.byAge.set(ageOf(handle), new WeakRef(handle))
  }

  find(age: number): H | undefined {
    return this.byAge.get(age)?.deref()
  }
}

/** Puts back what was read, and does not trust it. */
class Loader extends Restorer {
  override readonly portable = true
  private readonly read: Snapshot
  private readonly taken = [0, 0, 0]

  constructor(read: Snapshot) {
    super(read)
    this.read = read
  }

  override number(value: number): number {
    this.next(0)
    return super.number(value)
  }

  override flag(value: boolean): boolean {
    this.next(0)
    return super.flag(value)
  }

  override numbers<A extends Numbers>(data: A): A {
    this.next(1)
    if (this.read.arrays[this.taken[1] - 1].constructor !== data.constructor)
      throw new Damage('numbers of another sort')
    return super.numbers(data)
  }

  override object<T>(value: T): T {
    this.next(2)
    return super.object(value)
  }

  override objects<T>(list: T[]): T[] {
    this.next(2)
    if (!Array.isArray(this.read.things[this.taken[2] - 1])) throw new Damage('no list')
    return super.objects(list)
  }

  override copy<T>(copy: () => T, put: (kept: T) => void): void {
    this.next(2)
    super.copy(copy, put)
  }

  /** All must have been used. */
  end(): void {
    this.lists.forEach((list, which) => {
      if (this.taken[which] !== list.length) throw new Damage('there is more than belongs there')
    })
  }

  private get lists(): readonly { readonly length: number }[] {
    return [this.read.single, this.read.arrays, this.read.things]
  }

  private next(which: number): void {
    if (this.taken[which]++ >= this.lists[which].length) throw new Damage('something is missing')
  }
}

/** Writes and reads the states of a world. */
export class Saver<B extends object = object> {
  private readonly host: SaveHost
  private readonly dimension: number
  private readonly ownSorts: readonly Sort[]
  private readonly bodies = new Known<Body>()
  private readonly colliders = new Known<SavedCollider>()
  private readonly joints = new Known<Joint>()

  /** @param sorts the things that only a dimension has */
  constructor(host: object, dimension: number, sorts: readonly Sort[]) {
    this.host = host as SaveHost
    this.dimension = dimension
    this.ownSorts = sorts
  }

  save(options: SaveOptions<B>): Uint8Array {
    const { host } = this
    const { population, tags } = host
    const state = new Snapshot()
    const keeper = new Keeper(state, true)
    host.visitState(keeper)
    keeper.end()
    this.note()
    const data = new Map<number, string>()
    if (options.data !== undefined) {
      for (const body of population.bodyHandles) {
        if (body === null || !body.alive) continue
        const kept = options.data(body as unknown as B)
        if (kept !== undefined) data.set(body.slot, textOf(kept, body))
      }
    }
    const { world, layers } = this.likeness()
    const header: SaveHeader = {
      world: world as SaveHeader['world'],
      layers,
      tags: tags.all,
      tick: state.single[0],
      time: state.single[0] / Number(world['rate']),
      bodies: population.bodies.count,
      travel: host.hasTraveller,
    }
    const out = new ByteWriter(this.sorts())
    const text = asciiOf(JSON.stringify(header))
    out.ascii(MAGIC)
    out.word(SAVE_VERSION)
    // The whole length is not known yet.
    out.word(0)
    out.word(text.length)
    out.ascii(text)
    out.value(tags.setsNow())
    out.value(data)
    // In the order in which they are needed: handles name others.
    out.word(state.single.length)
    for (const each of state.single) out.double(each)
    out.word(state.arrays.length)
    for (const each of state.arrays) out.numbers(each)
    out.word(state.things.length)
    for (const each of state.things) out.value(each)
    const bytes = new Uint8Array(out.length + CHECKSUM)
    bytes.set(out.take())
    const view = new DataView(bytes.buffer)
    view.setInt32(MAGIC.length + 4, bytes.length, true)
    checksum(bytes).forEach((lane, i) => {
      view.setInt32(out.length + 4 * i, lane, true)
    })
    return bytes
  }

  /**
   * @param heard is called when all has been read and found right, before the world changes
   */
  restore(bytes: Uint8Array, revive: Revive | undefined, heard: () => void): void {
    const { host } = this
    const { header, at } = readHeader(bytes)
    const bodies = new Map<number, Body>()
    this.compare(header)
    // What was not there when it was saved is found empty, but columns must be there.
    if (header.travel) host.needTraveller()
    let sets: readonly (readonly number[])[]
    let data: ReadonlyMap<number, string>
    const state = new Snapshot()
    try {
      const from = new ByteReader(bytes, at, bytes.length - CHECKSUM, this.sorts(bodies))
      sets = from.value() as never
      data = from.value() as never
      for (let left = from.count(8); left > 0; left--) state.single.push(from.double())
      for (let left = from.count(9); left > 0; left--) state.arrays.push(from.numbers())
      for (let left = from.count(1); left > 0; left--) state.things.push(from.value())
      if (!from.isDone || !Array.isArray(sets) || !(data instanceof Map)) throw new Damage('there is more')
    } catch (error) {
      throw damaged(error)
    }
    const values = new Map<number, unknown>()
    if (revive !== undefined) {
      for (const [slot, text] of data) values.set(slot, revive(JSON.parse(text), bodies.get(slot)?.name ?? null))
    }
    const before = host.snapshot()
    heard()
    try {
      const loader = new Loader(state)
      host.visitState(loader)
      loader.end()
      const numbers = host.tags.adopt(sets)
      const { tagSet } = host.population
      for (let c = 0; c < tagSet.data.length; c++) tagSet.data[c] = numbers[tagSet.data[c]] ?? 0
    } catch (error) {
      host.visitState(new Restorer(before))
      throw damaged(error)
    }
    for (const [slot, value] of values) host.population.bodyHandles[slot]!.data = value
    this.note()
    host.arrived()
  }

  /** From now on these come back under their handles. */
  private note(): void {
    const { population, jointsNow } = this.host
    this.bodies.note(population.bodyHandles, (body) => body.serial)
    this.colliders.note(population.handles.all(), (collider) => collider.serial)
    this.joints.note((jointsNow?.book.handles ?? []) as (Joint | null)[], (joint) => joint.serial)
  }

  /** What a world must be like to take over a state of this one. */
  private likeness(): { readonly world: Readonly<Record<string, unknown>>; readonly layers: readonly string[] } {
    const { host } = this
    return { world: { dimension: this.dimension, ...host.likeness() }, layers: host.layersNow().all }
  }

  private compare(header: SaveHeader): void {
    const { world, layers } = this.likeness()
    for (const key of Object.keys(world)) {
      const saved = (header.world as Readonly<Record<string, unknown>>)[key]
      if (world[key] !== saved) {
        throw bad(`of a world with ${key} ${show(saved)}, and this one has ${key} ${show(world[key])}`)
      }
    }
    for (const [what, own, saved] of [
      ['layers', layers, header.layers],
      ['tags', this.host.tags.all, header.tags],
    ] as const) {
      if (own.length === saved.length && own.every((name, i) => name === saved[i])) continue
      const [mine, theirs] = [own, saved].map((names) => names.join(', ') || 'none')
      throw bad(`of a world with the ${what} ${theirs}, and this one has ${mine}`)
    }
  }

  /**
   * What has an identity.
   * @param read is filled with the bodies that are read, by their slots
   */
  private sorts(read?: Map<number, Body>): readonly Sort[] {
    const { host, bodies, colliders, joints } = this
    const { population } = host
    const { jointsNow: held } = host
    const jointHandles = new Set<unknown>(held?.book.handles)
    jointHandles.delete(null)
    const body: Sort<Body> = {
      is: (value): value is Body => value instanceof BodyHandle,
      take: ({ slot, serial, name }) => [slot, serial, name],
      make: ([slot, serial, name]: [number, number, string | null]) => {
        const same = (each: Body | null | undefined): boolean =>
          each?.slot === slot && each.serial === serial && each.name === name
        let made = [population.bodyHandles[slot], bodies.find(serial)].find(same)
        if (!made) {
          made = host.makeBody(slot, name)
          made.reborn(serial)
        }
        read?.set(slot, made)
        return made
      },
    }
    const collider: Sort<SavedCollider> = {
      is: (value): value is SavedCollider => value instanceof ColliderHandle,
      take: (each) => {
        const { shape, place } = each.madeOf()
        return [each.slot, each.serial, each.body, place, shape]
      },
      make: ([slot, serial, owner, place, shape]: [number, number, Body, object, object]) => {
        const same = (each: SavedCollider | null | undefined): boolean =>
          each?.slot === slot &&
          each.serial === serial &&
          each.body === owner &&
          JSON.stringify(each.madeOf().place) === JSON.stringify(place)
        const here = [population.handles.known(slot), colliders.find(serial)].find(same)
        if (here) return here
        const made = host.makeCollider(slot, owner, shape, place)
        made.reborn(serial)
        return made
      },
    }
    const joint: Sort<Joint> = {
      is: (value): value is Joint => jointHandles.has(value),
      take: ({ slot, serial, type, a, b, name }) => [slot, serial, type, a, b, name],
      make: ([slot, serial, type, a, b, name]: [number, number, Joint['type'], Body, Body | null, string | null]) => {
        const same = (each: Joint | null | undefined): boolean =>
          each?.slot === slot && each.serial === serial && each.type === type && each.a === a && each.b === b
        const here = [held?.book.handles[slot] as Joint | null | undefined, joints.find(serial)].find(same)
        if (here) return here
        if (held === null) throw new Damage('joints, where there are none')
        return held.makeHandle(slot, serial, { type, a, b, name, end: undefined } as never) as Joint
      },
    }
    const watch = this.byOrder<Watch>(
      (value) => value instanceof Watch,
      [...host.watches],
      (each) => each.sign,
      (sign) => {
        const per = sign.includes('\ntrue ') ? 'collider' : 'body'
        const spec = {
          id: 0,
          first: ANYBODY,
          second: ANYBODY,
          handlers: {},
          options: { key: 'of a save', per } as const,
        }
        const made = new Watch(host as never, spec)
        made.dropped = true
        return made
      },
    )
    const hook = this.byOrder<Hook<object, object, object>>(
      (value): value is Hook<object, object, object> => value instanceof Hook,
      host.hooks,
      (each) => `${each.key}\n${each.first.text}\n${each.second.text}\n${each.everyTick}`,
      () =>
        new Hook<object, object, object>(
          ANYBODY,
          ANYBODY,
          () => 'solid',
          {},
          () => {},
        ),
    )
    const layers: Sort<Layers> = {
      is: (value) => value instanceof Layers,
      take: (table) => table.words(),
      make: ([solid, sense]: [Int32Array, Int32Array]) => {
        const { all } = host.layersNow()
        if (solid?.length !== all.length || sense?.length !== all.length) throw new Damage('another pair table')
        return new Layers(all, solid, sense)
      },
    }
    return [body, collider, joint, watch, hook, layers, ...this.ownSorts] as readonly Sort[]
  }

  /** Things that are code, found again by what they are called, those of one name in their order. */
  private byOrder<T>(
    is: (value: unknown) => value is T,
    own: readonly T[],
    signOf: (each: T) => string,
    standIn: (sign: string) => T,
  ): Sort<T> {
    const left = [...own]
    return {
      is,
      take: signOf,
      make: (sign: string) => {
        const at = left.findIndex((each) => signOf(each) === sign)
        return at < 0 ? standIn(sign) : left.splice(at, 1)[0]
      },
    }
  }
}

function readHeader(bytes: Uint8Array): { header: SaveHeader; at: number } {
  const head = bytes.length < FIXED + CHECKSUM ? '' : String.fromCharCode(...bytes.subarray(0, MAGIC.length))
  if (head !== MAGIC) throw bad('no save: it does not begin as the bytes of world.save() do')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const version = view.getInt32(MAGIC.length, true)
  const length = view.getInt32(MAGIC.length + 4, true)
  if (version !== SAVE_VERSION) {
    throw bad(`of version ${version} of the format, and this library reads version ${SAVE_VERSION}`)
  }
  if (length !== bytes.length) throw bad(`damaged: it should have ${length} bytes, and has ${bytes.length}`)
  const sum = checksum(bytes)
  if (sum.some((lane, i) => view.getInt32(bytes.length - CHECKSUM + 4 * i, true) !== lane)) {
    throw bad('damaged: its checksum is another one')
  }
  try {
    const from = new ByteReader(bytes, MAGIC.length + 8, bytes.length - CHECKSUM, [])
    const size = from.count(1)
    const header = JSON.parse(from.ascii(size)) as SaveHeader
    if (!Array.isArray(header.layers) || !Array.isArray(header.tags)) throw new Damage('no header')
    return { header: { ...header, world: Object(header.world) as SaveHeader['world'] }, at: FIXED + size }
  } catch (error) {
    throw damaged(error)
  }
}

/** Two words of all bytes before the last eight. */
function checksum(bytes: Uint8Array): readonly [number, number] {
  const hash = new Hash()
  const end = bytes.length - CHECKSUM
  let at = 0
  for (; at + 4 <= end; at += 4)
    hash.word(bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24))
  for (; at < end; at++) hash.word(bytes[at])
  return hash.lanes()
}

/** JSON in which every code is one of a byte. */
function asciiOf(json: string): string {
  return json.replace(/[\u0080-\uffff]/g, (each) => `\\u${each.charCodeAt(0).toString(16).padStart(4, '0')}`)
}

function textOf(kept: unknown, body: Body): string {
  let text: string | undefined
  try {
    text = JSON.stringify(kept)
  } catch (error) {
    throw new KeenError('bad-argument', `'data' of save: what it gives of ${body} is no JSON`, { cause: error })
  }
  if (text === undefined) throw new KeenError('bad-argument', `'data' of save: ${show(kept)} of ${body} is no JSON`)
  return text
}

function bad(what: string): KeenError {
  return new KeenError('bad-save', `what is restored is ${what}`)
}

/** What was read is not what a world writes, though its checksum is right. */
function damaged(error: unknown): KeenError {
  if (error instanceof KeenError && error.code === 'bad-save') return error
  return new KeenError('bad-save', 'what is restored is damaged: what it says does not go together', { cause: error })
}
