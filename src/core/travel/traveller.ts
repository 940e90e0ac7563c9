/**
 * Travel: a kinematic body is moved by a displacement, at once, with what to do on a hit. It casts the body, goes to the hit, ends a few
 * units in the last place away from it, and turns the rest of the way by the mode: one loop for all. What walks also steps onto ledges,
 * follows the ground and is carried by it. The way is kept for the next step (`ways.ts`).
 */
import type { QueryFilter } from '../query/compiledFilter.ts'
import type { Vectors } from '../query/lines.ts'
import { HIT_NORMAL } from '../query/scratch.ts'
import type { BodyHandle, ColliderHandle, Kinds } from '../state/handle.ts'
import { BODY_ENABLED, KINEMATIC, type Population } from '../state/population.ts'
import { KeenError } from '../util/errors.ts'
import { COORDINATE } from '../util/limits.ts'
import { atan2 } from '../util/maths.ts'
import type { BodyCaster, CasterFilter, Consult } from './caster.ts'
import { BOUNCE, SLIDE, type TravelOptions, TravelSettings } from './options.ts'
import { Planes } from './planes.ts'
import type { Pusher } from './pusher.ts'
import { checkResult, TravelResult } from './result.ts'
import { AIRBORNE, type Riders, STOOD } from './riders.ts'
import type { Way, Ways } from './ways.ts'

/** Metres (times the unit) by which ground may rise above a face and still be flush with it: what the solver takes for flush. */
const FLUSH = 0.0005
/** Metres (times the unit) that are gone at a time over an inner edge. */
const HOP = 0.001
/** Cosine of the angle within which what is landed on behind an inner edge is the same face. */
const SAME = 1 - 1e-10
/** Inner edges in one travel, at most. */
const MOST_HOPS = 100_000
/** Metres (times the unit) below the feet within which a body stands; and by which a face is looked for beside an edge. */
const STANDS = 0.001
const BESIDE = 0.001
/** Metres (times the unit) of an overlap that is told. */
const TOLD = 1e-9
/** Cosine beyond which two normals oppose each other: there is no room between. */
const OPPOSED = 0.5
/** Planes at which a body that is carried may be turned aside. */
const CARRIED_ROUND = 6
/** An overlap that is none, but a touch: what ends its way does not even touch. */
const TOUCHING = -1
/** By how much it goes back at most where it has no room by rounding, in what is left to rounding. */
const RETREATED = 1e4
/** Times in which a body is freed of little. */
const TRIMMED = 4
/** Times in which a body is freed of what it overlaps. */
const MOST_FREEING = 16
/** Cosine by which ground at the very limit is still not too steep. */
const LEVEL = 1e-12
/** In units of the length that counts: what a body is let to overlap by rounding, what is no progress. */
const ROUNDING = 2
const PROGRESS = 64
/** The same of what may be overlapped after a cast, which does not see what is nearer than rounding. */
const ROUNDED = 1024

/** What a traveller needs of its world. */
interface TravelKernel {
  readonly population: Population<object, object>
  readonly ways: Ways
  readonly poses: {
    readonly kept: number
    keep(body: number, out: Float64Array): void
    set(body: number, pose: Float64Array): void
    /** Turns a body about its origin, by a vector (3D). */
    turnBy?(body: number, turn: Float64Array): void
  }
  readonly broadPhase: { markMoved(body: number): void }
  readonly geometry: {
    childOf(piece: number): number
    partOf(piece: number, values: Float64Array, at: number): number
  }
  refresh(): void
}

/** Who lends compiled filters. */
interface FilterPool<F> {
  acquire(filter: F | undefined): { readonly compiled: CasterFilter }
  release(): void
}

/** What a traveller is made from. */
export interface TravellerSetup<C, V, F> {
  readonly kernel: TravelKernel
  readonly vectors: Vectors<V>
  readonly pool: FilterPool<F>
  readonly caster: BodyCaster
  readonly riders: Riders
  /** Pushes dynamic bodies; null in a world without any. */
  readonly pusher: Pusher | null
  readonly unit: number
  /** What decide hooks say, or null while there are none. @param kept what they have said before only */
  hooks(kept: boolean): Consult | null
  colliderOf(slot: number): C
}

