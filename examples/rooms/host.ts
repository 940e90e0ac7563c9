/** Rooms on one thread: opened from a save or new, stepped, closed. What they tell goes to whoever runs the host. */
import { type Input, type NotedInput, Room } from './room.ts'

/** What a host tells. */
export interface HostHandlers {
  /** What happened in a tick, as JSON Lines. */
  lines(room: string, lines: readonly string[]): void
  /** An input was applied before the step of a tick. */
  applied(room: string, input: NotedInput): void
  /** A save is due. */
  due(room: string, bytes: Uint8Array, tick: number, hash: string): void
}

/** A room as it was when it was closed. */
export interface Closed {
  readonly bytes: Uint8Array
  readonly tick: number
  readonly hash: string
}

/** A room that came to a host. */
export interface Opened {
  readonly tick: number
  /** Of the save, before anything was played again: as it was where it came from. */
  readonly hash: string
  /** Ticks that were played again, by the inputs since the save. */
  readonly again: number
}

export class Host {
  private readonly handlers: HostHandlers
  private readonly saveEvery: number
  private readonly rooms = new Map<string, { room: Room; waiting: Input[]; nextSave: number }>()
  private opened = 0

  /** @param saveEvery ticks between two saves of a room */
  constructor(handlers: HostHandlers, saveEvery: number) {
    this.handlers = handlers
    this.saveEvery = saveEvery
  }

  /**
   * @param bytes its last save; null for a new one
   * @param inputs what came since
   * @param bodies of a new one
   */
  open(id: string, bytes: Uint8Array | null, inputs: readonly NotedInput[], bodies?: number): Opened {
    const room = bytes === null ? Room.create(id, bodies) : Room.load(id, bytes)
    const { world } = room
    const hash = world.hash()
    const from = world.tick
    for (const { tick, input } of inputs) {
      if (tick <= from) continue
      while (world.tick < tick - 1) room.step()
      room.apply(input)
    }
    // The step of the last input: what it did is done.
    if (inputs.length > 0 && world.tick < inputs.at(-1)!.tick) room.step()
    // Not all in the same tick, for a save takes longer than that; and none later than it should.
    const nextSave = from + 1 + ((17 * this.opened++) % this.saveEvery)
    this.rooms.set(id, { room, waiting: [], nextSave })
    return { tick: world.tick, hash, again: world.tick - from }
  }

  input(id: string, input: Input): void {
    this.rooms.get(id)?.waiting.push(input)
  }

  /** A tick of every room. */
  step(): void {
    for (const [id, each] of this.rooms) {
      const { room, waiting } = each
      const { world } = room
      for (const input of waiting.splice(0)) {
        room.apply(input)
        this.handlers.applied(id, { tick: world.tick + 1, input })
      }
      const lines = room.step()
      if (lines.length > 0) this.handlers.lines(id, lines)
      if (world.tick < each.nextSave) continue
      each.nextSave = world.tick + this.saveEvery
      this.handlers.due(id, world.save(), world.tick, world.hash())
    }
  }

  /** Stops a room, and gives it as it is. */
  close(id: string): Closed | null {
    const found = this.rooms.get(id)
    this.rooms.delete(id)
    if (found === undefined) return null
    const { world } = found.room
    return { bytes: world.save(), tick: world.tick, hash: world.hash() }
  }

  /** The world of a room, for whoever is on the same thread. */
  worldOf(id: string): Room['world'] | undefined {
    return this.rooms.get(id)?.room.world
  }
}
