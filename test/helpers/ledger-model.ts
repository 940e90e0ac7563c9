/**
 * The model of the ledger, of no dimension: random worlds under random operations, inside callbacks and outside, against a
 * naive account of who meets whom. Begin and end must come strictly in turn for every watch, and what was told must be what
 * the shapes and the filter say. A stage brings the dimension: its world, its random places, and the gap of two shapes.
 */
import assert from 'node:assert/strict'
import type { KindsOf, Watch, WatchEvent } from '../../src/core/index.ts'
import type { BodyHandle, ColliderHandle } from '../../src/core/state/handle.ts'
import type { WorldCore } from '../../src/core/world.ts'
import { checkBooks } from './invariants.ts'
import type { Random } from './random.ts'

export const NAMES = ['rock', 'craft', 'zone', 'shot'] as const
export const PAIRS = [
  ['zone', '*', 'sense'],
  ['shot', 'shot', 'pass'],
  ['shot', 'craft', 'sense'],
] as const
type Layer = (typeof NAMES)[number]
export type Modelled = KindsOf<Layer, 'lamp', unknown>

type BodyOf<C> = BodyHandle<Modelled, C> & {
  overlapping(): readonly { readonly mine: C; readonly other: C; readonly response: string }[]
  touching(): readonly { readonly mine: C; readonly other: C }[]
}

/** What a dimension owes the model. */
export interface Stage<B extends BodyOf<C>, C extends ColliderHandle<Modelled, B>, V extends object> {
  readonly world: WorldCore<Modelled, B, C, V>
  readonly random: Random
  /** Whether some bodies are moved by forces. */
  readonly dynamic: boolean
  /** Operations of its own, numbered from 0. */
  readonly own: number
  /** Gaps nearer than this to a limit can go either way by rounding; the model then follows the library. */
  readonly doubt: number
  add(): B
  attach(body: B): void
  teleport(body: B): void
  /** Sends a kinematic body somewhere, or gives it a velocity; with a spin. */
  move(body: B): void
  reshape(collider: C): void
  operate(body: B, which: number): void
  /** Metres between two colliders, below 0 where they overlap: found by another way than the library's. */
  gap(a: C, b: C): number
  length(vector: V): number
}

const TOUCH = 0.001

type Side<B, C> = Layer | '*' | Layer[] | B | C | { tag: 'lamp' }

/** A decide hook whose answers are random: of the pairs that it speaks of the model follows the library. */
interface Hooked<B, C> {
  hook: { stop(): void }
  first: Side<B, C>
  second: Side<B, C>
}

interface Follower<B extends BodyOf<C>, C extends ColliderHandle<Modelled, B>, V extends object> {
  watch: Watch<B, C, V>
  first: Side<B, C>
  second: Side<B, C>
  perCollider: boolean
  response: 'solid' | 'sense' | undefined
  /** Keys of what was told and not ended. */
  told: Set<string>
}

/** Two colliders that meet; not certain where rounding decides. */
interface Meeting<C> {
  a: C
  b: C
  certain: boolean
}

export class LedgerModel<B extends BodyOf<C>, C extends ColliderHandle<Modelled, B>, V extends object> {
  readonly followers: Follower<B, C, V>[] = []
  private hooks: Hooked<B, C>[] = []
  /** Pairs of colliders to which a hook may have given an answer that is kept. */
  private readonly answered = new Set<string>()
  private readonly stage: Stage<B, C, V>
  private readonly random: Random
  private readonly world: WorldCore<Modelled, B, C, V>
  /** Pairs of colliders that are held solid, for the width of the verdict. */
  private held = new Set<string>()
  private expected: Map<Follower<B, C, V>, Meeting<C>[]> | null = null
  /** What the filter said of each pair of colliders when the tick had ended, and which met for certain. */
  private responses = new Map<string, string>()
  crossings = 0
  bounces = 0
  solidCrossings = 0
  /** Told in this step, for the check of `during`. */
  private lately = new Set<string>()
  events = 0
  operations = 0

