/** Rooms on servers: none is lost when a server dies, none is run by two, and each arrives as the one that left. */
import assert from 'node:assert/strict'
import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { before, describe, test } from 'node:test'
import { fileURLToPath } from 'node:url'
import { build } from 'esbuild'
import { Redis } from 'ioredis'
import { WebSocket } from 'ws'
import { Host } from '../../examples/rooms/host.ts'
import { Keeper } from '../../examples/rooms/keeper.ts'
import { hasRedis, startRedis } from '../../examples/rooms/redis.ts'
import { type NotedInput, PLAYERS, Room } from '../../examples/rooms/room.ts'
import { MemoryStore, RedisStore } from '../../examples/rooms/store.ts'
import { Random } from '../helpers/random.ts'

const LEASE = 1000
const SAVE_EVERY = 30
const BODIES = 14

/** Lets what was begun come to its end. */
const settle = () => new Promise((resolve) => setImmediate(resolve))

/** What happens to a room if nobody ever dies: from its first tick on, by all inputs that were noted. */
function replayed(id: string, inputs: readonly NotedInput[], tick: number): string {
  const room = Room.create(id, BODIES)
  for (const each of inputs) {
    if (each.tick > tick) break
    while (room.world.tick < each.tick - 1) room.step()
    room.apply(each.input)
  }
  while (room.world.tick < tick) room.step()
  return room.world.hash()
}

test('a thousand times a server dies in the middle: no room is lost, none is another one, none is run twice', async () => {
  const random = new Random(11)
  let deaths = 0
  let handed = 0
  let again = 0
  while (deaths < 1000) {
    const store = new MemoryStore()
    /** All inputs that the store has taken, room by room. */
    const noted = new Map<string, NotedInput[]>()
    const take = store.note.bind(store)
    store.note = async (room, server, input) => {
      const taken = await take(room, server, input)
      if (taken) noted.set(room, [...(noted.get(room) ?? []), input])
      return taken
    }
    const hosts = new Map<Keeper, Host>()
    let born = 0
    const birth = (): Keeper => {
      let host!: Host
      const keeper = new Keeper({
        name: `server ${++born}`,
        store,
        lease: LEASE,
        makeHost: (handlers) => (host = new Host(handlers, SAVE_EVERY)),
        log: (text) => {
          const played = /, (\d+) ticks played again/.exec(text)
          if (played !== null) again = Math.max(again, Number(played[1]))
        },
      })
      hosts.set(keeper, host)
      return keeper
    }
    const first = birth()
    birth()
    for (const room of ['lagoon', 'cave']) assert.ok(await first.create(room, BODIES))
    for (let moment = 0; moment < 240; moment++) {
      store.now += 1000 / 60
      for (const [keeper, host] of hosts) {
        if (random.chance(0.1) && keeper.rooms.length > 0) {
          const room = keeper.rooms[random.below(keeper.rooms.length)]
          const x = random.between(-4, 4)
          keeper.input(room, { player: `player ${random.below(PLAYERS)}`, x, y: random.between(0, 5) })
        }
        host.step()
      }
      await settle()
      if (moment % 15 === 0) for (const keeper of hosts.keys()) await keeper.beat()
      if (random.chance(0.012)) {
        const [keeper] = hosts.keys()
        const room = keeper.rooms[0]
        const to = [...hosts.keys()].at(-1)!
        if (room !== undefined && to !== keeper) {
          await keeper.handOver(room, to.name)
          assert.ok(await to.open(room))
          handed++
        }
      }
      // Dead from one moment to the next: it neither writes nor closes anything.
      if (random.chance(0.04)) {
        const keepers = [...hosts.keys()]
        hosts.delete(keepers[random.below(keepers.length)])
        birth()
        deaths++
      }
    }
    // Whatever was left alone is taken over within a lease.
    store.now += LEASE + 1
    for (const keeper of hosts.keys()) await keeper.beat()
    for (const room of ['lagoon', 'cave']) {
      const running = [...hosts].filter(([keeper]) => keeper.rooms.includes(room))
      assert.equal(running.length, 1, `${room} is run by ${running.length}`)
      const world = running[0][1].worldOf(room)!
      assert.equal(world.hash(), replayed(room, noted.get(room) ?? [], world.tick), `${room} is another one`)
    }
  }
  assert.ok(handed > 20, `only ${handed} were handed over`)
  assert.ok(again > 0 && again <= SAVE_EVERY, `${again} ticks played again`)
})

