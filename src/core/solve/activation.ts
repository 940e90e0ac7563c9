/** Which dynamic bodies take part: who comes and goes, and what wakes whom. Who falls asleep is decided in `sleep.ts`. */
import { SOLID } from '../filter/filter.ts'
import type { StateVisitor } from '../save/state.ts'
import { BODY_DEAD, BODY_ENABLED, DYNAMIC, type Population } from '../state/population.ts'
import type { Pairs } from '../step/pairs.ts'
import { Islands } from './islands.ts'

export class Activation {
  readonly islands: Islands
  /** Dynamic bodies that exist. */
  count = 0
  private readonly population: Population<object, object>
  private readonly pairs: Pairs
  private readonly holds: (pair: number) => boolean

  /** @param holds whether the two of a pair are near enough to hold each other */
  constructor(population: Population<object, object>, pairs: Pairs, holds: (pair: number) => boolean) {
    this.population = population
    this.pairs = pairs
    this.holds = holds
    this.islands = new Islands(population.bodies)
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.count = v.number(this.count)
    this.islands.visit(v)
  }

  /** A body that is dynamic from now on. */
  enter(body: number): void {
    this.count++
    this.islands.enter(body)
  }

  /** A body that is dynamic no more. */
  leave(body: number): void {
    this.count--
    this.islands.leave(body)
  }

  /** Wakes a body, and what fell asleep together with it. */
  wake(body: number): void {
    if (this.population.type.data[body] === DYNAMIC && this.population.bodyAlive(body)) this.islands.wake(body)
  }

  /** Two begin to hold each other, or cease to: what slept on that wakes. */
  wakePair(pair: number): void {
    if (this.count === 0) return
    const { body } = this.population.filter
    const a = body.data[this.pairs.a.data[pair]]
    const b = body.data[this.pairs.b.data[pair]]
    // What is awake keeps its sleep timer: in a pile that comes to rest touches come and go.
    if (this.islands.isAwake.data[a] === 0) this.wake(a)
    if (this.islands.isAwake.data[b] === 0) this.wake(b)
  }

  wakeAll(): void {
    const { population } = this
    if (this.count === 0) return
    for (let body = 0; body < population.bodies.size; body++) {
      if (population.bodySerial.data[body] !== 0) this.wake(body)
    }
  }

  /** Wakes what touches a collider, and its own body. */
  wakeTouching(c: number): void {
    if (this.count === 0) return
    const { pairs, population } = this
    const { body } = population.filter
    this.wake(body.data[c])
    for (let edge = pairs.firstEdge(c); edge >= 0; edge = pairs.nextEdge(edge)) {
      const pair = edge >> 1
      if (pairs.state.data[pair] !== SOLID && !this.holds(pair)) continue
      this.wake(body.data[(edge & 1) === 0 ? pairs.b.data[pair] : pairs.a.data[pair]])
    }
  }

  /** Whether a body takes part in motion: alive and enabled. */
  moves(body: number): boolean {
    return (this.population.bodyFlags.data[body] & (BODY_ENABLED | BODY_DEAD)) === BODY_ENABLED
  }
}