  constructor(stage: Stage<B, C, V>) {
    this.stage = stage
    this.random = stage.random
    this.world = stage.world
    for (let i = 0; i < 8; i++) stage.add()
    for (let i = 0; i < 4; i++) this.watch()
  }

  run(steps: number): void {
    for (let i = 0; i < steps; i++) {
      const count = this.random.below(4)
      for (let k = 0; k < count; k++) this.operate()
      this.step()
    }
  }

  private step(): void {
    this.expected = null
    this.lately.clear()
    this.world.step()
    checkBooks(this.world)
    this.expected ??= this.account()
    for (const follower of this.followers) {
      if (follower.watch.stopped) continue
      const meetings = this.expected.get(follower)
      // Made in a callback of this step: it hears from the next one on.
      if (meetings === undefined) {
        assert.equal(follower.told.size, 0)
        continue
      }
      // What callbacks removed counts no more: its begin is dropped, or its end is told.
      const account = new Map<string, boolean>()
      for (const { a, b, certain } of meetings) {
        if (!a.alive || !b.alive) continue
        const key = this.key(follower, a, b)
        account.set(key, certain || account.get(key) === true)
      }
      for (const [key, certain] of account) {
        if (certain) assert.ok(follower.told.has(key), `${follower.watch.key} has not told ${key}`)
      }
      for (const key of follower.told) assert.ok(account.has(key), `${follower.watch.key} still holds ${key}`)
      assert.equal(follower.watch.count, follower.told.size)
      const listed = follower.watch.pairs().map((pair) => this.key(follower, pair.aCollider, pair.bCollider))
      assert.deepEqual([...listed].sort(), [...follower.told].sort())
    }
    this.checkOverlapping()
  }

  /** Who meets whom for each watch, at the end poses and before callbacks change anything. */
  private account(): Map<Follower<B, C, V>, Meeting<C>[]> {
    const colliders = this.world.bodies().flatMap((body) => body.colliders)
    const meeting: [C, C, 'solid' | 'sense', boolean][] = []
    const { doubt } = this.stage
    const ends = this.world.events().filter((event) => event.joint !== null)
    const broken = ends.filter(({ cause }) => cause === 'broken').map(({ joint }) => joint as unknown as Joint)
    this.responses.clear()
    const held = new Set<string>()
    for (const [index, a] of colliders.entries()) {
      for (const b of colliders.slice(index + 1)) {
        const response = respond(a, b, broken)
        if (response === 'pass') continue
        const key = [a.serial, b.serial].sort((x, y) => x - y).join('-')
        const gap = this.stage.gap(a, b)
        if (this.answered.has(key) || this.hooks.some((each) => speaksOf(each, a, b))) {
          const touching = a.body.touching().some((touch) => touch.mine === a && touch.other === b)
          const near = touching || gap <= 2 * TOUCH + doubt
          // An answer is kept until they part, even where the hook speaks of them no more.
          if (near) this.answered.add(key)
          else this.answered.delete(key)
          if (near) for (const any of ['solid', 'sense'] as const) meeting.push([a, b, any, false])
          this.responses.set(key, response)
          continue
        }
        const limit = response === 'sense' ? 0 : this.held.has(key) ? 2 * TOUCH : TOUCH
        if (response === 'solid' && (a.body.type === 'dynamic' || b.body.type === 'dynamic')) {
          // What was pressed in this tick touches, wherever it is by now.
          const touching = a.body.touching().some((touch) => touch.mine === a && touch.other === b)
          this.responses.set(key, gap <= TOUCH - doubt ? 'solid, met' : 'solid')
          if (gap > TOUCH - doubt && !touching) continue
          meeting.push([a, b, response, gap <= TOUCH - doubt])
          if (touching) held.add(key)
          continue
        }
        const certain = Math.abs(gap - limit) > doubt
        this.responses.set(key, gap <= limit && certain ? `${response}, met` : response)
        if (gap > limit && certain) continue
        meeting.push([a, b, response, certain])
        // What nobody watches is not on the books, and begins anew when somebody does.
        if (response === 'solid' && this.isFollowed(a, b)) held.add(key)
      }
    }
    this.held = held
    const all = new Map<Follower<B, C, V>, Meeting<C>[]>()
    for (const follower of this.followers) {
      if (follower.watch.stopped) continue
      const meetings: Meeting<C>[] = []
      for (const [a, b, response, certain] of meeting) {
        if (follower.response !== undefined && follower.response !== response) continue
        if (speaksOf(follower, a, b)) meetings.push({ a, b, certain })
      }
      all.set(follower, meetings)
    }
    return all
  }