/** A hit as numbers, as the caster found it. */
class Met {
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

export class Traveller<K extends Kinds, B extends BodyHandle<K, unknown>, C extends ColliderHandle<K, B>, V> {
  private readonly setup: TravellerSetup<C, V, QueryFilter<K, B, C>>
  private readonly settings: TravelSettings<V>
  private readonly caster: BodyCaster
  private readonly axes: number
  private readonly unit: number
  private readonly planes: Planes
  private readonly met: Met
  /** What was met before a step is tried. */
  private readonly metBefore: Met
  private readonly by: Float64Array
  /** What is left of the way, and what was left on arrival at this place: what the planes of the place are asked with. */
  private readonly rest: Float64Array
  private readonly wish: Float64Array
  private readonly heading: Float64Array
  private readonly start: Float64Array
  private readonly kept: Float64Array
  private readonly turned: Float64Array
  private readonly saved: Float64Array
  private readonly sideways: Float64Array
  private readonly probe: Float64Array
  private readonly down: Float64Array
  private readonly forth: Float64Array
  private readonly words = new Int32Array(4)
  /** Lengths along the way so far; the push that is left; how far it may still be freed, or how much of an overlap is trimmed. */
  private readonly numbers = new Float64Array(3)
  private readonly groundNormal: Float64Array
  private readonly groundPoint: Float64Array
  private readonly faceNormal: Float64Array
  private groundCollider = -1
  private hops = 0
  private body = -1

  constructor(setup: TravellerSetup<C, V, QueryFilter<K, B, C>>) {
    this.setup = setup
    const { vectors, caster } = setup
    const { axes } = vectors
    const vector = (): Float64Array => new Float64Array(axes)
    this.settings = new TravelSettings<V>(vectors)
    this.caster = caster
    this.axes = axes
    this.unit = setup.unit
    this.planes = new Planes(axes)
    this.met = new Met(axes, caster.hit.length)
    this.metBefore = new Met(axes, caster.hit.length)
    this.by = vector()
    this.rest = vector()
    this.wish = vector()
    this.heading = vector()
    this.start = vector()
    this.saved = vector()
    this.sideways = vector()
    this.probe = vector()
    this.down = vector()
    this.forth = vector()
    this.groundNormal = vector()
    this.groundPoint = vector()
    this.faceNormal = vector()
    this.kept = new Float64Array(setup.kernel.poses.kept)
    this.turned = new Float64Array(setup.kernel.poses.kept)
    caster.motion = this.by
    caster.isLed = (body) => setup.riders.isLed(body, this.body)
    setup.riders.carry = (rider, ground, step, turn, up) => this.carry(rider, ground, step, turn, up)
  }

  /** Moves a body by a displacement, at once. */
  travel(
    handle: B,
    by: V,
    options: TravelOptions<V, QueryFilter<K, B, C>, TravelResult<B, C, V>> | undefined,
  ): TravelResult<B, C, V> {
    const { setup, settings, caster } = this
    const { kernel, vectors, pool } = setup
    const body = handle.slot
    if (kernel.population.type.data[body] !== KINEMATIC) {
      const how = handle.type === 'static' ? 'make it kinematic' : 'push it, or make it kinematic'
      throw new KeenError(
        'bad-argument',
        `travel: ${handle} is ${handle.type}, and only a kinematic body travels: ${how}`,
      )
    }
    vectors.read(by, 'the displacement of travel', this.by, 0)
    settings.read(options)
    if (options?.out !== undefined) checkResult(options.out, vectors.axes)
    const result = options?.out ?? new TravelResult<B, C, V>(vectors)
    const filter = options?.filter
    const scratch = filter === undefined ? null : pool.acquire(filter)
    try {
      caster.filter = scratch === null ? null : scratch.compiled
      caster.consult = setup.hooks(false)
      kernel.refresh()
      this.run(handle, result)
    } finally {
      if (scratch !== null) pool.release()
      caster.filter = null
      caster.consult = null
    }
    return result
  }

