/** What users give to `travel` and get of it, in 3D. */
import type { QueryFilter } from '../core/query/compiledFilter.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import type { TravelOptions } from '../core/travel/options.ts'
import { type Crushed, type Ground, type TravelHit, TravelResult } from '../core/travel/result.ts'
import type { Body3 } from './body.ts'
import type { Collider3 } from './collider.ts'
import { type MutableVec3, VECTORS, type Vec3 } from './vector.ts'

/** How a body travels. */
export type TravelOptions3<K extends Kinds = AnyKinds> = TravelOptions<
  Vec3,
  QueryFilter<K, Body3<K>, Collider3<K>>,
  TravelResult3<K>
>

/** How far a body came, what it hit, what it stands on. */
export type TravelResult3<K extends Kinds = AnyKinds> = TravelResult<Body3<K>, Collider3<K>, MutableVec3>

/** What a body hit on its way. */
export type TravelHit3<K extends Kinds = AnyKinds> = TravelHit<Body3<K>, Collider3<K>, MutableVec3>

/** What a body stands on. */
export type Ground3<K extends Kinds = AnyKinds> = Ground<Body3<K>, Collider3<K>, MutableVec3>

/** The two between which a body has no room. */
export type Crushed3<K extends Kinds = AnyKinds> = Crushed<Body3<K>, Collider3<K>>

/** An object that `travel` can write into instead of making one. */
export function travelResult<K extends Kinds = AnyKinds>(): TravelResult3<K> {
  return new TravelResult<Body3<K>, Collider3<K>, MutableVec3>(VECTORS)
}