  /** Whether any watch hears of a solid pair. */
  private isFollowed(a: C, b: C): boolean {
    return this.followers.some((each) => !each.watch.stopped && each.response !== 'sense' && speaksOf(each, a, b))
  }

  private key(follower: Follower<B, C, V>, a: C, b: C): string {
    const [one, other] = follower.perCollider ? [a.serial, b.serial] : [a.body.serial, b.body.serial]
    return one < other ? `${one}-${other}` : `${other}-${one}`
  }

  private hear(follower: Follower<B, C, V>, event: WatchEvent<B, C, V>): void {
    this.events++
    this.expected ??= this.account()
    const key = this.key(follower, event.aCollider, event.bCollider)
    const tag = `${this.followers.indexOf(follower)} (${follower.watch.key}) ${key}`
    assert.equal(event.watch, follower.watch)
    assert.equal(event.a, event.aCollider.body)
    assert.equal(event.b, event.bCollider.body)
    assert.ok(event.when >= 0 && event.when <= 1, `when is ${event.when}`)
    assert.ok(event.dwell >= 0)
    if (event.normal !== null)
      assert.ok(Math.abs(this.stage.length(event.normal) - 1) < 1e-9, 'a normal that is not unit')
    assert.equal(event.normal !== null, event.response === 'solid')
    if (event.kind === 'begin' && event.cause === 'bounced') {
      this.bounces++
      assert.equal(event.response, 'solid')
    }
    if (event.response === 'solid' && event.kind !== 'end') {
      assert.ok(event.impulse >= 0 && event.friction >= 0 && event.closingSpeed >= 0, `strengths of ${tag}`)
      assert.ok(Number.isFinite(event.impulse + event.friction + event.closingSpeed), `wild strengths of ${tag}`)
    }
    if (event.kind === 'begin' && event.cause === 'crossed') {
      this.crossings++
      const pair = [event.aCollider.serial, event.bCollider.serial].sort((x, y) => x - y).join('-')
      const pressed = [event.a, event.b].some((body) => body.type === 'dynamic')
      // Of two bodies one pair can have crossed and another, that speaks for them, have bounced: the first cause is told.
      const bounced = pressed && !follower.perCollider && this.responses.get(pair) === 'solid'
      const response = this.responses.get(pair)
      assert.ok(
        bounced || response === 'sense' || (response === 'solid' && !pressed),
        `crossed is told of what met at neither end, and what nobody presses apart, not of ${response}`,
      )
      if (response === 'solid' && !pressed) this.solidCrossings++
    }
    if (event.kind === 'begin') {
      assert.ok(!follower.told.has(key), `second begin of ${tag}`)
      assert.equal(event.dwell, 0)
      assert.ok(event.a.alive && event.b.alive, 'a begin of what is gone')
      assert.ok(matches(follower.first, event.aCollider) || event.aCollider.layerBits !== 0)
      follower.told.add(key)
      this.lately.add(tag)
    } else if (event.kind === 'end') {
      assert.ok(follower.told.has(key), `end without begin of ${tag}`)
      follower.told.delete(key)
    } else {
      assert.ok(follower.told.has(key), `during without begin of ${tag}`)
      assert.ok(!this.lately.has(tag), `during in the tick of the begin of ${tag}`)
    }
    if (event.kind !== 'during') {
      const gone = !event.a.alive || !event.b.alive || !event.aCollider.alive || !event.bCollider.alive
      if (event.cause === 'removed') assert.ok(gone, 'cause removed, but both live')
      if (event.kind === 'end' && (!event.a.alive || !event.b.alive)) assert.equal(event.cause, 'removed')
    }
    if (this.random.chance(0.08)) {
      if (this.random.chance(0.05)) assert.throws(() => this.world.step(), { code: 'step-in-callback' })
      this.operate()
    }
  }

