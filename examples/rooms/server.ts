/**
 * A server of rooms as a process: `npm run rooms -- --name reef-1 --port 8081 --redis redis://127.0.0.1:6379 --create lagoon`. Who connects to `ws://…/rooms/lagoon` hears what happens there as JSON Lines,
 * and sends inputs: `{"player":"player 0","x":1,"y":4}`. Several of them share a Redis: what one leaves, another takes over. Without `--redis` it starts one of its own.
 */
import { createServer } from 'node:http'
import { parseArgs } from 'node:util'
import { Redis } from 'ioredis'
import { type WebSocket, WebSocketServer } from 'ws'
import { Keeper } from './keeper.ts'
import { PoolHost } from './pool.ts'
import { startRedis } from './redis.ts'
import type { Input } from './room.ts'
import { RedisStore } from './store.ts'

const { values } = parseArgs({
  options: {
    name: { type: 'string', default: `reef-${process.pid}` },
    port: { type: 'string', default: '0' },
    redis: { type: 'string' },
    threads: { type: 'string', default: '2' },
    create: { type: 'string', multiple: true, default: [] },
    bodies: { type: 'string', default: '100' },
    lease: { type: 'string', default: '3000' },
    'save-every': { type: 'string', default: '120' },
  },
})
const own = values.redis === undefined ? await startRedis() : null
const redis = new Redis(values.redis ?? own!.url, { maxRetriesPerRequest: null })
// A store that is away is waited for; rooms run on meanwhile, until their leases end.
redis.on('error', (error) => console.error(`${values.name}: the store: ${error.message}`))

const listeners = new Map<string, Set<WebSocket>>()
/** Bytes that may wait for a listener who reads too slowly, before the line is cut. */
const MOST_WAITING = 1 << 20
const keeper: Keeper = new Keeper({
  name: values.name,
  store: new RedisStore(redis),
  lease: Number(values.lease),
  makeHost: (handlers) =>
    new PoolHost(handlers, { threads: Number(values.threads), rate: 60, saveEvery: Number(values['save-every']) }),
  lines: (room, lines) => {
    for (const socket of listeners.get(room) ?? []) {
      if (socket.bufferedAmount > MOST_WAITING) socket.terminate()
      else socket.send(`${lines.join('\n')}\n`)
    }
  },
  log: (text) => console.log(text),
})

const http = createServer((_, response) => {
  response.setHeader('content-type', 'application/json')
  response.end(`${JSON.stringify({ name: values.name, rooms: keeper.rooms })}\n`)
})
const sockets = new WebSocketServer({ server: http, maxPayload: 4096 })
sockets.on('connection', (socket, request) => {
  const room = /^\/rooms\/([\w-]+)$/.exec(request.url ?? '')?.[1]
  if (room === undefined) {
    socket.close(1008, 'ws://…/rooms/NAME')
    return
  }
  const here = listeners.get(room) ?? new Set()
  listeners.set(room, here.add(socket))
  socket.on('close', () => here.delete(socket))
  socket.on('message', (data) => {
    const input = readInput(String(data))
    if (input === null) socket.close(1008, 'an input is { "player", "x", "y" }')
    else keeper.input(room, input)
  })
})

/** What comes from outside is not believed. */
function readInput(text: string): Input | null {
  try {
    const { player, x, y } = JSON.parse(text) as Record<string, unknown>
    const fine = (part: unknown): part is number => typeof part === 'number' && Math.abs(part) <= 50
    return typeof player === 'string' && fine(x) && fine(y) ? { player, x, y } : null
  } catch {
    return null
  }
}

let ending = false
async function beat(): Promise<void> {
  if (ending) return
  try {
    await keeper.beat()
  } catch (error) {
    console.error(`${values.name}: ${(error as Error).message}`)
  }
  setTimeout(beat, Number(values.lease) / 4)
}

async function end(): Promise<void> {
  if (ending) return
  ending = true
  await keeper.close()
  await (keeper.host as PoolHost).end()
  for (const socket of sockets.clients) socket.terminate()
  http.close()
  redis.disconnect()
  await own?.stop()
  if (process.connected) process.disconnect()
}
process.on('SIGTERM', end)
process.on('SIGINT', end)
/** The one that began it can tell it to hand a room over: `{ handOver: 'lagoon', to: 'reef-2' }`. */
process.on('message', ({ handOver, to }: { handOver: string; to: string | null }) => void keeper.handOver(handOver, to))

http.listen(Number(values.port), '127.0.0.1', async () => {
  const { port } = http.address() as { port: number }
  for (const room of values.create) await keeper.create(room, Number(values.bodies))
  console.log(`${values.name} listens on ws://127.0.0.1:${port}/rooms/NAME`)
  process.send?.({ ready: port })
  await beat()
})
