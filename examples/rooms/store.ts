/**
 * What servers share: who runs a room, its last save, and the inputs since. A server that has not been heard of for the time of a lease does not run its rooms any more, and what it writes
 * after that is refused: so no two ever write the same room.
 */
import type { Redis } from 'ioredis'
import type { NotedInput } from './room.ts'

/** A room as it is kept: its last save, and the inputs that came since. */
export interface KeptRoom {
  readonly bytes: Uint8Array
  readonly tick: number
  readonly hash: string
  readonly inputs: readonly NotedInput[]
}

export interface Store {
  /** Takes a room that nobody runs, or that is handed to this server; returns whether it did. */
  claim(room: string, server: string, lease: number): Promise<boolean>
  /** Says that a room is still run; false where the lease was lost. */
  renew(room: string, server: string, lease: number): Promise<boolean>
  /** Gives a room up: to anybody, or for a while to one server only. */
  release(room: string, server: string, to: string | null, lease: number): Promise<boolean>
  /** Keeps a save, and forgets the inputs before it; refused for whoever does not run the room. */
  save(room: string, server: string, bytes: Uint8Array, tick: number, hash: string): Promise<boolean>
  /** Keeps an input; refused for whoever does not run the room. */
  note(room: string, server: string, input: NotedInput): Promise<boolean>
  load(room: string): Promise<KeptRoom | null>
  /** All rooms that there are. */
  rooms(): Promise<string[]>
}

/** Each is one script, so that nothing comes between the question and the write. */
const IF_MINE = `if redis.call('get', KEYS[1]) ~= ARGV[1] then return 0 end `
const SCRIPTS = {
  claim: `local owner = redis.call('get', KEYS[1])
    if owner and owner ~= ARGV[1] then return 0 end
    redis.call('set', KEYS[1], ARGV[1], 'PX', ARGV[2]) return 1`,
  renew: `${IF_MINE} redis.call('pexpire', KEYS[1], ARGV[2]) return 1`,
  release: `${IF_MINE} if ARGV[2] == '' then redis.call('del', KEYS[1]) else redis.call('set', KEYS[1], ARGV[2], 'PX', ARGV[3]) end return 1`,
  save: `${IF_MINE} redis.call('hset', KEYS[2], 'bytes', ARGV[2], 'tick', ARGV[3], 'hash', ARGV[4])
    redis.call('sadd', KEYS[4], ARGV[5])
    local tick = tonumber(ARGV[3])
    while true do
      local first = redis.call('lindex', KEYS[3], 0)
      if not first or cjson.decode(first).tick > tick then break end
      redis.call('lpop', KEYS[3])
    end
    return 1`,
  note: `${IF_MINE} redis.call('rpush', KEYS[3], ARGV[2]) return 1`,
} as const

export class RedisStore implements Store {
  private readonly redis: Redis

  constructor(redis: Redis) {
    this.redis = redis
  }

  claim(room: string, server: string, lease: number): Promise<boolean> {
    return this.run('claim', room, server, lease)
  }

  renew(room: string, server: string, lease: number): Promise<boolean> {
    return this.run('renew', room, server, lease)
  }

  release(room: string, server: string, to: string | null, lease: number): Promise<boolean> {
    return this.run('release', room, server, to ?? '', lease)
  }

  save(room: string, server: string, bytes: Uint8Array, tick: number, hash: string): Promise<boolean> {
    return this.run('save', room, server, Buffer.from(bytes), tick, hash, room)
  }

  note(room: string, server: string, input: NotedInput): Promise<boolean> {
    return this.run('note', room, server, JSON.stringify(input))
  }

  async load(room: string): Promise<KeptRoom | null> {
    const [, kept, inputs] = keysOf(room)
    // Both at once: a save between the two would leave a gap.
    const found = await this.redis.multi().hgetallBuffer(kept).lrange(inputs, 0, -1).exec()
    const fields = found![0][1] as Record<string, Buffer>
    if (fields['bytes'] === undefined) return null
    return {
      bytes: new Uint8Array(fields['bytes']),
      tick: Number(fields['tick']),
      hash: String(fields['hash']),
      inputs: (found![1][1] as string[]).map((line) => JSON.parse(line) as NotedInput),
    }
  }

  rooms(): Promise<string[]> {
    return this.redis.smembers(ALL)
  }

  private async run(name: keyof typeof SCRIPTS, room: string, ...args: (string | number | Buffer)[]): Promise<boolean> {
    const keys = keysOf(room)
    return (await this.redis.eval(SCRIPTS[name], keys.length, ...keys, ...args)) === 1
  }
}

const ALL = 'reef:rooms'

function keysOf(room: string): [owner: string, kept: string, inputs: string, all: string] {
  return [`reef:${room}:owner`, `reef:${room}:kept`, `reef:${room}:inputs`, ALL]
}

/** The same in memory, with a clock of its own: for simulations. */
export class MemoryStore implements Store {
  now = 0
  private readonly owners = new Map<string, { server: string; until: number }>()
  private readonly kept = new Map<string, { bytes: Uint8Array; tick: number; hash: string }>()
  private readonly inputs = new Map<string, NotedInput[]>()

  ownerOf(room: string): string | null {
    const owner = this.owners.get(room)
    return owner !== undefined && owner.until > this.now ? owner.server : null
  }

  async claim(room: string, server: string, lease: number): Promise<boolean> {
    if (![null, server].includes(this.ownerOf(room))) return false
    this.owners.set(room, { server, until: this.now + lease })
    return true
  }

  async renew(room: string, server: string, lease: number): Promise<boolean> {
    return this.ownerOf(room) === server && this.claim(room, server, lease)
  }

  async release(room: string, server: string, to: string | null, lease: number): Promise<boolean> {
    if (this.ownerOf(room) !== server) return false
    if (to === null) this.owners.delete(room)
    else this.owners.set(room, { server: to, until: this.now + lease })
    return true
  }

  async save(room: string, server: string, bytes: Uint8Array, tick: number, hash: string): Promise<boolean> {
    if (this.ownerOf(room) !== server) return false
    this.kept.set(room, { bytes, tick, hash })
    this.inputs.set(
      room,
      (this.inputs.get(room) ?? []).filter((input) => input.tick > tick),
    )
    return true
  }

  async note(room: string, server: string, input: NotedInput): Promise<boolean> {
    if (this.ownerOf(room) !== server) return false
    this.inputs.set(room, [...(this.inputs.get(room) ?? []), input])
    return true
  }

  async load(room: string): Promise<KeptRoom | null> {
    const kept = this.kept.get(room)
    return kept === undefined ? null : { ...kept, inputs: [...(this.inputs.get(room) ?? [])] }
  }

  async rooms(): Promise<string[]> {
    return [...this.kept.keys()]
  }
}