  /** The whole of a travel, by the settings that were read. */
  private run(handle: B, result: TravelResult<B, C, V>): void {
    const { setup, settings, caster, axes, by, rest, wish, start, numbers, planes } = this
    const { kernel, riders } = setup
    const body = handle.slot
    this.body = body
    this.take(handle)
    result.reset()
    this.heading.fill(0)
    kernel.poses.keep(body, this.kept)
    for (let k = 0; k < axes; k++) start[k] = caster.pose[k]
    const way = kernel.ways.begin(body)
    numbers[0] = 0
    numbers[1] = settings.numbers[2]
    planes.clear()
    this.hops = 0
    const before = riders.stood.data[body]
    const stood = settings.walks && before === STOOD
    this.groundCollider = stood ? riders.groundOf(body) : -1
    this.free(result, way)
    for (let k = 0; k < axes; k++) {
      const to = caster.pose[k] + by[k]
      rest[k] = to > COORDINATE ? COORDINATE - caster.pose[k] : to < -COORDINATE ? -COORDINATE - caster.pose[k] : by[k]
      wish[k] = rest[k]
    }
    this.head()
    while (result.hits.length < settings.numbers[3] && this.isLeft(rest)) {
      if (!caster.cast(rest)) {
        this.advance(1, way)
        rest.fill(0)
        break
      }
      if (!this.meet(result, way)) break
    }
    if (settings.walks) this.standOn(result, way, stood)
    numbers[2] = ROUNDED * caster.clear
    this.trim(way)
    this.head()
    const { vectors } = setup
    for (let k = 0; k < axes; k++) this.saved[k] = caster.pose[k] - start[k]
    vectors.write(result.moved, this.saved, 0)
    vectors.write(result.remainder, rest, 0)
    vectors.write(result.heading, this.heading, 0)
    const stands = result.ground !== null
    if (settings.walks) {
      result.landed = stands && before === AIRBORNE
      result.leftGround = !stands && before === STOOD
      riders.note(body, stands, this.groundCollider, settings.ride, this.groundPoint, this.groundNormal, settings.up)
    } else riders.forget(body)
    this.place(body, way)
    riders.carryAlong(body, this.kept)
  }

  /** Takes a body up, and refuses what cannot be cast. */
  private take(handle: B): void {
    const { caster } = this
    caster.passed.clear()
    const piece = caster.begin(handle.slot)
    if (piece < 0) return
    throw new KeenError(
      'bad-shape',
      `travel: ${handle} has a shape that cannot be cast: a halfspace, a mesh or a heightfield has no way; send it with arriveAt(), or give it convex shapes`,
    )
  }

  /** The body is where the caster has it; the way leads there. */
  private place(body: number, way: Way): void {
    const { setup, caster, axes, start, kept } = this
    const { poses, broadPhase } = setup.kernel
    let moved = false
    for (let k = 0; k < axes; k++) if (caster.pose[k] !== start[k]) moved = true
    if (!moved) return
    for (let k = 0; k < axes; k++) kept[k] = caster.pose[k]
    poses.set(body, kept)
    this.mark(way)
    broadPhase.markMoved(body)
    for (let k = 0; k < axes; k++) kept[k] = start[k]
  }

  /** A corner of the way is here. */
  private mark(way: Way): void {
    const { kept, caster, axes } = this
    for (let k = 0; k < axes; k++) kept[k] = caster.pose[k]
    way.add(kept, false)
  }

  private isLeft(v: Float64Array): boolean {
    return v[0] !== 0 || v[1] !== 0 || (this.axes === 3 && v[2] !== 0)
  }

  private lengthOf(v: Float64Array): number {
    return Math.sqrt(v[0] * v[0] + v[1] * v[1] + (this.axes === 3 ? v[2] * v[2] : 0))
  }

  private along(a: Float64Array, b: Float64Array): number {
    return a[0] * b[0] + a[1] * b[1] + (this.axes === 3 ? a[2] * b[2] : 0)
  }

  /** Keeps the direction in which the rest leads, if there is any. */
  private head(): void {
    const { rest, heading, axes } = this
    const length = this.lengthOf(rest)
    if (length > 0) for (let k = 0; k < axes; k++) heading[k] = rest[k] / length
  }

  /** Goes a part of the rest. */
  private advance(part: number, way: Way): void {
    const { caster, rest, numbers } = this
    this.head()
    caster.moveAlong(rest, part)
    numbers[0] += part * this.lengthOf(rest)
    this.mark(way)
  }

