/** A camera arm in 2D. */
import type { QueryFilter } from '../core/query/compiledFilter.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { Boom, type BoomOptions, type BoomView, checkBoom } from '../core/travel/boom.ts'
import { KeenError, show } from '../core/util/errors.ts'
import type { Body2 } from './body.ts'
import type { Collider2 } from './collider.ts'
import { castHit } from './query/cast.ts'
import { circle } from './shapes/circle.ts'
import { type MutableVec2, VECTORS } from './vector.ts'
import { World2 } from './world.ts'

/** What a boom is made from. */
export type BoomOptions2<K extends Kinds = AnyKinds> = BoomOptions<QueryFilter<K, Body2<K>, Collider2<K>>>

/** A camera arm. */
export type Boom2<K extends Kinds = AnyKinds> = Boom<Collider2<K>, MutableVec2>

/** Where a boom has its camera. */
export type BoomView2<K extends Kinds = AnyKinds> = BoomView<Collider2<K>, MutableVec2>

/**
 * A camera arm: a ball is cast from a target to the place where the camera would be, and stops before what it meets. Cost: one shape cast a call.
 * @throws KeenError `bad-argument`, `bad-number`
 * @example const arm = boom(world, { radius: 0.3, margin: 0.1, filter: { layers: 'rock' } })
 */
export function boom<K extends Kinds>(world: World2<K>, options: BoomOptions2<K>): Boom2<K> {
  if (!(world instanceof World2)) {
    throw new KeenError('bad-argument', `boom takes a world of 2D first, got ${show(world)}`)
  }
  const { radius, filter } = checkBoom(options) as BoomOptions2<K>
  const hit = castHit<K>()
  const motion = { shape: circle(radius), from: VECTORS.zero(), to: VECTORS.zero() }
  const met: { collider: Collider2<K> | null } = { collider: null }
  return new Boom<Collider2<K>, MutableVec2>(VECTORS, options, met, (from, to) => {
    VECTORS.write(motion.from, from, 0)
    VECTORS.write(motion.to, to, 0)
    if (world.shapecast.first(motion, filter, hit) === null) return Infinity
    met.collider = hit.collider
    return hit.distance
  })
}