test('who has lost a lease writes nothing any more, and stops', async () => {
  const store = new MemoryStore()
  const make = (name: string) => {
    let host!: Host
    const makeHost = (handlers: ConstructorParameters<typeof Host>[0]) => (host = new Host(handlers, SAVE_EVERY))
    const keeper = new Keeper({ name, store, lease: LEASE, makeHost })
    return { keeper, host }
  }
  const [slow, other] = [make('slow'), make('other')]
  await slow.keeper.create('lagoon', BODIES)
  assert.equal(await other.keeper.open('lagoon'), false)
  // It hangs for longer than its lease, and wakes up.
  store.now += LEASE + 1
  await other.keeper.beat()
  assert.deepEqual(other.keeper.rooms, ['lagoon'])
  for (let i = 0; i < 2 * SAVE_EVERY; i++) slow.host.step()
  await settle()
  assert.equal((await store.load('lagoon'))!.tick, 0)
  await slow.keeper.beat()
  assert.deepEqual(slow.keeper.rooms, [])
})

test('where the store was away for longer than a lease, rooms go on from where they are, or from where somebody else has brought them', async () => {
  for (const [lost, taken] of [
    [false, false],
    [true, false],
    [false, true],
  ]) {
    let store = new MemoryStore()
    // What is asked of it goes to the one that is there.
    const face = new Proxy({} as MemoryStore, { get: (_, name) => (store as never)[name] })
    const make = (name: string) => {
      let host!: Host
      const makeHost = (handlers: ConstructorParameters<typeof Host>[0]) => (host = new Host(handlers, SAVE_EVERY))
      const bound = Object.fromEntries(
        ['claim', 'renew', 'release', 'save', 'note', 'load', 'rooms'].map((call) => [
          call,
          (...args: never[]) =>
            (face as never as Record<string, (...args: never[]) => unknown>)[call].call(store, ...args),
        ]),
      )
      const keeper = new Keeper({ name, store: bound as never, lease: LEASE, makeHost })
      return { keeper, host }
    }
    const [one, other] = [make('one'), make('other')]
    await one.keeper.create('lagoon', BODIES)
    for (let i = 0; i < 50; i++) one.host.step()
    await settle()
    if (lost) store = new MemoryStore()
    store.now += LEASE + 1
    for (let i = 0; i < 40; i++) one.host.step()
    await settle()
    if (taken) {
      await other.keeper.beat()
      for (let i = 0; i < 40; i++) other.host.step()
      await settle()
      await other.keeper.close()
    }
    const before = one.host.worldOf('lagoon')!.tick
    await one.keeper.beat()
    assert.deepEqual(one.keeper.rooms, ['lagoon'])
    const { tick } = one.host.worldOf('lagoon')!
    if (taken) assert.notEqual(tick, before)
    else assert.equal(tick, before)
    assert.equal((await store.load('lagoon'))!.tick, tick)
  }
})

const noRedis = (): string | false => {
  if (hasRedis()) return false
  if (process.env['CI']) throw new Error("there is no redis-server, and CI must run the servers' tests")
  return 'there is no redis-server (Debian: apt-get install redis-server)'
}

const root = fileURLToPath(new URL('../..', import.meta.url))

