/** What is overlapped by rounding, or by a little, is left again: by the shortest way, and between two that face each other by going back. */
import { HIT_NORMAL } from '../query/scratch.ts'
import type { Journey } from './journey.ts'
import type { Way } from './ways.ts'

/** An overlap that is none, but a touch: what ends its way does not even touch. */
const TOUCHING = -1
/** By how much it goes back at most where it has no room by rounding, in what is left to rounding. */
const RETREATED = 1e4
/** Times in which a body is freed of little. */
const TRIMMED = 4

/** Leaves what it overlaps by no more than `numbers[2]`: by rounding, or since what it stands on has turned. */
export function trim(journey: Journey, way: Way): void {
  const { caster, axes, met, forth, numbers } = journey
  let trimmed = false
  for (let round = 0; round < TRIMMED && caster.deepest(TOUCHING); round++) {
    met.take(caster)
    const depth = met.record[caster.layout.depth]
    if (depth > numbers[2]) break
    for (let k = 0; k < axes; k++) forth[k] = met.normal[k] * (depth + caster.clear)
    caster.freeing = true
    const held = caster.cast(forth)
    caster.freeing = false
    caster.moveAlong(forth, held ? caster.hit[0] : 1)
    trimmed = true
    if (held) break
  }
  if (!trimmed) return
  if (caster.deepest(TOUCHING)) retreat(journey, way)
  journey.mark(way)
}

/** Between two that nearly face each other there may be no free place by rounding: back by where it came from, by as little as may be. */
function retreat(journey: Journey, way: Way): void {
  const { caster, axes, forth, numbers } = journey
  const most = RETREATED * numbers[2]
  const { poses } = way
  const size = journey.kept.length
  let length = 0
  // The last corner of the way that is not here.
  for (let i = way.count - 1; i >= way.start && !(length > most); i--) {
    for (let k = 0; k < axes; k++) forth[k] = poses[size * i + k] - caster.pose[k]
    length = journey.lengthOf(forth)
  }
  journey.save()
  for (let far = caster.clear; far < length && far < most; far *= 2) {
    caster.moveTo(journey.saved)
    caster.moveAlong(forth, far / length)
    if (!caster.deepest(TOUCHING)) return
    // There is more room now: off what it slides along.
    const { hit, layout, clear } = caster
    for (let k = 0; k < axes; k++) journey.probe[k] = hit[HIT_NORMAL + k] * (hit[layout.depth] + clear)
    caster.moveAlong(journey.probe, 1)
    if (!caster.deepest(TOUCHING)) return
  }
  caster.moveTo(journey.saved)
}