  /** Goes to what the cast has found, and turns the rest by the mode; returns whether it goes on. */
  private meet(result: TravelResult<B, C, V>, way: Way): boolean {
    const { caster, rest, wish, planes, settings, met, axes, numbers } = this
    const part = caster.hit[0]
    const length = this.lengthOf(rest)
    const far = part * length
    this.head()
    if (far > ROUNDING * caster.clear) {
      caster.moveAlong(rest, part)
      caster.settle()
      numbers[0] += far
      this.mark(way)
      for (let k = 0; k < axes; k++) rest[k] *= 1 - part
    }
    if (far > PROGRESS * caster.clear) {
      planes.leave()
      for (let k = 0; k < axes; k++) wish[k] = rest[k]
      // What lifted it onto a slope was no wish of its own.
      const rise = this.along(wish, settings.up)
      if (settings.walks && rise > 0 && this.groundCollider >= 0 && !(this.along(this.by, settings.up) > 0)) {
        for (let k = 0; k < axes; k++) wish[k] -= rise * settings.up[k]
      }
    }
    this.met.take(this.caster)
    if (this.overInnerEdge(way)) return true
    if (settings.mode === SLIDE) return this.slide(result, way)
    this.record(result, way, false)
    if (settings.mode !== BOUNCE) return false
    planes.clear()
    const { heading } = this
    const into = this.along(heading, met.normal)
    for (let k = 0; k < axes; k++) heading[k] -= 2 * into * met.normal[k]
    // Rounding neither adds to the way nor takes from it; and where it ended just here, the next way leads off.
    const left = this.lengthOf(rest)
    const one = this.lengthOf(heading)
    for (let k = 0; k < axes; k++) {
      heading[k] /= one
      rest[k] = heading[k] * left
    }
    return left > 0
  }

  /** Writes down what was met. */
  private record(result: TravelResult<B, C, V>, way: Way, pushed: boolean): void {
    const { setup, met, caster, numbers, rest } = this
    const { vectors, kernel } = setup
    const hit = result.addHit()
    hit.collider = setup.colliderOf(met.other)
    hit.body = hit.collider.body
    hit.mine = setup.colliderOf(met.own)
    vectors.write(hit.point, met.point, 0)
    vectors.write(hit.normal, met.normal, 0)
    vectors.write(hit.at, caster.pose, 0)
    hit.distance = numbers[0]
    hit.startedInside = met.inside
    hit.depth = met.inside ? met.record[caster.layout.depth] : 0
    hit.pushed = pushed
    hit.child = kernel.geometry.childOf(met.piece)
    hit.part = kernel.geometry.partOf(met.piece, met.record, 0)
    // What is pushed is pressed by the step, which tells of it.
    if (pushed) return
    const { words } = this
    const { serial } = kernel.population
    words[0] = met.own
    words[1] = met.other
    words[2] = serial.data[met.own]
    words[3] = serial.data[met.other]
    const length = this.lengthOf(rest)
    way.hit(words, length > 0 ? -this.along(rest, met.normal) / length : 0, met.normal, met.point)
  }

  // Sliding and walking.

  private slide(result: TravelResult<B, C, V>, way: Way): boolean {
    const { settings, met, rest, wish, planes, caster, axes, sideways } = this
    const { up } = settings
    const { pusher } = this.setup
    const bears = settings.walks && this.bears()
    if (!bears && pusher !== null && this.numbers[1] > 0 && pusher.isPushable(met.other)) {
      const part = pusher.push(met.other, met.normal, rest, this.numbers, 1, this.body)
      if (part > 0) {
        this.record(result, way, true)
        caster.passed.push(pusher.bodyOf(met.other))
        way.pushed.push(pusher.bodyOf(met.other))
        if (part >= 1) return true
        // It goes so far, and no further.
        for (let k = 0; k < axes; k++) this.saved[k] = rest[k]
        for (let k = 0; k < axes; k++) rest[k] *= part
        if (caster.cast(rest)) return this.meet(result, way)
        this.advance(1, way)
        for (let k = 0; k < axes; k++) rest[k] = this.saved[k] * (1 - part)
        for (let k = 0; k < axes; k++) wish[k] = rest[k]
        planes.clear()
        planes.add(met.normal, false)
        planes.solve(wish, this.by, up, rest)
        return true
      }
    }
    if (settings.walks && !bears && this.stepUp(way)) return true
    this.record(result, way, false)
    const rise = this.along(met.normal, up)
    if (settings.walks && bears) {
      planes.add(met.normal, true)
      this.setGround()
    } else if (settings.walks && rise > 0) {
      // Too steep to walk on: it may lead down, and never up.
      const level = this.level(met.normal, sideways)
      if (this.along(wish, up) > 0 && level > 1e-9) {
        for (let k = 0; k < axes; k++) sideways[k] /= level
        planes.add(sideways, false)
      } else {
        planes.add(met.normal, false)
        for (let k = 0; k < axes; k++) sideways[k] = -up[k]
        planes.add(sideways, false)
      }
    } else planes.add(met.normal, false)
    planes.solve(wish, this.by, up, rest)
    return true
  }