  /** `overlapping()` asks afresh: it must agree with the shapes and the filter as they stand. */
  private checkOverlapping(): void {
    const bodies = this.world.bodies()
    if (bodies.length === 0) return
    const body = this.random.pick(bodies)
    const found = new Set(body.overlapping().map((each) => `${each.mine.serial}-${each.other.serial}-${each.response}`))
    for (const mine of body.colliders) {
      for (const other of bodies.flatMap((each) => each.colliders)) {
        const response = respond(mine, other, [])
        if (response === 'pass') continue
        const gap = this.stage.gap(mine, other)
        if (Math.abs(gap) < this.stage.doubt) continue
        assert.equal(found.has(`${mine.serial}-${other.serial}-${response}`), gap < 0)
      }
    }
  }

  private operate(): void {
    this.operations++
    const { random, world } = this
    const bodies = world.bodies()
    const body = bodies.length > 0 ? random.pick(bodies) : null
    const collider = body !== null && body.colliders.length > 0 ? random.pick(body.colliders) : null
    const { stage } = this
    const what = random.below(24 + stage.own)
    if (body === null || what === 0) {
      if (bodies.length < 14) stage.add()
    } else if (what === 1) body.remove()
    else if (what <= 4) stage.teleport(body)
    else if (what === 5) body.enabled = !body.enabled
    else if (what === 6) this.watch()
    else if (what === 7) this.stop()
    else if (what === 8) world.setPair(random.pick(NAMES), random.pick(NAMES), random.pick(['solid', 'sense', 'pass']))
    else if (what === 9 && body.colliders.length < 4) stage.attach(body)
    else if (what === 23) this.decide()
    else if (what >= 24) stage.operate(body, what - 24)
    else if (what === 20) this.ignore(body, random.pick(bodies))
    else if (collider === null) return
    else if (what === 21) stage.reshape(collider)
    else if (what === 22) {
      const other = random.pick(bodies)
      if (other.colliders.length > 0) this.ignore<ColliderHandle<Modelled, B>>(collider, random.pick(other.colliders))
    } else if (what === 10) collider.enabled = !collider.enabled
    else if (what === 11) collider.sensor = !collider.sensor
    else if (what === 12)
      collider.layer = random.chance(0.3) ? [random.pick(NAMES), random.pick(NAMES)] : random.pick(NAMES)
    else if (what === 13) collider.solidBits = random.below(16)
    else if (what === 14) collider.senseBits = random.below(16)
    else if (what === 15 && body.colliders.length > 1) collider.remove()
    else if (body.type === 'kinematic') stage.move(body)
  }

  /** Lets two bodies or two colliders ignore each other, or takes it back. */
  private ignore<T extends { ignore(o: T): void; unignore(o: T): void; ignores(o: T): boolean }>(
    one: T,
    other: T,
  ): void {
    if (one === other) return
    if (one.ignores(other)) other.unignore(one)
    else one.ignore(other)
  }

  private side(): Side<B, C> {
    const { random, world } = this
    const bodies = world.bodies()
    const what = random.below(7)
    if (what === 0) return '*'
    if (what === 1) return { tag: 'lamp' }
    if (what === 2 && bodies.length > 0) return random.pick(bodies)
    if (what === 3 && bodies.length > 0) {
      const { colliders } = random.pick(bodies)
      if (colliders.length > 0) return random.pick(colliders)
    }
    if (what === 4) return [random.pick(NAMES), random.pick(NAMES)]
    return random.pick(NAMES)
  }

