/** A blast: impulses away from a point, weaker with distance, held off by what stands between. */

import { type BlastHit, type BlastOptions, type BlastSpace, blastBodies } from '../core/solve/blast.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { KeenError, show } from '../core/util/errors.ts'
import type { Body2 } from './body.ts'
import { halfWidth } from './solve/dynamics.ts'
import { checkVec, type Vec2 } from './vector.ts'
import { World2 } from './world.ts'

/** What a blast is like. */
export interface BlastOptions2<K extends Kinds = AnyKinds> extends BlastOptions<K['layer'], Body2<K>, Vec2> {}

/** What a blast did to a body. */
export interface BlastHit2<K extends Kinds = AnyKinds> extends BlastHit<Body2<K>, Vec2> {}

/** Rays that look for cover, between the two edges of a body as the blast sees it. */
const RAYS = 5
/** Part of its half width by which the outermost rays stay within a body. */
const WITHIN = 0.9

const SPACE: BlastSpace<Pick<Body2, 'centre' | 'colliders'>, Vec2> = {
  checkVec: (value, what) => checkVec(value, what),
  direction(from, to) {
    const x = to.x - from.x
    const y = to.y - from.y
    const length = Math.sqrt(x * x + y * y)
    return length > 0 ? { x: x / length, y: y / length } : { x: 0, y: 1 }
  },
  scaled: ({ x, y }, by) => ({ x: x * by, y: y * by }),
  aims({ centre, colliders }, from) {
    const ahead = this.direction(from, centre)
    const half =
      WITHIN * Math.min(...colliders.flatMap(({ shape }) => shape.pieces.map(({ block }) => halfWidth(block))))
    return Array.from({ length: RAYS }, (_, i) => {
      const aside = half * ((2 * i) / (RAYS - 1) - 1)
      return { x: centre.x - ahead.y * aside, y: centre.y + ahead.x * aside }
    })
  },
}

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
  return blastBodies<K['layer'], Body2<K>, Vec2>(world, options, SPACE)
}
