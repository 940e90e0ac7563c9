/** A blast: impulses away from a point, weaker with distance, held off by what stands between. */

import type { LayerSet } from '../core/filter/layers.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { callable, finite, notNegative, onlyFields, positive, record } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { COORDINATE, FORCE, SCALE } from '../core/util/limits.ts'
import type { Body2 } from './body.ts'
import type { Collider2 } from './collider.ts'
import { halfWidth } from './solve/dynamics.ts'
import { checkVec, type Vec2 } from './vector.ts'
import { World2 } from './world.ts'

/** What a blast is like. */
export interface BlastOptions2<K extends Kinds = AnyKinds> {
  /** Where it goes off. */
  at: Vec2
  /** How far it reaches. */
  reach: number
  /** Newton seconds that a body gets next to it, in the open. */
  strength: number
  /** What is left at a distance, as a part: of the part of the reach (0 next to it, 1 at its end). Default `1 - part`. */
  falloff?: ((part: number) => number) | undefined
  /** Layers that give cover. Default: none does. */
  cover?: LayerSet<K['layer']> | undefined
  /** Layers whose bodies it can move, or report. Default: all. */
  layers?: LayerSet<K['layer']> | undefined
  /** Bodies that it leaves alone, and that give no cover. */
  except?: Body2<K> | readonly Body2<K>[] | undefined
}

/** What a blast did to a body. */
export interface BlastHit2<K extends Kinds = AnyKinds> {
  /** The body that was pushed. */
  readonly body: Body2<K>
  /** To the nearest point of the body. */
  readonly distance: number
  /** Part of the body that the blast sees, 0 to 1, by five rays. */
  readonly exposed: number
  /** Newton seconds that it got; for a body that is not dynamic, that it would have got. */
  readonly impulse: Vec2
}

/** Rays that look for cover, between the two edges of a body as the blast sees it. */
const RAYS = 5
/** Part of its half width by which the outermost rays stay within a body. */
const WITHIN = 0.9

/**
 * Pushes every dynamic body within reach away from a point, and returns whom it met, the nearest first. Of a body counts the
 * collider that is nearest, and the impulse acts where that is, so that it also turns. Cover is found by rays: a body half
 * behind a rock gets about half. Cost: a nearest query and five rays a body.
 *
 * @throws KeenError `bad-argument`, `bad-number`, `unknown-layer`
 * @example blast(world, { at: mine.at, reach: 5, strength: 40, cover: 'rock', except: mine })
 */
export function blast<K extends Kinds>(world: World2<K>, options: BlastOptions2<K>): BlastHit2<K>[] {
  if (!(world instanceof World2)) {
    throw new KeenError('bad-argument', `blast takes a world of 2D first, got ${show(world)}`)
  }
  record(options, 'the options of a blast')
  onlyFields(options, ['at', 'reach', 'strength', 'falloff', 'cover', 'layers', 'except'], 'the options of a blast')
  const at = checkVec(options.at, "'at' of a blast")
  const reach = positive(options.reach, "'reach' of a blast", COORDINATE)
  const strength = notNegative(options.strength, "'strength' of a blast", FORCE)
  if (options.falloff !== undefined) callable(options.falloff, "'falloff' of a blast")
  const except = [options.except ?? []].flat() as Body2<K>[]
  const met = new Set<Body2<K>>()
  const hits: BlastHit2<K>[] = []
  for (const near of world.nearest.all({ point: at, reach }, { layers: options.layers, except })) {
    const { body, collider, point } = near
    if (met.has(body)) continue
    met.add(body)
    const distance = Math.max(near.distance, 0)
    const part = distance / reach
    const left = finite(options.falloff?.(part) ?? 1 - part, "what 'falloff' of a blast gives", SCALE)
    const exposed = options.cover === undefined ? 1 : exposure(world, at, collider, options.cover, except)
    const away = direction(at, near.distance > 0 ? point : body.centre)
    const size = strength * left * exposed
    const impulse = { x: away.x * size, y: away.y * size }
    if (body.type === 'dynamic' && size !== 0) body.applyImpulse(impulse, near.distance > 0 ? point : undefined)
    hits.push({ body, distance, exposed, impulse })
  }
  return hits
}

/** The part of rays, spread over the width of a collider, that nothing stops on its way there. */
function exposure<K extends Kinds>(
  world: World2<K>,
  at: Vec2,
  target: Collider2<K>,
  cover: LayerSet<K['layer']>,
  except: readonly Body2<K>[],
): number {
  const { centre } = target.body
  const ahead = direction(at, centre)
  const half = WITHIN * slenderness(target.body)
  let free = 0
  for (let i = 0; i < RAYS; i++) {
    const aside = half * ((2 * i) / (RAYS - 1) - 1)
    const to = { x: centre.x - ahead.y * aside, y: centre.y + ahead.x * aside }
    if (!world.raycast.any({ from: at, to }, { layers: cover, except: [...except, target.body] })) free++
  }
  return free / RAYS
}

/** Half the least width of a body's shapes. */
function slenderness<K extends Kinds>({ colliders }: Body2<K>): number {
  return Math.min(...colliders.flatMap(({ shape }) => shape.pieces.map(({ block }) => halfWidth(block))))
}

/** Unit, from one point to another; upwards where they are the same. */
function direction(from: Vec2, to: Vec2): Vec2 {
  const x = to.x - from.x
  const y = to.y - from.y
  const length = Math.sqrt(x * x + y * y)
  return length > 0 ? { x: x / length, y: y / length } : { x: 0, y: 1 }
}
