/** What users give to `travel` and get of it, in 2D. */
import type { QueryFilter } from '../core/query/compiledFilter.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import type { TravelOptions } from '../core/travel/options.ts'
import { type Crushed, type Ground, type TravelHit, TravelResult } from '../core/travel/result.ts'
import type { Body2 } from './body.ts'
import type { Collider2 } from './collider.ts'
import type { OnTile } from './shapes/shape.ts'
import { type MutableVec2, VECTORS, type Vec2 } from './vector.ts'

/** How a body travels. */
export type TravelOptions2<K extends Kinds = AnyKinds> = TravelOptions<
  Vec2,
  QueryFilter<K, Body2<K>, Collider2<K>>,
  TravelResult2<K>
>

/** How far a body came, what it hit, what it stands on. */
export type TravelResult2<K extends Kinds = AnyKinds> = TravelResult<Body2<K>, Collider2<K>, MutableVec2, TravelHit2<K>>

/** What a body hit on its way. */
export interface TravelHit2<K extends Kinds = AnyKinds>
  extends TravelHit<Body2<K>, Collider2<K>, MutableVec2>,
    OnTile {}

/** What a body stands on. */
export type Ground2<K extends Kinds = AnyKinds> = Ground<Body2<K>, Collider2<K>, MutableVec2>

/** The two between which a body has no room. */
export type Crushed2<K extends Kinds = AnyKinds> = Crushed<Body2<K>, Collider2<K>>

/** An object that `travel` can write into instead of making one. */
export function travelResult<K extends Kinds = AnyKinds>(): TravelResult2<K> {
  return new TravelResult<Body2<K>, Collider2<K>, MutableVec2, TravelHit2<K>>(VECTORS)
}
