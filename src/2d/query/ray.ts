/** Rays against the world: the walk through the trees, and the questions `first`, `all`, `any` and `each`. */
import type { QueryFilter } from '../../core/asking.ts'
import { finite, notNegative, onlyFields, record } from '../../core/checks.ts'
import { KeenError } from '../../core/errors.ts'
import type { Kinds } from '../../core/handle.ts'
import { IntList } from '../../core/table.ts'
import type { Body2 } from '../body.ts'
import type { Collider2 } from '../collider.ts'
import { FRACTION, INSIDE, MISS, RAY_NORMAL, RAY_SIZE, rayAgainstPiece } from '../narrow/ray.ts'
import { MOVERS, RESTING_SENSORS, type Space2, STATICS } from '../space.ts'
import { BITS, LINK, leafOf, NODE, type Tree } from '../tree/tree.ts'
import { checkVec, type Vec2 } from '../vector.ts'
import type { Scratch } from './scratch.ts'

/** A ray: from one point to another, by a motion, or in a direction as far as a reach (default: without end). */
export type Ray2 =
  | { readonly from: Vec2; readonly to: Vec2 }
  | { readonly from: Vec2; readonly by: Vec2 }
  | { readonly from: Vec2; readonly direction: Vec2; readonly reach?: number }

export interface RayHit2<K extends Kinds> {
  collider: Collider2<K>
  body: Body2<K>
  point: Vec2
  /** Unit, towards the asker. */
  normal: Vec2
  /** 0..1 of the whole length; for a ray without end the part of {@link ENDLESS}. */
  fraction: number
  /** Metres from the start. */
  distance: number
  startedInside: boolean
}

/** The length in metres of a ray to which no end was given. */
export const ENDLESS = 1e9

/** What a ray question needs of its world. @internal */
export interface RayHost<K extends Kinds> {
  readonly space: Space2
  colliderOf(slot: number): Collider2<K>
  acquire(filter: QueryFilter<K, Body2<K>, Collider2<K>> | undefined): Scratch<K>
  let(scratch: Scratch<K>): void
}

type Filter<K extends Kinds> = QueryFilter<K, Body2<K>, Collider2<K>>

/** Start, motion, and the length of the motion. */
const line = new Float64Array(5)

export class Raycast<K extends Kinds> {
  private readonly host: RayHost<K>

  /** @internal */
  constructor(host: RayHost<K>) {
    this.host = host
  }

  /** The nearest hit, or null. Of several at the same distance the oldest collider. */
  first(ray: Ray2, filter?: Filter<K>): RayHit2<K> | null {
    const scratch = this.begin(ray, filter)
    try {
      const { hits } = scratch
      if (!walk(this.host.space, scratch, NEAREST, null)) return null
      return this.hit(scratch, hits.colliders.data[0], 0)
    } finally {
      this.host.let(scratch)
    }
  }

  /** Every hit, nearest first, at most one a collider. */
  all(ray: Ray2, filter?: Filter<K>): RayHit2<K>[] {
    const scratch = this.begin(ray, filter)
    try {
      walk(this.host.space, scratch, EVERY, null)
      const { colliders } = scratch.hits
      const found: RayHit2<K>[] = []
      for (let i = 0; i < colliders.length; i++) found.push(this.hit(scratch, colliders.data[i], i))
      return found.sort((a, b) => a.fraction - b.fraction || a.collider.serial - b.collider.serial)
    } finally {
      this.host.let(scratch)
    }
  }

  /** Whether it meets anything. The cheapest of the four. */
  any(ray: Ray2, filter?: Filter<K>): boolean {
    const scratch = this.begin(ray, filter)
    try {
      return walk(this.host.space, scratch, ANYTHING, null)
    } finally {
      this.host.let(scratch)
    }
  }

  /** Visits the hits in no particular order until the visitor returns false. The hit is reused. */
  each(ray: Ray2, visit: (hit: RayHit2<K>) => boolean | undefined, filter?: Filter<K>): void {
    const scratch = this.begin(ray, filter)
    try {
      walk(this.host.space, scratch, EVERY, () => visit(this.hit(scratch, scratch.hits.colliders.data[0], 0)) !== false)
    } finally {
      this.host.let(scratch)
    }
  }

  private begin(ray: Ray2, filter: Filter<K> | undefined): Scratch<K> {
    readRay(ray)
    const scratch = this.host.acquire(filter)
    scratch.line.set(line)
    return scratch
  }

  private hit(scratch: Scratch<K>, c: number, index: number): RayHit2<K> {
    const { line, hits } = scratch
    const collider = this.host.colliderOf(c)
    const at = RAY_SIZE * index
    const fraction = hits.values[at + FRACTION]
    return {
      collider,
      body: collider.body,
      point: { x: line[0] + fraction * line[2], y: line[1] + fraction * line[3] },
      normal: { x: hits.values[at + RAY_NORMAL] + 0, y: hits.values[at + RAY_NORMAL + 1] + 0 },
      fraction,
      distance: fraction * line[4],
      startedInside: hits.inside.data[index] !== 0,
    }
  }
}

/** Hits found by a walk: colliders, three numbers each (fraction, normal), and whether it started inside. */
export class RayHits {
  readonly colliders = new IntList()
  readonly inside = new IntList()
  values = new Float64Array(16 * RAY_SIZE)

  put(index: number, c: number, inside: boolean, record: Float64Array): void {
    if (index === this.colliders.length) {
      this.colliders.push(c)
      this.inside.push(0)
      if (RAY_SIZE * (index + 1) > this.values.length) {
        const wider = new Float64Array(2 * this.values.length)
        wider.set(this.values)
        this.values = wider
      }
    }
    this.colliders.data[index] = c
    this.inside.data[index] = inside ? 1 : 0
    for (let i = 0; i < RAY_SIZE; i++) this.values[RAY_SIZE * index + i] = record[i]
  }

