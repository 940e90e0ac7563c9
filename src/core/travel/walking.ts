/** What bears a body that walks, and the steps that it takes onto ledges. */
import { HIT_NORMAL } from '../query/scratch.ts'
import { type Journey, PROGRESS, ROUNDING } from './journey.ts'
import type { Way } from './ways.ts'

/** Metres (times the unit) below the feet within which a body stands; and by which a face is looked for beside an edge. */
export const STANDS = 0.001
const BESIDE = 0.001
/** Cosine by which ground at the very limit is still not too steep. */
const LEVEL = 1e-12

/**
 * Whether what was met bears a body that walks: ground that is not too steep. At an edge the face below it tells, and a ledge is ground
 * only as high as a step. Writes the normal of that face.
 */
export function bears(journey: Journey): boolean {
  const { met, settings, caster, axes, faceNormal, sideways, unit } = journey
  const { up } = settings
  const least = settings.steepest[1] - LEVEL
  const rise = journey.along(met.normal, up)
  for (let k = 0; k < axes; k++) faceNormal[k] = met.normal[k]
  if (!(rise > 0)) return false
  if (caster.isFace(met.piece, met.record)) return rise >= least
  const level = journey.level(met.normal, sideways)
  if (level < 1e-6) return true
  for (let k = 0; k < axes; k++) sideways[k] *= (BESIDE * unit) / level
  const behind = faceBeside(journey, 1)
  const ahead = faceBeside(journey, -1)
  // Between two faces that bear, a corner is a slope as they are.
  if (ahead >= least && behind >= least) {
    for (let k = 0; k < axes; k++) faceNormal[k] = met.normal[k]
    return rise >= least
  }
  if (ahead < least) return rise >= least
  const high = journey.along(met.point, up) - caster.lowest(up)
  if (high <= settings.numbers[0] + ROUNDING * caster.clear) return true
  return rise >= least && (journey.groundCollider < 0 || journey.groundCollider === met.other)
}

/** The rise of the normal of the face that is beside the point that was met, on one side of it; -1 where there is none. */
function faceBeside(journey: Journey, sign: number): number {
  const { met, axes, caster, settings, probe, down, sideways, faceNormal, unit } = journey
  const { up } = settings
  const high = 2 * BESIDE * unit
  for (let k = 0; k < axes; k++) {
    probe[k] = met.point[k] + sign * sideways[k] + high * up[k]
    down[k] = -2 * high * up[k]
  }
  if (!caster.castPoint(met.own, probe, down)) return -1
  for (let k = 0; k < axes; k++) faceNormal[k] = caster.hit[HIT_NORMAL + k]
  return journey.along(faceNormal, up)
}

/** Whether it stands, by what it has met so far, or by what is below its feet. */
function stands(journey: Journey): boolean {
  if (journey.groundCollider >= 0) return true
  const { caster, down, settings, axes, unit, met } = journey
  for (let k = 0; k < axes; k++) down[k] = -STANDS * unit * settings.up[k]
  if (!caster.cast(down)) return false
  met.take(caster)
  if (!bears(journey)) return false
  journey.setGround()
  return true
}

/** Up, forward and down again: takes a ledge that is not too high, if that leads onto ground, higher than before. */
export function stepUp(journey: Journey, way: Way): boolean {
  const { settings, wish, sideways, met, metBefore } = journey
  if (!(settings.numbers[0] > 0) || !(journey.level(wish, sideways) > 0)) return false
  if (!(journey.along(sideways, met.normal) < 0)) return false
  metBefore.copy(met)
  const done = stands(journey) && tryStep(journey, way, settings.numbers[0])
  if (!done) met.copy(metBefore)
  return done
}

function tryStep(journey: Journey, way: Way, high: number): boolean {
  const { caster, settings, wish, rest, axes, down, forth, planes, numbers, met } = journey
  const { up } = settings
  const feet = caster.lowest(up)
  const least = PROGRESS * caster.clear
  journey.save()
  for (let k = 0; k < axes; k++) down[k] = high * up[k]
  const risen = caster.cast(down) ? caster.hit[0] : 1
  if (!(risen * high > least)) return false
  caster.moveAlong(down, risen)
  const length = journey.level(wish, forth)
  const forward = caster.cast(forth) ? caster.hit[0] : 1
  if (!(forward * length > least)) return journey.restore()
  caster.moveAlong(forth, forward)
  for (let k = 0; k < axes; k++) down[k] = -(risen * high + least) * up[k]
  if (!caster.cast(down)) return journey.restore()
  caster.moveAlong(down, caster.hit[0])
  caster.settle()
  met.take(caster)
  const isLow = journey.along(met.point, up) - feet <= high * (1 + 1e-12) + 4 * least
  if (!isLow || !(caster.lowest(up) > feet + ROUNDING * caster.clear)) return journey.restore()
  // Whatever the edge that it stands on is turned to: the face behind it bears, or not.
  if (!(faceAhead(journey, forth) >= settings.steepest[1] - LEVEL)) return journey.restore()
  journey.setGround()
  numbers[0] += forward * length
  journey.mark(way)
  for (let k = 0; k < axes; k++) {
    rest[k] = forth[k] * (1 - forward)
    wish[k] = rest[k]
  }
  planes.clear()
  return true
}

/** The rise of the normal of the face that a body stands on after a step, or of the one behind the edge that it stands on. */
function faceAhead(journey: Journey, forward: Float64Array): number {
  const { met, caster, settings, axes, faceNormal, sideways, unit } = journey
  for (let k = 0; k < axes; k++) faceNormal[k] = met.normal[k]
  if (caster.isFace(met.piece, met.record)) return journey.along(met.normal, settings.up)
  const length = journey.lengthOf(forward)
  for (let k = 0; k < axes; k++) sideways[k] = (forward[k] / length) * BESIDE * unit
  return faceBeside(journey, 1)
}

/** Settles on what was met, which the caster may have forgotten meanwhile. */
export function settleOn(journey: Journey): void {
  const { caster, met } = journey
  caster.found = met.piece
  caster.hitOwn = met.own
  caster.hitOther = met.other
  for (let k = 0; k < met.record.length; k++) caster.hit[k] = met.record[k]
  caster.settle()
}
