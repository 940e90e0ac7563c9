/**
 * The model test of the ledger: random worlds under random operations, inside callbacks and outside, against a naive
 * account of who meets whom. Begin and end must come strictly in turn for every watch, and what was told must be what
 * the shapes and the filter say.
 */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  type Body2,
  box,
  type Collider2,
  capsule,
  circle,
  createWorld,
  defineLayers,
  type KindsOf,
  type Shape2,
  type Watch,
  type WatchEvent,
} from '../../src/2d/index.ts'
import { Random } from '../helpers/random.ts'
import { gapOf, placed, type Round } from '../oracle/round.ts'

const NAMES = ['rock', 'craft', 'zone', 'shot'] as const
type Layer = (typeof NAMES)[number]
type K = KindsOf<Layer, 'lamp', unknown>
type Body = Body2<K>
type Collider = Collider2<K>
type Event = WatchEvent<Body, Collider, { x: number; y: number }>
type Side = Layer | '*' | Layer[] | Body | Collider | { tag: 'lamp' }

const TOUCH = 0.001
/** Gaps nearer than this to a limit can go either way by rounding; the model then follows the library. */
const DOUBT = 1e-9

interface Follower {
  watch: Watch<Body, Collider, { x: number; y: number }>
  first: Side
  second: Side
  perCollider: boolean
  response: 'solid' | 'sense' | undefined
  /** Keys of what was told and not ended. */
  told: Set<string>
}

/** Two colliders that meet; not certain where rounding decides. */
interface Meeting {
  a: Collider
  b: Collider
  certain: boolean
}

class Model {
  readonly random: Random
  readonly world = createWorld({
    layers: defineLayers(NAMES, {
      pairs: [
        ['zone', '*', 'sense'],
        ['shot', 'shot', 'pass'],
        ['shot', 'craft', 'sense'],
      ],
    }),
    tags: ['lamp'],
    gravity: { x: 0, y: -2 },
  })
  readonly followers: Follower[] = []
  /** Pairs of colliders that are held solid, for the width of the verdict. */
  private held = new Set<string>()
  private expected: Map<Follower, Meeting[]> | null = null
  /** What the filter said of each pair of colliders when the tick had ended, and which met for certain. */
  private responses = new Map<string, string>()
  crossings = 0
  bounces = 0
  private readonly dynamic: boolean
  /** Told in this step, for the check of `during`. */
  private lately = new Set<string>()
  events = 0
  operations = 0

