/** What watches and decide hooks of 2D are given and give: the core's types, with the bodies and vectors of 2D. */
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import type { DecidedPair, Hook } from '../core/watch/decideHooks.ts'
import type { WatchEvent } from '../core/watch/event.ts'
import type { WatchSide } from '../core/watch/sides.ts'
import type { Watch, WatchHandlers } from '../core/watch/watch.ts'
import type { Body2 } from './body.ts'
import type { Collider2 } from './collider.ts'
import type { MutableVec2 } from './vector.ts'

/** A side of a watch: a layer, several, a body, a collider, `{ tag }`, or `'*'` for all. */
export type WatchSide2<K extends Kinds = AnyKinds> = WatchSide<K, Body2<K>, Collider2<K>>

/** A fact about two bodies or two colliders of 2D, valid until the handler returns. */
export interface WatchEvent2<K extends Kinds = AnyKinds> extends WatchEvent<Body2<K>, Collider2<K>, MutableVec2> {}

/** What is done on each kind of event. Left out: it is only recorded. */
export interface WatchHandlers2<K extends Kinds = AnyKinds> extends WatchHandlers<WatchEvent2<K>> {}

/** A standing order of a world of 2D. */
export interface Watch2<K extends Kinds = AnyKinds> extends Watch<Body2<K>, Collider2<K>, MutableVec2> {}

/** The pair that a decide hook of 2D is asked about. */
export interface DecidedPair2<K extends Kinds = AnyKinds> extends DecidedPair<Body2<K>, Collider2<K>, MutableVec2> {
  /**
   * The speed at which the surfaces carry what lies on them: along the surface, to the right when the normal points up. Can be set for
   * this pair, until the two part.
   */
  surfaceSpeed: number
}

/** A decide hook in force, in 2D. */
export interface Hook2<K extends Kinds = AnyKinds> extends Hook<Body2<K>, Collider2<K>, MutableVec2> {}