  clear(): void {
    this.colliders.clear()
    this.inside.clear()
  }
}

const NEAREST = 0
const EVERY = 1
const ANYTHING = 2

/** Walks the trees that the question speaks of. With a visitor, every hit is put at 0 and shown. */
function walk<K extends Kinds>(
  space: Space2,
  scratch: Scratch<K>,
  mode: number,
  visit: (() => boolean) | null,
): boolean {
  scratch.hits.clear()
  scratch.limit = 1
  if (!walkTree(space, space.trees[STATICS], scratch, mode, visit)) return true
  if (!walkTree(space, space.trees[MOVERS], scratch, mode, visit)) return true
  if (scratch.asking.sensors && !walkTree(space, space.trees[RESTING_SENSORS], scratch, mode, visit)) return true
  return scratch.hits.colliders.length > 0
}

/** One tree; false when the walk is over. Slabs as Williams et al. (2005), near child first. */
function walkTree<K extends Kinds>(
  space: Space2,
  tree: Tree,
  scratch: Scratch<K>,
  mode: number,
  visit: (() => boolean) | null,
): boolean {
  if (tree.count === 0) return true
  const { f32, i32 } = tree
  const { line, asking, stack, record } = scratch
  const { world, offset, count, kind: kinds, owner } = space.geometry
  const ox = line[0]
  const oy = line[1]
  const dx = line[2]
  const dy = line[3]
  const ix = 1 / dx
  const iy = 1 / dy
  const mask = asking.mask
  // Where a bound of the near side stands within a node's four numbers.
  const nearX = ix < 0 ? 2 : 0
  const nearY = iy < 0 ? 3 : 1
  const bottom = stack.length
  stack.push(0)
  while (stack.length > bottom) {
    const base = stack.pop() * NODE
    for (let side = 0; side < 2; side++) {
      // The child on the near side last, so that it is taken from the stack first.
      const child = (ix < 0 ? side : 1 - side) | 0
      if ((i32[base + BITS + child] & mask) === 0) continue
      const at = base + 4 * child
      // With a motion of 0 along an axis these are infinite, or not a number on the bound itself: then they say nothing.
      let enter = 0
      let leave = scratch.limit
      const t0 = (f32[at + nearX] - ox) * ix
      const t1 = (f32[at + 2 - nearX] - ox) * ix
      const t2 = (f32[at + nearY] - oy) * iy
      const t3 = (f32[at + 4 - nearY] - oy) * iy
      if (t0 > enter) enter = t0
      if (t2 > enter) enter = t2
      if (t1 < leave) leave = t1
      if (t3 < leave) leave = t3
      if (enter > leave) continue
      const link = i32[base + LINK + child]
      if (link >= 0) {
        stack.push(link)
        continue
      }
      const piece = leafOf(link)
      const c = owner.data[piece]
      if (!asking.accepts(c)) continue
      const kind = rayAgainstPiece(world, offset.data[piece], count.data[piece], kinds.data[piece], line, record)
      if (kind === MISS || (kind === INSIDE && asking.skipInside)) continue
      const fraction = record[FRACTION]
      if (mode === EVERY && visit === null) {
        scratch.hits.put(scratch.hits.colliders.length, c, kind === INSIDE, record)
        continue
      }
      if (mode === NEAREST) {
        const { hits } = scratch
        if (hits.colliders.length > 0) {
          const best = hits.values[FRACTION]
          if (fraction > best || (fraction === best && scratch.older(hits.colliders.data[0], c))) continue
        }
        scratch.limit = fraction
      }
      scratch.hits.put(0, c, kind === INSIDE, record)
      if (mode === ANYTHING || (visit !== null && !visit())) {
        stack.length = bottom
        return false
      }
    }
  }
  return true
}

/** Checks a ray and writes it to `line`. */
function readRay(ray: Ray2): void {
  record(ray, 'a ray')
  const from = checkVec(ray.from, "'from' of a ray")
  let dx: number
  let dy: number
  if ('to' in ray) {
    onlyFields(ray, ['from', 'to'], "a ray with 'to'")
    const to = checkVec(ray.to, "'to' of a ray")
    dx = to.x - from.x
    dy = to.y - from.y
  } else if ('by' in ray) {
    onlyFields(ray, ['from', 'by'], "a ray with 'by'")
    const by = checkVec(ray.by, "'by' of a ray")
    dx = by.x
    dy = by.y
  } else if ('direction' in ray) {
    onlyFields(ray, ['from', 'direction', 'reach'], "a ray with 'direction'")
    const direction = checkVec(ray.direction, "'direction' of a ray")
    const length = Math.sqrt(direction.x * direction.x + direction.y * direction.y)
    if (length === 0) throw new KeenError('bad-argument', "'direction' of a ray must not be zero")
    const reach =
      ray.reach === undefined || ray.reach === Infinity ? ENDLESS : notNegative(ray.reach, "'reach' of a ray")
    dx = (direction.x / length) * reach
    dy = (direction.y / length) * reach
  } else {
    throw new KeenError('bad-argument', "a ray needs 'to', 'by' or 'direction' besides 'from'")
  }
  finite(dx, 'the length of a ray')
  finite(dy, 'the length of a ray')
  line[0] = from.x
  line[1] = from.y
  line[2] = dx
  line[3] = dy
  line[4] = Math.sqrt(dx * dx + dy * dy)
}
