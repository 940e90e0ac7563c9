/**
 * Inner edges: where the face along which a body slides goes on in another piece, flush. The body meets the side or the corner of the next by
 * rounding, or since that rises by less than can be told; then it is lifted over.
 */
import { HIT_NORMAL } from '../query/scratch.ts'
import { type Journey, PROGRESS } from './journey.ts'
import type { Way } from './ways.ts'

/** Metres (times the unit) by which ground may rise above a face and still be flush with it: what the solver takes for flush. */
const FLUSH = 0.0005
/** Metres (times the unit) that are gone at a time over an inner edge. */
const HOP = 0.001
/** Cosine of the angle within which what is landed on behind an inner edge is the same face. */
const SAME = 1 - 1e-10
/** Inner edges in one travel, at most. */
const MOST_HOPS = 100_000

/**
 * Whether what was met is an inner edge: the body slides along a face that goes on behind it, flush. Then it is lifted over, by less than
 * what the solver takes for flush, and set down again.
 */
export function overInnerEdge(journey: Journey, way: Way): boolean {
  const { caster, rest, axes, unit, numbers, wish, planes } = journey
  if (journey.met.inside || journey.hops >= MOST_HOPS) return false
  caster.touchFaces(rest)
  const count = caster.faceCount
  if (count === 0) return false
  const length = journey.lengthOf(rest)
  const part = Math.min(1, (HOP * unit) / length)
  const { down, forth } = journey
  const { faces, faceOffsets } = caster
  for (let i = 0; i < count; i++) {
    // What is met higher above the face than that is no edge of it.
    let high = -faceOffsets[i]
    for (let k = 0; k < axes; k++) high += journey.met.point[k] * faces[axes * i + k]
    if (high > FLUSH * unit + PROGRESS * caster.clear) continue
    journey.save()
    for (let k = 0; k < axes; k++) down[k] = FLUSH * unit * faces[axes * i + k]
    const risen = caster.cast(down) ? caster.hit[0] : 1
    if (!(risen * FLUSH * unit > PROGRESS * caster.clear)) {
      journey.restore()
      continue
    }
    caster.moveAlong(down, risen)
    for (let k = 0; k < axes; k++) forth[k] = rest[k] * part
    const forward = caster.cast(forth) ? caster.hit[0] : 1
    if (!(forward * part * length > PROGRESS * caster.clear)) {
      journey.restore()
      continue
    }
    caster.moveAlong(forth, forward)
    for (let k = 0; k < axes; k++) down[k] *= -risen
    if (caster.cast(down)) {
      let same = 0
      for (let k = 0; k < axes; k++) same += caster.hit[HIT_NORMAL + k] * faces[axes * i + k]
      if (!(same >= SAME)) {
        journey.restore()
        continue
      }
      caster.moveAlong(down, caster.hit[0])
      caster.settle()
    } else caster.moveAlong(down, 1)
    journey.hops++
    numbers[0] += forward * part * length
    journey.mark(way)
    for (let k = 0; k < axes; k++) {
      rest[k] *= 1 - forward * part
      wish[k] = rest[k]
    }
    planes.clear()
    return true
  }
  return false
}