  /** @param dynamic whether some bodies are moved by forces */
  constructor(seed: number, dynamic: boolean) {
    this.random = new Random(seed)
    this.dynamic = dynamic
    for (let i = 0; i < 8; i++) this.add()
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
  private account(): Map<Follower, Meeting[]> {
    const colliders = this.world.bodies().flatMap((body) => body.colliders)
    const meeting: [Collider, Collider, 'solid' | 'sense', boolean][] = []
    this.responses.clear()
    const held = new Set<string>()
    for (const [index, a] of colliders.entries()) {
      for (const b of colliders.slice(index + 1)) {
        const response = respond(a, b)
        if (response === 'pass') continue
        const key = [a.serial, b.serial].sort((x, y) => x - y).join('-')
        const limit = response === 'sense' ? 0 : this.held.has(key) ? 2 * TOUCH : TOUCH
        const gap = gapOf(round(a), round(b))
        if (response === 'solid' && (a.body.type === 'dynamic' || b.body.type === 'dynamic')) {
          // What was pressed in this tick touches, wherever it is by now.
          const touching = a.body.touching().some((touch) => touch.mine === a && touch.other === b)
          this.responses.set(key, gap <= TOUCH - DOUBT ? 'solid, met' : 'solid')
          if (gap > TOUCH - DOUBT && !touching) continue
          meeting.push([a, b, response, gap <= TOUCH - DOUBT])
          if (touching) held.add(key)
          continue
        }
        const certain = Math.abs(gap - limit) > DOUBT
        this.responses.set(key, gap <= limit && certain ? `${response}, met` : response)
        if (gap > limit && certain) continue
        meeting.push([a, b, response, certain])
        if (response === 'solid') held.add(key)
      }
    }
    this.held = held
    const all = new Map<Follower, Meeting[]>()
    for (const follower of this.followers) {
      if (follower.watch.stopped) continue
      const meetings: Meeting[] = []
      for (const [a, b, response, certain] of meeting) {
        if (follower.response !== undefined && follower.response !== response) continue
        const straight = matches(follower.first, a) && matches(follower.second, b)
        const turned = matches(follower.first, b) && matches(follower.second, a)
        if (straight || turned) meetings.push({ a, b, certain })
      }
      all.set(follower, meetings)
    }
    return all
  }

  private key(follower: Follower, a: Collider, b: Collider): string {
    const [one, other] = follower.perCollider ? [a.serial, b.serial] : [a.body.serial, b.body.serial]
    return one < other ? `${one}-${other}` : `${other}-${one}`
  }

  private hear(follower: Follower, event: Event): void {
    this.events++
    this.expected ??= this.account()
    const key = this.key(follower, event.aCollider, event.bCollider)
    const tag = `${this.followers.indexOf(follower)} (${follower.watch.key}) ${key}`
    assert.equal(event.watch, follower.watch)
    assert.equal(event.a, event.aCollider.body)
    assert.equal(event.b, event.bCollider.body)
    assert.ok(event.when >= 0 && event.when <= 1, `when is ${event.when}`)
    assert.ok(event.dwell >= 0)
    if (event.normal !== null) assert.ok(Math.abs(Math.hypot(event.normal.x, event.normal.y) - 1) < 1e-9)
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
      // Of two bodies one pair can have crossed and another, that speaks for them, have bounced: the first cause is told.
      const bounced = this.dynamic && !follower.perCollider && this.responses.get(pair) === 'solid'
      assert.ok(
        bounced || this.responses.get(pair) === 'sense',
        `crossed is told of what the filter lets sense and what met at neither end, not of ${this.responses.get(pair)}`,
      )
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
        const response = respond(mine, other)
        if (response === 'pass') continue
        const gap = gapOf(round(mine), round(other))
        if (Math.abs(gap) < DOUBT) continue
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
    const what = random.below(this.dynamic ? 26 : 23)
    if (body === null || what === 0) {
      if (bodies.length < 14) this.add()
    } else if (what === 1) body.remove()
    else if (what <= 4) body.teleport({ at: this.place(), angle: random.between(-3, 3) })
    else if (what === 5) body.enabled = !body.enabled
    else if (what === 6) this.watch()
    else if (what === 7) this.stop()
    else if (what === 8) world.setPair(random.pick(NAMES), random.pick(NAMES), random.pick(['solid', 'sense', 'pass']))
    else if (what === 9 && body.colliders.length < 4) this.attach(body)
    else if (what === 23) body.type = random.pick(['static', 'kinematic', 'dynamic'])
    else if (what === 24 && body.type === 'dynamic') {
      body.applyImpulse({ x: random.between(-50, 50), y: random.between(-50, 50) }, this.place())
    } else if (what === 25 && body.type === 'dynamic') {
      if (random.chance(0.5)) body.mass = random.chance(0.5) ? null : random.between(0.1, 9)
      else body.sweep = random.pick(['off', 'statics', 'all'])
    } else if (what === 20) this.ignore(body, random.pick(bodies))
    else if (collider === null) return
    else if (what === 21) collider.shape = this.shape()
    else if (what === 22) {
      const other = random.pick(bodies)
      if (other.colliders.length > 0) this.ignore(collider, random.pick(other.colliders))
    } else if (what === 10) collider.enabled = !collider.enabled
    else if (what === 11) collider.sensor = !collider.sensor
    else if (what === 12)
      collider.layer = random.chance(0.3) ? [random.pick(NAMES), random.pick(NAMES)] : random.pick(NAMES)
    else if (what === 13) collider.solidBits = random.below(16)
    else if (what === 14) collider.senseBits = random.below(16)
    else if (what === 15 && body.colliders.length > 1) collider.remove()
    else if (body.type === 'kinematic') {
      if (random.chance(0.5)) body.velocity = { x: random.between(-20, 20), y: random.between(-20, 20) }
      else body.arriveAt({ at: this.place(), angle: body.angle + random.between(-1, 1) })
      body.spin = random.between(-3, 3)
    }
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

  private place(): { x: number; y: number } {
    return { x: this.random.between(-4, 4), y: this.random.between(-4, 4) }
  }

  private shape(): Shape2 {
    const { random } = this
    const size = (): number => random.between(0.2, 1.6)
    switch (random.below(3)) {
      case 0:
        return circle(size())
      case 1:
        return box(size(), size())
      default:
        return capsule({ x: -size(), y: 0 }, { x: size(), y: 0.1 }, size() / 2)
    }
  }

  private add(): void {
    const { random } = this
    const body = this.world.add({
      type: random.chance(0.35) ? 'static' : this.dynamic && random.chance(0.7) ? 'dynamic' : 'kinematic',
      at: this.place(),
      angle: random.between(-3, 3),
    })
    const count = 1 + random.below(3)
    for (let i = 0; i < count; i++) this.attach(body)
    if (body.type === 'kinematic') body.velocity = { x: random.between(-6, 6), y: random.between(-6, 6) }
  }

  private attach(body: Body): void {
    const { random } = this
    body.attach({
      shape: this.shape(),
      layer: random.pick(NAMES),
      at: { x: random.between(-0.5, 0.5), y: random.between(-0.5, 0.5) },
      angle: random.between(-3, 3),
      tags: random.chance(0.3) ? ['lamp'] : [],
      sensor: random.chance(0.15),
    })
  }

  private side(): Side {
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
    const follower = { first, second, perCollider, response, told: new Set<string>() } as Follower
    const hear = (event: Event): void => this.hear(follower, event)
    const handlers = { begin: hear, end: hear, ...(random.chance(0.5) ? { during: hear } : {}) }
    follower.watch = this.world.watch(first, second, handlers, { per: perCollider ? 'collider' : 'body', response })
    this.followers.push(follower)
  }

  private stop(): void {
    const live = this.followers.filter((each) => !each.watch.stopped)
    if (live.length < 2) return
    const follower = this.random.pick(live)
    follower.watch.stop()
    follower.told.clear()
  }
}

function matches(side: Side, collider: Collider): boolean {
  if (side === '*') return true
  const layers = ([] as string[]).concat(collider.layer as string | string[])
  if (typeof side === 'string') return layers.includes(side)
  if (Array.isArray(side)) return side.some((layer) => layers.includes(layer))
  if ('tag' in side) return collider.tags.includes(side.tag)
  return side === collider || side === collider.body
}

/** The rule of section "response", written again from the public words. */
function respond(a: Collider, b: Collider): 'solid' | 'sense' | 'pass' {
  if (a.body === b.body || (a.body.type === 'static' && b.body.type === 'static')) return 'pass'
  for (const each of [a, b]) if (!each.enabled || !each.body.enabled || !each.alive || !each.body.alive) return 'pass'
  if (a.ignores(b) || a.body.ignores(b.body)) return 'pass'
  const press = (c: Collider): number => (c.sensor ? 0 : c.solidBits)
  if ((a.layerBits & press(b)) !== 0 && (b.layerBits & press(a)) !== 0) return 'solid'
  const meet = (c: Collider): number => c.solidBits | c.senseBits
  return (a.layerBits & meet(b)) !== 0 && (b.layerBits & meet(a)) !== 0 ? 'sense' : 'pass'
}

function round(collider: Collider): Round {
  const { body } = collider
  const inner = placed(collider.shape, collider.at, collider.angle)
  return {
    radius: inner.radius,
    points: inner.points.map((p) => ({
      x: body.at.x + Math.cos(body.angle) * p.x - Math.sin(body.angle) * p.y,
      y: body.at.y + Math.sin(body.angle) * p.x + Math.cos(body.angle) * p.y,
    })),
  }
}

const LONG = process.env['KEEN_LONG'] === '1'

test('every begin gets its end, and what was told is what the shapes and the filter say', () => {
  let operations = 0
  let events = 0
  let crossings = 0
  fc.assert(
    fc.property(fc.integer(), fc.integer({ min: 1, max: 60 }), (seed, steps) => {
      const model = new Model(seed, false)
      model.run(steps)
      operations += model.operations
      events += model.events
      crossings += model.crossings
    }),
    { numRuns: LONG ? 25_000 : 250 },
  )
  assert.ok(operations > (LONG ? 1_000_000 : 5_000), `only ${operations} operations`)
  assert.ok(events > operations / 2, `only ${events} events`)
  assert.ok(crossings > (LONG ? 5000 : 20), `only ${crossings} crossings`)
})

test('the same holds where bodies fall, strike, bounce, sleep and change their type', () => {
  let events = 0
  let bounces = 0
  fc.assert(
    fc.property(fc.integer(), fc.integer({ min: 1, max: 90 }), (seed, steps) => {
      const model = new Model(seed, true)
      model.run(steps)
      events += model.events
      bounces += model.bounces
    }),
    { numRuns: LONG ? 10_000 : 200 },
  )
  assert.ok(events > 2000, `only ${events} events`)
  assert.ok(bounces > 0, `only ${bounces} bounces`)
})