  private watch(): void {
    if (this.followers.filter((each) => !each.watch.stopped).length >= 6) return
    const { random } = this
    const first = this.side()
    const second = this.side()
    const perCollider = random.chance(0.3)
    const response = random.chance(0.3) ? random.pick(['solid', 'sense'] as const) : undefined
    const follower = { first, second, perCollider, response, told: new Set<string>() } as Follower<B, C, V>
    const hear = (event: WatchEvent<B, C, V>): void => this.hear(follower, event)
    const handlers = { begin: hear, end: hear, ...(random.chance(0.5) ? { during: hear } : {}) }
    follower.watch = this.world.watch(first, second, handlers, { per: perCollider ? 'collider' : 'body', response })
    this.followers.push(follower)
  }

  /** Takes a hook back, or makes one whose answers keep changing. */
  private decide(): void {
    const { random } = this
    if (this.hooks.length > 1) {
      this.hooks.shift()!.hook.stop()
      return
    }
    const first = this.side()
    const second = this.side()
    const answers = ['pass', 'sense', 'solid'] as const
    const hook = this.world.decide(
      first,
      second,
      ({ response }) => random.pick(response === 'solid' ? answers : answers.slice(0, 2)),
      { ask: random.pick(['touch', 'tick']) },
    )
    this.hooks.push({ hook, first, second })
  }

  private stop(): void {
    const live = this.followers.filter((each) => !each.watch.stopped)
    if (live.length < 2) return
    const follower = this.random.pick(live)
    follower.watch.stop()
    follower.told.clear()
  }
}

function speaksOf<B, C extends ColliderHandle<Modelled, BodyHandle<Modelled, unknown>>>(
  { first, second }: { readonly first: Side<B, C>; readonly second: Side<B, C> },
  a: C,
  b: C,
): boolean {
  return (matches(first, a) && matches(second, b)) || (matches(first, b) && matches(second, a))
}

function matches<B, C extends ColliderHandle<Modelled, BodyHandle<Modelled, unknown>>>(
  side: Side<B, C>,
  collider: C,
): boolean {
  if (side === '*') return true
  const layers = ([] as string[]).concat(collider.layer as string | string[])
  if (typeof side === 'string') return layers.includes(side)
  if (Array.isArray(side)) return side.some((layer) => layers.includes(layer))
  if ('tag' in (side as object)) return collider.tags.includes((side as { tag: 'lamp' }).tag)
  return (side as unknown) === collider || (side as unknown) === collider.body
}

interface Joint {
  readonly a: unknown
  readonly b: unknown
  readonly touching: boolean
}

/** Whether a joint keeps two bodies from touching; one that broke in this tick, to its end. */
function joined(one: object, other: object, broken: readonly Joint[]): boolean {
  const joints = [...(one as { joints(): readonly Joint[] }).joints(), ...broken]
  return joints.some(({ a, b, touching }) => !touching && (a === other || b === other) && (a === one || b === one))
}

/** The rule of section "response", written again from the public words. */
function respond<C extends ColliderHandle<Modelled, BodyHandle<Modelled, unknown>>>(
  a: C,
  b: C,
  broken: readonly Joint[],
): 'solid' | 'sense' | 'pass' {
  if (a.body === b.body || (a.body.type === 'static' && b.body.type === 'static')) return 'pass'
  for (const each of [a, b]) if (!each.enabled || !each.body.enabled || !each.alive || !each.body.alive) return 'pass'
  if (a.ignores(b) || a.body.ignores(b.body) || joined(a.body, b.body, broken)) return 'pass'
  const press = (c: C): number => (c.sensor ? 0 : c.solidBits)
  if ((a.layerBits & press(b)) !== 0 && (b.layerBits & press(a)) !== 0) return 'solid'
  const meet = (c: C): number => c.solidBits | c.senseBits
  return (a.layerBits & meet(b)) !== 0 && (b.layerBits & meet(a)) !== 0 ? 'sense' : 'pass'
}