  /** Writes the part of a vector across the up, and returns its length. */
  private level(v: Float64Array, out: Float64Array): number {
    const { axes, settings } = this
    const rise = this.along(v, settings.up)
    for (let k = 0; k < axes; k++) out[k] = v[k] - rise * settings.up[k]
    return this.lengthOf(out)
  }

  private setGround(): void {
    const { met, axes, groundNormal, groundPoint, faceNormal } = this
    this.groundCollider = met.other
    for (let k = 0; k < axes; k++) {
      groundNormal[k] = faceNormal[k]
      groundPoint[k] = met.point[k]
    }
  }

  /**
   * Whether what was met bears a body that walks: ground that is not too steep. At an edge the face below it tells, and a ledge is ground
   * only as high as a step. Writes the normal of that face.
   */
  private bears(): boolean {
    const { met, settings, caster, axes, faceNormal, sideways, unit } = this
    const { up } = settings
    const least = settings.steepest[1] - LEVEL
    const rise = this.along(met.normal, up)
    for (let k = 0; k < axes; k++) faceNormal[k] = met.normal[k]
    if (!(rise > 0)) return false
    if (caster.isFace(met.piece, met.record)) return rise >= least
    const level = this.level(met.normal, sideways)
    if (level < 1e-6) return true
    for (let k = 0; k < axes; k++) sideways[k] *= (BESIDE * unit) / level
    const behind = this.faceBeside(1)
    const ahead = this.faceBeside(-1)
    // Between two faces that bear, a corner is a slope as they are.
    if (ahead >= least && behind >= least) {
      for (let k = 0; k < axes; k++) faceNormal[k] = met.normal[k]
      return rise >= least
    }
    if (ahead < least) return rise >= least
    const high = this.along(met.point, up) - caster.lowest(up)
    if (high <= settings.numbers[0] + ROUNDING * caster.clear) return true
    return rise >= least && (this.groundCollider < 0 || this.groundCollider === met.other)
  }

  /** The rise of the normal of the face that is beside the point that was met, on one side of it; -1 where there is none. */
  private faceBeside(sign: number): number {
    const { met, axes, caster, settings, probe, down, sideways, faceNormal, unit } = this
    const { up } = settings
    const high = 2 * BESIDE * unit
    for (let k = 0; k < axes; k++) {
      probe[k] = met.point[k] + sign * sideways[k] + high * up[k]
      down[k] = -2 * high * up[k]
    }
    if (!caster.castPoint(met.own, probe, down)) return -1
    for (let k = 0; k < axes; k++) faceNormal[k] = caster.hit[HIT_NORMAL + k]
    return this.along(faceNormal, up)
  }

  private save(): void {
    for (let k = 0; k < this.axes; k++) this.saved[k] = this.caster.pose[k]
  }

  private restore(): false {
    this.caster.moveTo(this.saved)
    return false
  }

  /** Whether it stands, by what it has met so far, or by what is below its feet. */
  private stands(): boolean {
    if (this.groundCollider >= 0) return true
    const { caster, down, settings, axes, unit, met } = this
    for (let k = 0; k < axes; k++) down[k] = -STANDS * unit * settings.up[k]
    if (!caster.cast(down)) return false
    met.take(caster)
    if (!this.bears()) return false
    this.setGround()
    return true
  }

  /** Up, forward and down again: takes a ledge that is not too high, if that leads onto ground, higher than before. */
  private stepUp(way: Way): boolean {
    const { settings, wish, sideways, met, metBefore } = this
    if (!(settings.numbers[0] > 0) || !(this.level(wish, sideways) > 0)) return false
    if (!(this.along(sideways, met.normal) < 0)) return false
    metBefore.copy(met)
    const done = this.stands() && this.tryStep(way, settings.numbers[0])
    if (!done) met.copy(metBefore)
    return done
  }

