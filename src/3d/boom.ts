/** A camera arm in 3D. */
import type { QueryFilter } from '../core/query/compiledFilter.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { Boom, type BoomOptions, type BoomView, checkBoom } from '../core/travel/boom.ts'
import { KeenError, show } from '../core/util/errors.ts'
import type { Body3 } from './body.ts'
import type { Collider3 } from './collider.ts'
import { castHit } from './query/cast.ts'
import { sphere } from './shapes/round.ts'
import { type MutableVec3, VECTORS } from './vector.ts'
import { World3 } from './world.ts'

/** What a boom is made from. */
export type BoomOptions3<K extends Kinds = AnyKinds> = BoomOptions<QueryFilter<K, Body3<K>, Collider3<K>>>

/** A camera arm. */
export type Boom3<K extends Kinds = AnyKinds> = Boom<Collider3<K>, MutableVec3>

/** Where a boom has its camera. */
export type BoomView3<K extends Kinds = AnyKinds> = BoomView<Collider3<K>, MutableVec3>

/**
 * A camera arm: a ball is cast from a target to the place where the camera would be, and stops before what it meets. Cost: one shape cast a call.
 * @throws KeenError `bad-argument`, `bad-number`
 * @example const arm = boom(world, { radius: 0.3, margin: 0.1, filter: { layers: 'rock' } })
 */
export function boom<K extends Kinds>(world: World3<K>, options: BoomOptions3<K>): Boom3<K> {
  if (!(world instanceof World3)) {
    throw new KeenError('bad-argument', `boom takes a world of 3D first, got ${show(world)}`)
  }
  const { radius, filter } = checkBoom(options) as BoomOptions3<K>
  const hit = castHit<K>()
  const motion = { shape: sphere(radius), from: VECTORS.zero(), to: VECTORS.zero() }
  const met: { collider: Collider3<K> | null } = { collider: null }
  return new Boom<Collider3<K>, MutableVec3>(VECTORS, options, met, (from, to) => {
    VECTORS.write(motion.from, from, 0)
    VECTORS.write(motion.to, to, 0)
    if (world.shapecast.first(motion, filter, hit) === null) return Infinity
    met.collider = hit.collider
    return hit.distance
  })
}
