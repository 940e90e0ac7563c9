/** A room of a game: a world in which players push crates about. All that happens follows from where it began and from its inputs. */
import { type Body2, box, circle, createWorld, defineLayers, type World2 } from 'keen-sentry/2d'
import { eventLine, jointLine } from 'keen-sentry/record'

/** What a player does. */
export interface Input {
  readonly player: string
  readonly x: number
  readonly y: number
}

/** An input, and the tick whose step it came before. */
export interface NotedInput {
  readonly tick: number
  readonly input: Input
}

const layers = defineLayers(['rock', 'crate', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
/** How many players a room has. */
export const PLAYERS = 4

export class Room {
  readonly id: string
  readonly world: World2

  private constructor(id: string) {
    this.id = id
    this.world = createWorld({ layers })
    this.world.watch('craft', 'zone', {}, { key: 'dock' })
    this.world.watch('crate', 'zone', {}, { key: 'hold' })
    this.world.watch('craft', 'crate', {}, { key: 'knock', response: 'solid', over: { impulse: 3 }, kinds: ['impact'] })
  }

  /** A new room with so many bodies. */
  static create(id: string, bodies = 100): Room {
    const room = new Room(id)
    const { world } = room
    const still = (x: number, y: number, width: number, height: number): void => {
      world.add({ type: 'static', at: { x, y }, colliders: [{ shape: box(width, height), layer: 'rock' }] })
    }
    still(0, -0.5, 40, 1)
    still(0, 21.5, 42, 1)
    still(-20.5, 10, 1, 22)
    still(20.5, 10, 1, 22)
    const zone = (name: string, x: number): void => {
      world.add({
        type: 'static',
        name,
        at: { x, y: 2 },
        colliders: [{ shape: box(5, 4), layer: 'zone', sensor: true }],
      })
    }
    zone('dock', -14)
    zone('hold', 14)
    for (let i = 0; i < PLAYERS; i++) {
      world.add({
        type: 'dynamic',
        name: `player ${i}`,
        at: { x: 3 * i - 4.5, y: 12 },
        gravityScale: 0.2,
        colliders: [{ shape: circle(0.6), layer: 'craft', restitution: 0.3 }],
      })
    }
    for (let i = 0; i < bodies - PLAYERS - 5; i++) {
      world.add({
        type: 'dynamic',
        at: { x: ((i * 7) % 34) - 16.5, y: 1 + 1.1 * Math.floor(i / 16) },
        colliders: [{ shape: i % 3 === 0 ? circle(0.45) : box(0.9, 0.9), layer: 'crate' }],
      })
    }
    return room
  }

  /** A room as it was saved. */
  static load(id: string, bytes: Uint8Array): Room {
    const room = new Room(id)
    room.world.restore(bytes)
    return room
  }

  /** Does what a player does, before the next step. */
  apply({ player, x, y }: Input): void {
    const craft: Body2 | null = this.world.find(player)
    craft?.applyImpulse({ x, y })
  }

  /** Steps, and gives what happened as JSON Lines. */
  step(): string[] {
    this.world.step()
    return this.world
      .events()
      .map((event) => JSON.stringify(event.joint === null ? eventLine(event) : jointLine(event)))
  }
}