  private tryStep(way: Way, high: number): boolean {
    const { caster, settings, wish, rest, axes, down, forth, planes, numbers, met } = this
    const { up } = settings
    const feet = caster.lowest(up)
    const least = PROGRESS * caster.clear
    this.save()
    for (let k = 0; k < axes; k++) down[k] = high * up[k]
    const risen = caster.cast(down) ? caster.hit[0] : 1
    if (!(risen * high > least)) return false
    caster.moveAlong(down, risen)
    const length = this.level(wish, forth)
    const forward = caster.cast(forth) ? caster.hit[0] : 1
    if (!(forward * length > least)) return this.restore()
    caster.moveAlong(forth, forward)
    for (let k = 0; k < axes; k++) down[k] = -(risen * high + least) * up[k]
    if (!caster.cast(down)) return this.restore()
    caster.moveAlong(down, caster.hit[0])
    caster.settle()
    met.take(caster)
    const isLow = this.along(met.point, up) - feet <= high * (1 + 1e-12) + 4 * least
    if (!isLow || !(caster.lowest(up) > feet + ROUNDING * caster.clear)) return this.restore()
    // Whatever the edge that it stands on is turned to: the face behind it bears, or not.
    if (!(this.faceAhead(forth) >= settings.steepest[1] - LEVEL)) return this.restore()
    this.setGround()
    numbers[0] += forward * length
    this.mark(way)
    for (let k = 0; k < axes; k++) {
      rest[k] = forth[k] * (1 - forward)
      wish[k] = rest[k]
    }
    planes.clear()
    return true
  }

  /** The rise of the normal of the face that a body stands on after a step, or of the one behind the edge that it stands on. */
  private faceAhead(forward: Float64Array): number {
    const { met, caster, settings, axes, faceNormal, sideways, unit } = this
    for (let k = 0; k < axes; k++) faceNormal[k] = met.normal[k]
    if (caster.isFace(met.piece, met.record)) return this.along(met.normal, settings.up)
    const length = this.lengthOf(forward)
    for (let k = 0; k < axes; k++) sideways[k] = (forward[k] / length) * BESIDE * unit
    return this.faceBeside(1)
  }

  /** At the end of the way: follows the ground down, and finds what the body stands on. */
  private standOn(result: TravelResult<B, C, V>, way: Way, stood: boolean): void {
    const { caster, settings, axes, down, unit, by } = this
    const { up } = settings
    const rises = this.along(by, up) > ROUNDING * caster.clear
    const follows = !rises && (stood || this.groundCollider >= 0)
    const reach = Math.max(STANDS * unit, follows ? settings.numbers[1] : 0)
    for (let k = 0; k < axes; k++) down[k] = -reach * up[k]
    const last = this.groundCollider
    // Standing there now is what decides whether an edge bears it.
    this.groundCollider = -1
    if (!caster.cast(down)) return
    this.met.take(caster)
    const part = caster.hit[0]
    const far = part * reach
    this.groundCollider = last
    this.save()
    if (far > PROGRESS * caster.clear) caster.moveAlong(down, part)
    const bears = this.bears()
    if (!bears) {
      this.groundCollider = -1
      if (far > PROGRESS * caster.clear) this.restore()
      return
    }
    if (far > PROGRESS * caster.clear) {
      if (!rises && settings.numbers[1] > 0) {
        this.settleOn()
        this.mark(way)
      } else this.restore()
    }
    this.setGround()
    const { setup, met, groundNormal } = this
    const ground = result.setGround()
    ground.collider = setup.colliderOf(met.other)
    ground.body = ground.collider.body
    setup.vectors.write(ground.point, met.point, 0)
    setup.vectors.write(ground.normal, groundNormal, 0)
    const rise = this.along(groundNormal, up)
    ground.slope = atan2(this.level(groundNormal, this.sideways), rise)
  }

  /** Settles on what was met, which the caster may have forgotten meanwhile. */
  private settleOn(): void {
    const { caster, met } = this
    caster.found = met.piece
    caster.hitOwn = met.own
    caster.hitOther = met.other
    for (let k = 0; k < met.record.length; k++) caster.hit[k] = met.record[k]
    caster.settle()
  }

