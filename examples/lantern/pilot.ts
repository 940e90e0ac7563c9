/** A pilot that plays both levels to their end by what a player sees. The page shows it, and tests play with it. */
import type { Controls, Game } from './game.ts'

/** What the pilot goes by. */
export interface Sight {
  readonly x: number
  readonly y: number
  readonly vx: number
  readonly vy: number
  readonly air: number
  readonly holds: boolean
  /** Seconds of the level. */
  readonly time: number
}

/** What a pilot sees of a game that it is shown. */
export function sightOf({ craft, numbers }: Game): Sight {
  const { at, velocity } = craft.body
  const { air, time } = numbers
  return { ...at, vx: velocity.x, vy: velocity.y, air, time, holds: craft.holds !== null }
}

/** A place to go to, how fast at most, and how near is there; or something to do. */
type Order =
  | { readonly x: number; readonly y: number; readonly speed?: number; readonly near?: number }
  | { readonly press: 'ping' | 'charge' }
  | { readonly hold: boolean }
  | { readonly wait: number }
  | { readonly air: number }

const SPEED = 3.4
const NEAR = 0.8
/** Seconds until it tries the claw again. */
const AGAIN = 0.6
/** Seconds until it takes a way for blocked, and for how many it then goes back. */
const PATIENT = 8
const BACK = 1.5

const SHAFT: readonly Order[] = [
  { press: 'ping' },
  { x: 13, y: 12 },
  { x: 18, y: 11 },
  { x: 27, y: 11, speed: 3 },
  { press: 'ping' },
  { x: 34, y: 12 },
  { x: 34.5, y: 20.2 },
  { air: 78 },
  { x: 38.5, y: 12 },
  { x: 40.4, y: 7, speed: 1.5, near: 0.3 },
  { press: 'charge' },
  { x: 31, y: 13 },
  { wait: 2.2 },
  { x: 39, y: 4.6, speed: 2.5, near: 0.4 },
  { x: 48, y: 4.6, speed: 2.5 },
  { press: 'ping' },
  { x: 56.4, y: 6, speed: 2, near: 0.4 },
  { hold: true },
  { x: 53, y: 9, speed: 2 },
  { x: 47, y: 5, speed: 2, near: 0.4 },
  { x: 40, y: 5, speed: 2 },
  { x: 35, y: 12, speed: 2.5 },
  { x: 34.5, y: 20.2, speed: 2.5 },
  { air: 70 },
  { x: 38, y: 17.5, speed: 2.5 },
  { x: 46, y: 17.6, speed: 2.5 },
  { x: 51, y: 18, speed: 2.5 },
  { x: 57, y: 16.6, speed: 2 },
]

const WORKS: readonly Order[] = [
  { press: 'ping' },
  { x: 11, y: 19 },
  { x: 11, y: 8, speed: 3 },
  { x: 20, y: 6.5 },
  { x: 28.4, y: 5.9, speed: 1.8, near: 0.4 },
  { hold: true },
  { x: 25, y: 7.5, speed: 2 },
  { x: 18.5, y: 6, speed: 1.6, near: 0.3 },
  { x: 18.5, y: 4.4, speed: 1, near: 0.5 },
  { hold: false },
  { x: 22, y: 7, speed: 2.5 },
  { x: 33, y: 5.5 },
  { wait: 1.2 },
  { x: 40, y: 5.2, speed: 3 },
  { press: 'ping' },
  { x: 42.5, y: 9 },
  { x: 42.5, y: 17 },
  { x: 52, y: 20.4 },
  { air: 78 },
  { x: 55.4, y: 17, near: 0.4 },
  { x: 55.5, y: 6.4, speed: 2, near: 0.5 },
  { press: 'charge' },
  { x: 55.5, y: 14, near: 0.5 },
  { wait: 1.6 },
  { x: 55.5, y: 5.4, speed: 2, near: 0.4 },
  { x: 61, y: 5.4, speed: 2 },
  { x: 63.9, y: 4.2, speed: 1.6, near: 0.4 },
  { hold: true },
  { x: 62, y: 7, speed: 2 },
  { x: 61.5, y: 12 },
  { x: 61.5, y: 18.5, speed: 3 },
  { x: 58, y: 18.4, speed: 1.6, near: 0.3 },
  { x: 58, y: 16.6, speed: 0.8, near: 0.3 },
]

const ROUTES = [SHAFT, WORKS]
/** How much of the way it plans to cover in a second, and what speed is near enough. */
const EAGER = 1.4
const EVEN = 0.35

export class Pilot {
  private readonly orders: readonly Order[]
  private next = 0
  private since = 0
  private tried = -1

  constructor(level: number) {
    this.orders = ROUTES[level]
  }

  /** Whether it has done all it was told. */
  get isDone(): boolean {
    return this.next >= this.orders.length
  }

  /** What it does, seen so: keys are pressed or not. */
  steer(seen: Sight): Controls {
    const controls: Controls = { x: 0, y: 0, ping: false, claw: false, charge: false }
    const order = this.orders[this.next]
    const at = this.place()
    if (order === undefined) return this.towards(at, seen, SPEED, controls)
    if ('x' in order) {
      const { x, y, near = NEAR, speed = SPEED } = order
      // Caught at an edge: a little back, and again.
      if (at !== null && (seen.time - this.since) % (PATIENT + BACK) > PATIENT)
        return this.towards(at, seen, 1.5, controls)
      if (Math.abs(x - seen.x) < near && Math.abs(y - seen.y) < near) this.done(seen)
      return this.towards({ x, y }, seen, speed, controls)
    }
    if ('press' in order) {
      controls[order.press] = true
      this.done(seen)
    } else if ('hold' in order) {
      if (seen.holds === order.hold) this.done(seen)
      else if (seen.time - this.tried > AGAIN) {
        controls.claw = true
        this.tried = seen.time
      }
    } else if ('air' in order ? seen.air >= order.air : seen.time - this.since >= order.wait) this.done(seen)
    return this.towards(at, seen, 1.5, controls)
  }

  private done({ time }: Sight): void {
    this.next++
    this.since = time
    this.tried = -1
  }

  /** Where it was told to be last. */
  private place(): { x: number; y: number } | null {
    for (let i = this.next - 1; i >= 0; i--) {
      const order = this.orders[i]
      if ('x' in order) return order
    }
    return null
  }

  private towards(at: { x: number; y: number } | null, seen: Sight, speed: number, controls: Controls): Controls {
    if (at === null) return controls
    const [x, y] = [EAGER * (at.x - seen.x), EAGER * (at.y - seen.y)]
    const slower = Math.min(1, speed / Math.max(1e-9, Math.sqrt(x * x + y * y)))
    controls.x = key(x * slower - seen.vx)
    controls.y = key(y * slower - seen.vy)
    return controls
  }
}

/** A key that is held while there is something to make up for. */
const key = (missing: number): number => (missing > EVEN ? 1 : missing < -EVEN ? -1 : 0)