describe('with a real Redis, in processes of their own', { skip: noRedis() }, () => {
  // Bundled once from the sources: a process starts in a fifth of the time.
  before(async () => {
    await build({
      absWorkingDir: root,
      entryPoints: ['examples/rooms/server.ts', 'examples/rooms/thread.ts'],
      outdir: 'out/rooms',
      bundle: true,
      platform: 'node',
      format: 'esm',
      external: ['piscina', 'ws', 'ioredis'],
      alias: { 'keen-sentry/2d': './src/2d/index.ts', 'keen-sentry/record': './src/record/index.ts' },
    })
  })

  test('the store does what the one in memory does', async () => {
    const { url, stop } = await startRedis()
    const redis = new Redis(url)
    try {
      const store = new RedisStore(redis)
      const room = Room.create('lagoon', BODIES)
      const bytes = room.world.save()
      assert.equal(await store.load('lagoon'), null)
      assert.equal(await store.save('lagoon', 'one', bytes, 0, room.world.hash()), false)
      assert.equal(await store.claim('lagoon', 'one', 150), true)
      assert.equal(await store.claim('lagoon', 'two', 150), false)
      assert.equal(await store.save('lagoon', 'one', bytes, 0, room.world.hash()), true)
      const input = (tick: number): NotedInput => ({ tick, input: { player: 'player 0', x: 1 / 3, y: 2 } })
      for (const tick of [3, 5, 9]) assert.equal(await store.note('lagoon', 'one', input(tick)), true)
      assert.equal(await store.note('lagoon', 'two', input(9)), false)
      const kept = (await store.load('lagoon'))!
      assert.deepEqual(kept.bytes, bytes)
      assert.deepEqual([kept.tick, kept.hash, kept.inputs], [0, room.world.hash(), [3, 5, 9].map(input)])
      assert.equal(await store.save('lagoon', 'one', bytes, 5, 'x'), true)
      assert.deepEqual((await store.load('lagoon'))!.inputs, [input(9)])
      assert.equal(await store.renew('lagoon', 'one', 150), true)
      assert.equal(await store.release('lagoon', 'one', 'two', 150), true)
      assert.equal(await store.claim('lagoon', 'one', 150), false)
      assert.equal(await store.claim('lagoon', 'two', 50), true)
      await new Promise((resolve) => setTimeout(resolve, 90))
      assert.equal(await store.renew('lagoon', 'two', 150), false)
      assert.equal(await store.claim('lagoon', 'one', 150), true)
      assert.deepEqual(await store.rooms(), ['lagoon'])
    } finally {
      redis.disconnect()
      await stop()
    }
  })

  test('ten times a process is killed, and the next goes on; then one hands over, hash for hash', async () => {
    const { url, stop } = await startRedis()
    const lease = 400
    const logs: string[] = []
    const children: ChildProcess[] = []
    let born = 0
    const birth = async (...more: string[]) => {
      const name = `reef-${++born}`
      const words = ['--name', name, '--redis', url, '--threads', '1', '--lease', String(lease), '--save-every', '30']
      const child = spawn(process.execPath, ['out/rooms/server.js', ...words, '--bodies', '20', ...more], {
        cwd: root,
        stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
      })
      children.push(child)
      child.stdout!.on('data', (data) => logs.push(...String(data).trim().split('\n')))
      const [{ ready }] = (await once(child, 'message')) as [{ ready: number }]
      return { name, child, port: ready }
    }
    const until = async (what: RegExp): Promise<RegExpExecArray> => {
      for (let i = 0; i < 400; i++) {
        const found = logs.map((line) => what.exec(line)).find((match) => match !== null)
        if (found !== undefined) return found
        await new Promise((resolve) => setTimeout(resolve, 25))
      }
      throw new Error(`nothing like ${what} in\n${logs.join('\n')}`)
    }
    const redis = new Redis(url)
    try {
      let now = await birth('--create', 'lagoon')
      for (let deaths = 0; deaths < 10; deaths++) {
        const next = await birth()
        // Somebody plays, and hears what happens.
        const socket = new WebSocket(`ws://127.0.0.1:${now.port}/rooms/lagoon`)
        await once(socket, 'open')
        for (let i = 0; i < 4; i++) {
          socket.send(JSON.stringify({ player: `player ${i}`, x: 1 + deaths, y: 3 }))
          await new Promise((resolve) => setTimeout(resolve, 20))
        }
        now.child.kill('SIGKILL')
        const [, tick, again] = await until(new RegExp(`^${next.name} runs lagoon from tick (\\d+), (\\d+) ticks`))
        assert.ok(Number(again) <= 30 && Number(tick) >= 0)
        socket.terminate()
        now = next
      }
      const kept = (await new RedisStore(redis).load('lagoon'))!
      assert.ok(kept.bytes.length > 1000)
      const last = await birth()
      now.child.send({ handOver: 'lagoon', to: last.name })
      const [, tick, hash] = await until(new RegExp(`^${now.name} hands lagoon over at tick (\\d+), hash (\\w+)`))
      await until(new RegExp(`^${last.name} runs lagoon from tick ${tick}, 0 ticks played again, hash ${hash}$`))
    } finally {
      for (const child of children) child.kill('SIGKILL')
      redis.disconnect()
      await stop()
    }
  })
})