  /**
   * Whether what was met is an inner edge: the body slides along a face that goes on behind it, flush. Then it is lifted over, by less than
   * what the solver takes for flush, and set down again.
   */
  private overInnerEdge(way: Way): boolean {
    const { caster, rest, axes, unit, numbers, wish, planes } = this
    if (this.met.inside || this.hops >= MOST_HOPS) return false
    caster.touchFaces(rest)
    const count = caster.faceCount
    if (count === 0) return false
    const length = this.lengthOf(rest)
    const part = Math.min(1, (HOP * unit) / length)
    const { down, forth } = this
    const { faces, faceOffsets } = caster
    for (let i = 0; i < count; i++) {
      // What is met higher above the face than that is no edge of it.
      let high = -faceOffsets[i]
      for (let k = 0; k < axes; k++) high += this.met.point[k] * faces[axes * i + k]
      if (high > FLUSH * unit + PROGRESS * caster.clear) continue
      this.save()
      for (let k = 0; k < axes; k++) down[k] = FLUSH * unit * faces[axes * i + k]
      const risen = caster.cast(down) ? caster.hit[0] : 1
      if (!(risen * FLUSH * unit > PROGRESS * caster.clear)) {
        this.restore()
        continue
      }
      caster.moveAlong(down, risen)
      for (let k = 0; k < axes; k++) forth[k] = rest[k] * part
      const forward = caster.cast(forth) ? caster.hit[0] : 1
      if (!(forward * part * length > PROGRESS * caster.clear)) {
        this.restore()
        continue
      }
      caster.moveAlong(forth, forward)
      for (let k = 0; k < axes; k++) down[k] *= -risen
      if (caster.cast(down)) {
        let same = 0
        for (let k = 0; k < axes; k++) same += caster.hit[HIT_NORMAL + k] * faces[axes * i + k]
        if (!(same >= SAME)) {
          this.restore()
          continue
        }
        caster.moveAlong(down, caster.hit[0])
        caster.settle()
      } else caster.moveAlong(down, 1)
      this.hops++
      numbers[0] += forward * part * length
      this.mark(way)
      for (let k = 0; k < axes; k++) {
        rest[k] *= 1 - forward * part
        wish[k] = rest[k]
      }
      planes.clear()
      return true
    }
    return false
  }

  // Freeing.

  /** Leaves what it overlaps: by the deepest first, along the way out, swept and bounded. */
  private free(result: TravelResult<B, C, V>, way: Way): void {
    const { caster, axes, met, forth, rest, setup, unit } = this
    const { numbers } = this
    numbers[2] = 4 * caster.reach + unit
    let freed = false
    for (let round = 0; round < MOST_FREEING && caster.deepest(ROUNDING); round++) {
      met.take(caster)
      freed = true
      const depth = met.record[caster.layout.depth]
      // It leads out of it; and what is rounding alone is nothing to tell of.
      for (let k = 0; k < axes; k++) rest[k] = -met.normal[k]
      if (depth > TOLD * unit && !isTold(result, setup.colliderOf(met.other))) this.record(result, way, false)
      const far = depth + caster.clear
      if (far > numbers[2]) break
      numbers[2] -= far
      for (let k = 0; k < axes; k++) forth[k] = met.normal[k] * far
      caster.freeing = true
      const held = caster.cast(forth)
      caster.freeing = false
      if (!held) {
        caster.moveAlong(forth, 1)
        continue
      }
      caster.moveAlong(forth, caster.hit[0])
      caster.settle()
      let against = 0
      for (let k = 0; k < axes; k++) against -= caster.hit[HIT_NORMAL + k] * met.normal[k]
      if (!(against > OPPOSED)) continue
      const crushed = result.setCrushed()
      crushed.aCollider = setup.colliderOf(met.other)
      crushed.a = crushed.aCollider.body
      crushed.bCollider = setup.colliderOf(caster.hitOther)
      crushed.b = crushed.bCollider.body
      break
    }
    if (freed) this.mark(way)
  }

  /** Leaves what it overlaps by no more than `numbers[2]`: by rounding, or since what it stands on has turned. */
  private trim(way: Way): void {
    const { caster, axes, met, forth, numbers } = this
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
    if (caster.deepest(TOUCHING)) this.retreat(way)
    this.mark(way)
  }

