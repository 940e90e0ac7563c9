/**
 * Islands: bodies that constraints hold together, directly or over others, and so fall asleep and wake together. While awake they are
 * found again each tick (union and find, with path halving); asleep they are kept as rings of bodies.
 */
import type { StateVisitor } from '../save/state.ts'
import { type Column, IntList, type Table } from '../state/table.ts'

export class Islands {
  /** Bodies that the solver moves, unordered: no result depends on their order. */
  readonly awake = new IntList()
  /** 1 for bodies in `awake`. */
  readonly isAwake: Column<Int32Array>
  /** Seconds for which a body has been slow. */
  readonly timer: Column<Float64Array>
  /** Asleep: the next of the ring. */
  private readonly ring: Column<Int32Array>
  /** Awake, in this tick: towards the root of its island. */
  private readonly parent: Column<Int32Array>
  /** The least sleep timer in the island of a root. */
  private readonly least: Column<Float64Array>
  private readonly last: Column<Int32Array>

  constructor(bodies: Table) {
    this.isAwake = bodies.i32()
    this.timer = bodies.f64()
    this.ring = bodies.i32()
    this.parent = bodies.i32()
    this.least = bodies.f64()
    this.last = bodies.i32()
  }

  /** Their state. */
  visit(v: StateVisitor): void {
    this.awake.visit(v)
  }

  /** A body that the solver is to move from now on. */
  enter(body: number): void {
    this.ring.data[body] = body
    if (this.isAwake.data[body] !== 0) return
    this.isAwake.data[body] = 1
    this.timer.data[body] = 0
    this.awake.push(body)
  }

  /** Wakes a body and all that fell asleep with it; if it is already awake, only its sleep timer is reset. */
  wake(body: number): void {
    if (this.isAwake.data[body] !== 0) {
      this.timer.data[body] = 0
      return
    }
    const { ring } = this
    for (let at = body; ; ) {
      const next = ring.data[at]
      this.enter(at)
      if (next === body) break
      at = next
    }
  }

  /** Takes a body out of its ring, or off the list: it is dead, or no solver moves it any more. */
  leave(body: number): void {
    if (this.isAwake.data[body] !== 0) {
      this.isAwake.data[body] = 0
      this.awake.remove(body)
      return
    }
    const { ring } = this
    let before = body
    while (ring.data[before] !== body) before = ring.data[before]
    ring.data[before] = ring.data[body]
    ring.data[body] = body
  }

  /** Every awake body is an island of its own. */
  separate(): void {
    const { awake, parent } = this
    for (let i = 0; i < awake.length; i++) parent.data[awake.data[i]] = awake.data[i]
  }

  private root(body: number): number {
    const parent = this.parent.data
    while (parent[body] !== body) {
      parent[body] = parent[parent[body]]
      body = parent[body]
    }
    return body
  }

  /** Two awake bodies are held together. */
  join(a: number, b: number): void {
    const one = this.root(a)
    const other = this.root(b)
    if (one !== other) this.parent.data[one] = other
  }

  /**
   * Puts islands to sleep all of whose bodies have been slow for so many seconds.
   * @param slept is called for each such body
   */
  putToSleep(delay: number, slept: IntList): void {
    const { awake, least, last, timer, ring, isAwake } = this
    const { length, data } = awake
    for (let i = 0; i < length; i++) least.data[data[i]] = Infinity
    for (let i = 0; i < length; i++) {
      const root = this.root(data[i])
      if (timer.data[data[i]] < least.data[root]) least.data[root] = timer.data[data[i]]
      last.data[root] = -1
    }
    let kept = 0
    for (let i = 0; i < length; i++) {
      const body = data[i]
      const root = this.root(body)
      if (least.data[root] < delay) {
        data[kept++] = body
        continue
      }
      slept.push(body)
      isAwake.data[body] = 0
      // Closes the ring again behind each of its bodies.
      const before = last.data[root]
      if (before < 0) ring.data[body] = body
      else {
        ring.data[body] = ring.data[before]
        ring.data[before] = body
      }
      last.data[root] = body
    }
    awake.length = kept
  }
}
