/** What a running query writes to. One for each query that runs at a time: a `where` may ask a question of its own. */
import { Asking, type AskingHost } from '../../core/asking.ts'
import type { Kinds } from '../../core/handle.ts'
import { IntList } from '../../core/table.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import { RAY_SIZE } from '../narrow/ray.ts'
import { RayHits } from './ray.ts'

export class Scratch<K extends Kinds> {
  readonly asking: Asking<K, Body2<K>, Collider2<K>>
  readonly stack = new IntList()
  readonly hits = new RayHits()
  readonly record = new Float64Array(RAY_SIZE)
  /** Start, motion and length of the ray. */
  readonly line = new Float64Array(5)
  /** Fraction beyond which nothing counts any more. */
  limit = 1
  private readonly host: AskingHost<Body2<K>, Collider2<K>>

  constructor(host: AskingHost<Body2<K>, Collider2<K>>) {
    this.host = host
    this.asking = new Asking(host)
  }

  older(a: number, b: number): boolean {
    const { serial } = this.host.population
    return serial.data[a] < serial.data[b]
  }
}

/** Scratches by depth of nesting. */
export class ScratchPool<K extends Kinds> {
  private readonly host: AskingHost<Body2<K>, Collider2<K>>
  private readonly pool: Scratch<K>[] = []
  private depth = 0

  constructor(host: AskingHost<Body2<K>, Collider2<K>>) {
    this.host = host
  }

  take(): Scratch<K> {
    if (this.depth === this.pool.length) this.pool.push(new Scratch(this.host))
    const scratch = this.pool[this.depth++]
    scratch.stack.length = 0
    return scratch
  }

  give(): void {
    this.depth--
  }
}
