/** A blast: impulses away from a point, weaker with distance, held off by what stands between. */

import { type BlastHit, type BlastOptions, type BlastSpace, blastBodies } from '../core/solve/blast.ts'
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import { KeenError, show } from '../core/util/errors.ts'
import type { Body3 } from './body.ts'
import { halfWidth } from './solve/dynamics.ts'
import { checkVec, cross, dot, type Vec3 } from './vector.ts'
import { World3 } from './world.ts'

/** What a blast is like. */
export interface BlastOptions3<K extends Kinds = AnyKinds> extends BlastOptions<K['layer'], Body3<K>, Vec3> {}

/** What a blast did to a body. */
export interface BlastHit3<K extends Kinds = AnyKinds> extends BlastHit<Body3<K>, Vec3> {}

/** Rays that look for cover: one to the middle of a body, and a ring about that, as eighths of a turn. */
const RING = 8
const DIAGONAL = Math.sqrt(0.5)
const COSINES = [1, DIAGONAL, 0, -DIAGONAL, -1, -DIAGONAL, 0, DIAGONAL]
/** Part of its half width by which the ring stays within a body. */
const WITHIN = 0.9

const SPACE: BlastSpace<Pick<Body3, 'centre' | 'colliders'>, Vec3> = {
  checkVec: (value, what) => checkVec(value, what),
  direction(from, to) {
    const way = { x: to.x - from.x, y: to.y - from.y, z: to.z - from.z }
    const length = Math.sqrt(dot(way, way))
    return length > 0 ? this.scaled(way, 1 / length) : { x: 0, y: 1, z: 0 }
  },
  scaled: ({ x, y, z }, by) => ({ x: x * by, y: y * by, z: z * by }),
  aims({ centre, colliders }, from) {
    const ahead = this.direction(from, centre)
    const half =
      WITHIN * Math.min(...colliders.flatMap(({ shape }) => shape.pieces.map(({ block }) => halfWidth(block))))
    const aside = cross(ahead, Math.abs(ahead.y) < 0.9 ? { x: 0, y: 1, z: 0 } : { x: 1, y: 0, z: 0 })
    const u = this.scaled(aside, half / Math.sqrt(dot(aside, aside)))
    const v = cross(ahead, u)
    const ring = COSINES.map((cos, i) => {
      const sin = COSINES[(i + RING - 2) % RING]
      return {
        x: centre.x + cos * u.x + sin * v.x,
        y: centre.y + cos * u.y + sin * v.y,
        z: centre.z + cos * u.z + sin * v.z,
      }
    })
    return [centre, ...ring]
  },
}

/**
 * Pushes every dynamic body within reach away from a point, and returns whom it met, the nearest first. Of a body counts the
 * collider that is nearest, and the impulse acts where that is, so that it also turns. Cover is found by rays: a body half
 * behind a rock gets about half. Cost: a nearest query and nine rays a body.
 *
 * @throws KeenError `bad-argument`, `bad-number`, `unknown-layer`
 * @example blast(world, { at: mine.at, reach: 5, strength: 40, cover: 'rock', except: mine })
 */
export function blast<K extends Kinds>(world: World3<K>, options: BlastOptions3<K>): BlastHit3<K>[] {
  if (!(world instanceof World3)) {
    throw new KeenError('bad-argument', `blast takes a world of 3D first, got ${show(world)}`)
  }
  return blastBodies<K['layer'], Body3<K>, Vec3>(world, options, SPACE)
}