  /** Between two that nearly face each other there may be no free place by rounding: back by where it came from, by as little as may be. */
  private retreat(way: Way): void {
    const { caster, axes, forth, numbers } = this
    const most = RETREATED * numbers[2]
    const { poses } = way
    const size = this.kept.length
    let length = 0
    // The last corner of the way that is not here.
    for (let i = way.count - 1; i >= way.start && !(length > most); i--) {
      for (let k = 0; k < axes; k++) forth[k] = poses[size * i + k] - caster.pose[k]
      length = this.lengthOf(forth)
    }
    this.save()
    for (let far = caster.clear; far < length && far < most; far *= 2) {
      caster.moveTo(this.saved)
      caster.moveAlong(forth, far / length)
      if (!caster.deepest(TOUCHING)) return
      // There is more room now: off what it slides along.
      const { hit, layout, clear } = caster
      for (let k = 0; k < axes; k++) this.probe[k] = hit[HIT_NORMAL + k] * (hit[layout.depth] + clear)
      caster.moveAlong(this.probe, 1)
      if (!caster.deepest(TOUCHING)) return
    }
    caster.moveTo(this.saved)
  }

  /** Carries a rider along with what it stands on, as far as there is room. */
  private carry(rider: number, ground: number, by: Float64Array, turn: Float64Array, up: Float64Array): void {
    const { caster, setup, axes, start, rest, wish, planes } = this
    const { kernel, riders } = setup
    const { population } = kernel
    const isOn = (population.bodyFlags.data[rider] & BODY_ENABLED) !== 0
    if (!isOn || !population.bodyAlive(rider) || population.type.data[rider] !== KINEMATIC) return
    kernel.refresh()
    caster.consult = setup.hooks(true)
    const way = kernel.ways.begin(rider)
    kernel.poses.keep(rider, this.kept)
    this.body = rider
    caster.passed.clear()
    if (caster.begin(rider) >= 0) return
    caster.passed.push(ground)
    for (let k = 0; k < axes; k++) {
      start[k] = caster.pose[k]
      rest[k] = by[k]
      wish[k] = by[k]
    }
    planes.clear()
    for (let round = 0; round < CARRIED_ROUND && this.isLeft(rest); round++) {
      const met = caster.cast(rest)
      const part = met ? caster.hit[0] : 1
      const far = part * this.lengthOf(rest)
      caster.moveAlong(rest, part)
      if (!met) break
      caster.settle()
      this.met.take(caster)
      for (let k = 0; k < axes; k++) rest[k] *= 1 - part
      if (far > PROGRESS * caster.clear) {
        planes.leave()
        for (let k = 0; k < axes; k++) wish[k] = rest[k]
      }
      planes.add(this.met.normal, false)
      planes.solve(wish, by, up, rest)
    }
    caster.passed.clear()
    // What bears it may fall away under it, as the edge of a belt does.
    const far = this.lengthOf(by)
    for (let k = 0; k < axes; k++) this.down[k] = -far * up[k]
    if (caster.cast(this.down) && population.filter.body.data[caster.hitOther] === ground) {
      caster.moveAlong(this.down, caster.hit[0])
      caster.settle()
    }
    this.numbers[2] = ROUNDED * caster.clear + far
    this.trim(way)
    caster.consult = null
    this.place(rider, way)
    for (let k = 0; k < turn.length; k++) {
      if (turn[k] === 0) continue
      this.turnAlong(rider, turn, way)
      break
    }
    riders.carryAlong(rider, this.kept)
  }

  /** Turns a rider as its ground has turned, where it has room for that. */
  private turnAlong(rider: number, turn: Float64Array, way: Way): void {
    const { caster, setup, turned } = this
    const { poses, broadPhase } = setup.kernel
    poses.keep(rider, turned)
    poses.turnBy?.(rider, turn)
    caster.begin(rider)
    if (caster.deepest(PROGRESS)) {
      poses.set(rider, turned)
      return
    }
    poses.keep(rider, turned)
    way.add(turned, false)
    broadPhase.markMoved(rider)
  }
}

function isTold<B, C, V>(result: TravelResult<B, C, V>, collider: C): boolean {
  for (let i = 0; i < result.hits.length; i++) if (result.hits[i].collider === collider) return true
  return false
}
