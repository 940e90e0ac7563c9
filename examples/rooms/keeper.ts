/** A server of rooms: runs those that it holds the lease of, keeps them in the store, takes over what nobody runs, hands over what it is told to. */
import type { Closed, HostHandlers, Opened } from './host.ts'
import type { Input, NotedInput } from './room.ts'
import type { Store } from './store.ts'

/** Where rooms run: on this thread, or on those of a pool. */
export interface AnyHost {
  open(id: string, bytes: Uint8Array | null, inputs: readonly NotedInput[], bodies?: number): Promise<Opened> | Opened
  input(id: string, input: Input): void
  close(id: string): Promise<Closed | null> | Closed | null
}

export interface KeeperOptions {
  readonly name: string
  readonly store: Store
  /** Milliseconds after which a server that is not heard of has lost its rooms. */
  readonly lease: number
  /** Makes what runs the rooms. */
  readonly makeHost: (handlers: HostHandlers) => AnyHost
  /** Hears what happens in rooms, as JSON Lines. */
  readonly lines?: ((room: string, lines: readonly string[]) => void) | undefined
  /** Hears of what becomes of rooms. */
  readonly log?: ((text: string) => void) | undefined
}

export class Keeper {
  readonly name: string
  readonly host: AnyHost
  private readonly store: Store
  private readonly lease: number
  private readonly log: (text: string) => void
  /** Rooms that run here. */
  private readonly running = new Set<string>()
  /** What is being written, room by room: in the order in which it happened. */
  private readonly writes = new Map<string, Promise<unknown>>()
  /** The hash of the last save of a room that the store has taken from here. */
  private readonly kept = new Map<string, string>()

  constructor({ name, store, lease, makeHost, lines, log }: KeeperOptions) {
    this.name = name
    this.store = store
    this.lease = lease
    this.log = log ?? (() => {})
    this.host = makeHost({
      lines: (room, told) => lines?.(room, told),
      applied: (room, input) => this.write(room, () => store.note(room, name, input)),
      due: (room, bytes, tick, hash) => this.write(room, () => this.keep(room, { bytes, tick, hash })),
    })
  }

  get rooms(): readonly string[] {
    return [...this.running]
  }

  /** A new room, run here; false where there is one of that name. */
  async create(room: string, bodies?: number): Promise<boolean> {
    if (!(await this.store.claim(room, this.name, this.lease))) return false
    if ((await this.store.load(room)) !== null) return this.open(room)
    return this.holding(room, async () => {
      await this.host.open(room, null, [], bodies)
      const first = (await this.host.close(room))!
      // Kept before it runs: from then on it is not lost.
      if (!(await this.keep(room, first))) return false
      await this.host.open(room, first.bytes, [])
      return this.runs(room)
    })
  }

  /** Runs a room that was kept, if nobody else does. */
  async open(room: string): Promise<boolean> {
    if (this.running.has(room)) return true
    if (!(await this.store.claim(room, this.name, this.lease))) return false
    const kept = await this.store.load(room)
    if (kept === null) return false
    return this.holding(room, async () => {
      const { hash, tick, again } = await this.host.open(room, kept.bytes, kept.inputs)
      if (hash !== kept.hash) throw new Error(`room ${room} arrived as another one: ${hash}, not ${kept.hash}`)
      this.kept.set(room, hash)
      const runs = await this.runs(room)
      if (runs) this.log(`${this.name} runs ${room} from tick ${tick}, ${again} ticks played again, hash ${hash}`)
      return runs
    })
  }

  /** The store was away for longer than a lease: if nobody has run the room meanwhile, it goes on from where it is here. */
  private async reclaim(room: string, closed: Closed): Promise<boolean> {
    if (!(await this.store.claim(room, this.name, this.lease))) return false
    const kept = await this.store.load(room)
    // Another hash: somebody ran it, and has gone again. No room at all: the store has lost it.
    if (kept !== null && kept.hash !== this.kept.get(room)) return false
    if (!(await this.keep(room, closed))) return false
    await this.host.open(room, closed.bytes, [])
    return this.runs(room)
  }

  private async keep(room: string, { bytes, tick, hash }: Closed): Promise<boolean> {
    const taken = await this.store.save(room, this.name, bytes, tick, hash)
    if (taken) this.kept.set(room, hash)
    return taken
  }

  /** A room was opened: it runs here if the lease has lasted. */
  private async runs(room: string): Promise<boolean> {
    if (await this.store.renew(room, this.name, this.lease)) this.running.add(room)
    else await this.host.close(room)
    return this.running.has(room)
  }

  /** Keeps the lease of a room while it is opened, which may take long. */
  private async holding(room: string, act: () => Promise<boolean>): Promise<boolean> {
    const renew = (): void => void this.store.renew(room, this.name, this.lease).catch(() => {})
    const timer = setInterval(renew, this.lease / 4)
    try {
      return await act()
    } finally {
      clearInterval(timer)
    }
  }

  input(room: string, input: Input): void {
    if (this.running.has(room)) this.host.input(room, input)
  }

  /** Gives a room to another server, at the tick where it is. */
  async handOver(room: string, to: string | null): Promise<Closed | null> {
    if (!this.running.delete(room)) return null
    const closed = await this.host.close(room)
    await this.writes.get(room)
    if (closed === null) return null
    await this.keep(room, closed)
    await this.store.release(room, this.name, to, this.lease)
    this.log(`${this.name} hands ${room} over at tick ${closed.tick}, hash ${closed.hash}`)
    return closed
  }

  /** To be called several times within a lease: keeps the leases, drops what was lost, takes over what nobody runs. */
  async beat(): Promise<void> {
    for (const room of this.rooms) {
      if (await this.store.renew(room, this.name, this.lease)) continue
      const closed = await this.host.close(room)
      this.running.delete(room)
      if (closed !== null && (await this.reclaim(room, closed))) continue
      this.log(`${this.name} has lost ${room}`)
    }
    for (const room of await this.store.rooms()) await this.open(room)
  }

  /** Hands everything over to whoever takes it. */
  async close(): Promise<void> {
    for (const room of this.rooms) await this.handOver(room, null)
  }

  private write(room: string, act: () => Promise<boolean>): void {
    const before = this.writes.get(room) ?? Promise.resolve()
    const writing = before.then(act).catch((error: Error) => this.log(`${this.name}, ${room}: ${error.message}`))
    this.writes.set(room, writing)
  }
}
