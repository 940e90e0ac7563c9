/**
 * A travel under way: where the body would stand, what is left of its way, what it has met, what it stands on. The rooms that move it (freeing,
 * inner edges, walking) work on this one.
 */
import { HIT_NORMAL } from '../query/scratch.ts'
import type { BodyCaster } from './caster.ts'
import type { TravelSettings } from './options.ts'
import { Planes } from './planes.ts'
import type { Way } from './ways.ts'

/** In units of {@link BodyCaster.clear}: what a body is let to overlap by rounding, what is no progress. */
export const ROUNDING = 2
export const PROGRESS = 64

/** A hit as numbers, as the caster found it. */
export class Met {
  own = -1
  other = -1
  piece = -1
  inside = false
  /** As in a cast record. */
  readonly record: Float64Array
  readonly normal: Float64Array
  readonly point: Float64Array

  constructor(axes: number, size: number) {
    this.record = new Float64Array(size)
    this.normal = new Float64Array(axes)
    this.point = new Float64Array(axes)
  }

  take(caster: BodyCaster): void {
    const { hit, layout, axes } = caster
    this.own = caster.hitOwn
    this.other = caster.hitOther
    this.piece = caster.found
    this.inside = caster.hitInside
    for (let k = 0; k < hit.length; k++) this.record[k] = hit[k]
    for (let k = 0; k < axes; k++) {
      this.normal[k] = hit[HIT_NORMAL + k]
      this.point[k] = hit[layout.point + k]
    }
  }

  copy(from: Met): void {
    this.own = from.own
    this.other = from.other
    this.piece = from.piece
    this.inside = from.inside
    this.record.set(from.record)
    this.normal.set(from.normal)
    this.point.set(from.point)
  }
}

export class Journey {
  readonly caster: BodyCaster
  readonly axes: number
  /** The user's lengths to a metre. */
  readonly unit: number
  readonly settings: TravelSettings<unknown>
  readonly planes: Planes
  readonly met: Met
  /** What was met before a step is tried. */
  readonly metBefore: Met
  /** The whole way that was asked for. */
  readonly by: Float64Array
  /** What is left of it, and what was left on arrival at this place: what the planes of the place are asked with. */
  readonly rest: Float64Array
  readonly wish: Float64Array
  /** The direction of the rest, unit. */
  readonly heading: Float64Array
  readonly start: Float64Array
  /** The pose of the body, as it is kept; the place is where it set out. */
  readonly kept: Float64Array
  readonly saved: Float64Array
  readonly sideways: Float64Array
  readonly probe: Float64Array
  readonly down: Float64Array
  readonly forth: Float64Array
  /** Lengths along the way so far; the push that is left; how far it may still be freed, or how much of an overlap is trimmed. */
  readonly numbers = new Float64Array(3)
  /** What it stands on, as far as is known: the collider, or -1. */
  groundCollider = -1
  readonly groundNormal: Float64Array
  readonly groundPoint: Float64Array
  /** Normal of the face that was looked at last. */
  readonly faceNormal: Float64Array
  /** Inner edges that it has gone over. */
  hops = 0

  /** @param kept numbers of a pose */
  constructor(caster: BodyCaster, settings: TravelSettings<unknown>, unit: number, kept: number) {
    const { axes } = caster
    const vector = (): Float64Array => new Float64Array(axes)
    this.caster = caster
    this.axes = axes
    this.unit = unit
    this.settings = settings
    this.planes = new Planes(axes)
    this.met = new Met(axes, caster.hit.length)
    this.metBefore = new Met(axes, caster.hit.length)
    this.by = vector()
    this.rest = vector()
    this.wish = vector()
    this.heading = vector()
    this.start = vector()
    this.kept = new Float64Array(kept)
    this.saved = vector()
    this.sideways = vector()
    this.probe = vector()
    this.down = vector()
    this.forth = vector()
    this.groundNormal = vector()
    this.groundPoint = vector()
    this.faceNormal = vector()
  }

  isLeft(v: Float64Array): boolean {
    return v[0] !== 0 || v[1] !== 0 || (this.axes === 3 && v[2] !== 0)
  }

  lengthOf(v: Float64Array): number {
    return Math.sqrt(v[0] * v[0] + v[1] * v[1] + (this.axes === 3 ? v[2] * v[2] : 0))
  }

  along(a: Float64Array, b: Float64Array): number {
    return a[0] * b[0] + a[1] * b[1] + (this.axes === 3 ? a[2] * b[2] : 0)
  }

  /** Writes the part of a vector across the up, and returns its length. */
  level(v: Float64Array, out: Float64Array): number {
    const { axes, settings } = this
    const rise = this.along(v, settings.up)
    for (let k = 0; k < axes; k++) out[k] = v[k] - rise * settings.up[k]
    return this.lengthOf(out)
  }

  /** Keeps the direction in which the rest leads, if there is any. */
  head(): void {
    const { rest, heading, axes } = this
    const length = this.lengthOf(rest)
    if (length > 0) for (let k = 0; k < axes; k++) heading[k] = rest[k] / length
  }

  /** Goes a part of the rest. */
  advance(part: number, way: Way): void {
    const { caster, rest, numbers } = this
    this.head()
    caster.moveAlong(rest, part)
    numbers[0] += part * this.lengthOf(rest)
    this.mark(way)
  }

  save(): void {
    for (let k = 0; k < this.axes; k++) this.saved[k] = this.caster.pose[k]
  }

  restore(): false {
    this.caster.moveTo(this.saved)
    return false
  }

  /** A corner of the way is here. */
  mark(way: Way): void {
    const { kept, caster, axes } = this
    for (let k = 0; k < axes; k++) kept[k] = caster.pose[k]
    way.add(kept, false)
  }

  setGround(): void {
    const { met, axes, groundNormal, groundPoint, faceNormal } = this
    this.groundCollider = met.other
    for (let k = 0; k < axes; k++) {
      groundNormal[k] = faceNormal[k]
      groundPoint[k] = met.point[k]
    }
  }
}
