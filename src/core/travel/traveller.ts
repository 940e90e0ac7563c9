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
import { trim } from './freeing.ts'
import { overInnerEdge } from './innerEdges.ts'
import { Journey, PROGRESS, ROUNDING } from './journey.ts'
import { BOUNCE, SLIDE, type TravelOptions, TravelSettings } from './options.ts'
import type { Pusher } from './pusher.ts'
import { checkResult, TravelResult } from './result.ts'
import { AIRBORNE, type Riders, STOOD } from './riders.ts'
import { bears, STANDS, settleOn, stepUp } from './walking.ts'
import type { Way, Ways } from './ways.ts'

/** Metres (times the unit) of an overlap that is told. */
const TOLD = 1e-9
/** Cosine beyond which two normals oppose each other: there is no room between. */
const OPPOSED = 0.5
/** Planes at which a body that is carried may be turned aside. */
const CARRIED_ROUND = 6
/** Times in which a body is freed of what it overlaps. */
const MOST_FREEING = 16
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

export class Traveller<K extends Kinds, B extends BodyHandle<K, unknown>, C extends ColliderHandle<K, B>, V> {
  private readonly setup: TravellerSetup<C, V, QueryFilter<K, B, C>>
  private readonly settings: TravelSettings<V>
  private readonly journey: Journey
  private readonly turned: Float64Array
  private readonly words = new Int32Array(4)
  private body = -1

  constructor(setup: TravellerSetup<C, V, QueryFilter<K, B, C>>) {
    this.setup = setup
    const { vectors, caster, kernel, riders, unit } = setup
    const { kept } = kernel.poses
    this.settings = new TravelSettings<V>(vectors)
    this.journey = new Journey(caster, this.settings as TravelSettings<unknown>, unit, kept)
    this.turned = new Float64Array(kept)
    caster.motion = this.journey.by
    caster.isLed = (body) => riders.isLed(body, this.body)
    riders.carry = (rider, ground, step, turn, up) => this.carry(rider, ground, step, turn, up)
  }

  /** Moves a body by a displacement, at once. */
  travel(
    handle: B,
    by: V,
    options: TravelOptions<V, QueryFilter<K, B, C>, TravelResult<B, C, V>> | undefined,
  ): TravelResult<B, C, V> {
    const { setup, settings } = this
    const { caster } = this.journey
    const { kernel, vectors, pool } = setup
    const body = handle.slot
    if (kernel.population.type.data[body] !== KINEMATIC) {
      const how = handle.type === 'static' ? 'make it kinematic' : 'push it, or make it kinematic'
      throw new KeenError(
        'bad-argument',
        `travel: ${handle} is ${handle.type}, and only a kinematic body travels: ${how}`,
      )
    }
    vectors.read(by, 'the displacement of travel', this.journey.by, 0)
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
    const { setup, settings } = this
    const { caster, axes, by, rest, wish, start, numbers, planes } = this.journey
    const { kernel, riders } = setup
    const body = handle.slot
    this.body = body
    this.take(handle)
    result.reset()
    this.journey.heading.fill(0)
    kernel.poses.keep(body, this.journey.kept)
    for (let k = 0; k < axes; k++) start[k] = caster.pose[k]
    const way = kernel.ways.begin(body)
    numbers[0] = 0
    numbers[1] = settings.numbers[2]
    planes.clear()
    this.journey.hops = 0
    const before = riders.stood.data[body]
    const stood = settings.walks && before === STOOD
    this.journey.groundCollider = stood ? riders.groundOf(body) : -1
    this.free(result, way)
    for (let k = 0; k < axes; k++) {
      const to = caster.pose[k] + by[k]
      rest[k] = to > COORDINATE ? COORDINATE - caster.pose[k] : to < -COORDINATE ? -COORDINATE - caster.pose[k] : by[k]
      wish[k] = rest[k]
    }
    this.journey.head()
    while (result.hits.length < settings.numbers[3] && this.journey.isLeft(rest)) {
      if (!caster.cast(rest)) {
        this.journey.advance(1, way)
        rest.fill(0)
        break
      }
      if (!this.meet(result, way)) break
    }
    if (settings.walks) this.standOn(result, way, stood)
    numbers[2] = ROUNDED * caster.clear
    trim(this.journey, way)
    this.journey.head()
    const { vectors } = setup
    for (let k = 0; k < axes; k++) this.journey.saved[k] = caster.pose[k] - start[k]
    vectors.write(result.moved, this.journey.saved, 0)
    vectors.write(result.remainder, rest, 0)
    vectors.write(result.heading, this.journey.heading, 0)
    const stands = result.ground !== null
    if (settings.walks) {
      result.landed = stands && before === AIRBORNE
      result.leftGround = !stands && before === STOOD
      riders.note(
        body,
        stands,
        this.journey.groundCollider,
        settings.ride,
        this.journey.groundPoint,
        this.journey.groundNormal,
        settings.up,
      )
    } else riders.forget(body)
    this.place(body, way)
    riders.carryAlong(body, this.journey.kept)
  }

  /** Takes a body up, and refuses what cannot be cast. */
  private take(handle: B): void {
    const { caster } = this.journey
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
    const { setup } = this
    const { caster, axes, start, kept } = this.journey
    const { poses, broadPhase } = setup.kernel
    let moved = false
    for (let k = 0; k < axes; k++) if (caster.pose[k] !== start[k]) moved = true
    if (!moved) return
    for (let k = 0; k < axes; k++) kept[k] = caster.pose[k]
    poses.set(body, kept)
    this.journey.mark(way)
    broadPhase.markMoved(body)
    for (let k = 0; k < axes; k++) kept[k] = start[k]
  }

  /** Goes to what the cast has found, and turns the rest by the mode; returns whether it goes on. */
  private meet(result: TravelResult<B, C, V>, way: Way): boolean {
    const { settings } = this
    const { caster, rest, wish, planes, met, axes, numbers } = this.journey
    const part = caster.hit[0]
    const length = this.journey.lengthOf(rest)
    const far = part * length
    this.journey.head()
    if (far > ROUNDING * caster.clear) {
      caster.moveAlong(rest, part)
      caster.settle()
      numbers[0] += far
      this.journey.mark(way)
      for (let k = 0; k < axes; k++) rest[k] *= 1 - part
    }
    if (far > PROGRESS * caster.clear) {
      planes.leave()
      for (let k = 0; k < axes; k++) wish[k] = rest[k]
      // What lifted it onto a slope was no wish of its own.
      const rise = this.journey.along(wish, settings.up)
      if (
        settings.walks &&
        rise > 0 &&
        this.journey.groundCollider >= 0 &&
        !(this.journey.along(this.journey.by, settings.up) > 0)
      ) {
        for (let k = 0; k < axes; k++) wish[k] -= rise * settings.up[k]
      }
    }
    this.journey.met.take(this.journey.caster)
    if (overInnerEdge(this.journey, way)) return true
    if (settings.mode === SLIDE) return this.slide(result, way)
    this.record(result, way, false)
    if (settings.mode !== BOUNCE) return false
    planes.clear()
    const { heading } = this.journey
    const into = this.journey.along(heading, met.normal)
    for (let k = 0; k < axes; k++) heading[k] -= 2 * into * met.normal[k]
    // Rounding neither adds to the way nor takes from it; and where it ended just here, the next way leads off.
    const left = this.journey.lengthOf(rest)
    const one = this.journey.lengthOf(heading)
    for (let k = 0; k < axes; k++) {
      heading[k] /= one
      rest[k] = heading[k] * left
    }
    return left > 0
  }

  /** Writes down what was met. */
  private record(result: TravelResult<B, C, V>, way: Way, pushed: boolean): void {
    const { setup } = this
    const { met, caster, numbers } = this.journey
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
    hit.collider.describeHit(hit, null, this.setup.kernel)
    // What is pushed is pressed by the step, which tells of it.
    if (pushed) return
    const { words } = this
    const { serial } = kernel.population
    words[0] = met.own
    words[1] = met.other
    words[2] = serial.data[met.own]
    words[3] = serial.data[met.other]
    way.hit(words, -this.journey.along(this.journey.heading, met.normal), met.normal, met.point)
  }

  // Sliding and walking.

  private slide(result: TravelResult<B, C, V>, way: Way): boolean {
    const { settings } = this
    const { met, rest, wish, planes, caster, axes, sideways } = this.journey
    const { up } = settings
    const { pusher } = this.setup
    const isGround = settings.walks && bears(this.journey)
    if (!isGround && pusher !== null && this.journey.numbers[1] > 0 && pusher.isPushable(met.other)) {
      const part = pusher.push(met.other, met.normal, rest, this.journey.numbers, 1, this.body)
      if (part > 0) {
        this.record(result, way, true)
        caster.passed.push(pusher.bodyOf(met.other))
        way.pushed.push(pusher.bodyOf(met.other))
        if (part >= 1) return true
        // It goes so far, and no further.
        for (let k = 0; k < axes; k++) this.journey.saved[k] = rest[k]
        for (let k = 0; k < axes; k++) rest[k] *= part
        if (caster.cast(rest)) return this.meet(result, way)
        this.journey.advance(1, way)
        for (let k = 0; k < axes; k++) rest[k] = this.journey.saved[k] * (1 - part)
        for (let k = 0; k < axes; k++) wish[k] = rest[k]
        planes.clear()
        planes.add(met.normal, false)
        planes.solve(wish, this.journey.by, up, rest)
        return true
      }
    }
    if (settings.walks && !isGround && stepUp(this.journey, way)) return true
    this.record(result, way, false)
    const rise = this.journey.along(met.normal, up)
    if (settings.walks && isGround) {
      planes.add(met.normal, true)
      this.journey.setGround()
    } else if (settings.walks && rise > 0) {
      // Too steep to walk on: it may lead down, and never up.
      const level = this.journey.level(met.normal, sideways)
      if (this.journey.along(wish, up) > 0 && level > 1e-9) {
        for (let k = 0; k < axes; k++) sideways[k] /= level
        planes.add(sideways, false)
      } else {
        planes.add(met.normal, false)
        for (let k = 0; k < axes; k++) sideways[k] = -up[k]
        planes.add(sideways, false)
      }
    } else planes.add(met.normal, false)
    planes.solve(wish, this.journey.by, up, rest)
    return true
  }

  /** At the end of the way: follows the ground down, and finds what the body stands on. */
  private standOn(result: TravelResult<B, C, V>, way: Way, stood: boolean): void {
    const { settings } = this
    const { caster, axes, down, unit, by } = this.journey
    const { up } = settings
    const rises = this.journey.along(by, up) > ROUNDING * caster.clear
    const follows = !rises && (stood || this.journey.groundCollider >= 0)
    const reach = Math.max(STANDS * unit, follows ? settings.numbers[1] : 0)
    for (let k = 0; k < axes; k++) down[k] = -reach * up[k]
    const last = this.journey.groundCollider
    // Standing there now is what decides whether an edge bears it.
    this.journey.groundCollider = -1
    if (!caster.cast(down)) return
    this.journey.met.take(caster)
    const part = caster.hit[0]
    const far = part * reach
    this.journey.groundCollider = last
    this.journey.save()
    if (far > PROGRESS * caster.clear) caster.moveAlong(down, part)
    if (!bears(this.journey)) {
      this.journey.groundCollider = -1
      if (far > PROGRESS * caster.clear) this.journey.restore()
      return
    }
    if (far > PROGRESS * caster.clear) {
      if (!rises && settings.numbers[1] > 0) {
        settleOn(this.journey)
        this.journey.mark(way)
      } else this.journey.restore()
    }
    this.journey.setGround()
    const { setup } = this
    const { met, groundNormal } = this.journey
    const ground = result.setGround()
    ground.collider = setup.colliderOf(met.other)
    ground.body = ground.collider.body
    setup.vectors.write(ground.point, met.point, 0)
    setup.vectors.write(ground.normal, groundNormal, 0)
    const rise = this.journey.along(groundNormal, up)
    ground.slope = atan2(this.journey.level(groundNormal, this.journey.sideways), rise)
  }

  // Freeing.

  /** Leaves what it overlaps: by the deepest first, along the way out, swept and bounded. */
  private free(result: TravelResult<B, C, V>, way: Way): void {
    const { setup } = this
    const { caster, axes, met, forth, rest, unit } = this.journey
    const { numbers } = this.journey
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
    if (freed) this.journey.mark(way)
  }

  /** Carries a rider along with what it stands on, as far as there is room. */
  private carry(rider: number, ground: number, by: Float64Array, turn: Float64Array, up: Float64Array): void {
    const { setup } = this
    const { caster, axes, start, rest, wish, planes } = this.journey
    const { kernel, riders } = setup
    const { population } = kernel
    const isOn = (population.bodyFlags.data[rider] & BODY_ENABLED) !== 0
    if (!isOn || !population.bodyAlive(rider) || population.type.data[rider] !== KINEMATIC) return
    kernel.refresh()
    caster.consult = setup.hooks(true)
    const way = kernel.ways.begin(rider)
    kernel.poses.keep(rider, this.journey.kept)
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
    for (let round = 0; round < CARRIED_ROUND && this.journey.isLeft(rest); round++) {
      const met = caster.cast(rest)
      const part = met ? caster.hit[0] : 1
      const far = part * this.journey.lengthOf(rest)
      caster.moveAlong(rest, part)
      if (!met) break
      caster.settle()
      this.journey.met.take(caster)
      for (let k = 0; k < axes; k++) rest[k] *= 1 - part
      if (far > PROGRESS * caster.clear) {
        planes.leave()
        for (let k = 0; k < axes; k++) wish[k] = rest[k]
      }
      planes.add(this.journey.met.normal, false)
      planes.solve(wish, by, up, rest)
    }
    caster.passed.clear()
    // What bears it may fall away under it, as the edge of a belt does.
    const far = this.journey.lengthOf(by)
    for (let k = 0; k < axes; k++) this.journey.down[k] = -far * up[k]
    if (caster.cast(this.journey.down) && population.filter.body.data[caster.hitOther] === ground) {
      caster.moveAlong(this.journey.down, caster.hit[0])
      caster.settle()
    }
    this.journey.numbers[2] = ROUNDED * caster.clear + far
    trim(this.journey, way)
    caster.consult = null
    this.place(rider, way)
    for (let k = 0; k < turn.length; k++) {
      if (turn[k] === 0) continue
      this.turnAlong(rider, turn, way)
      break
    }
    riders.carryAlong(rider, this.journey.kept)
  }

  /** Turns a rider as its ground has turned, where it has room for that. */
  private turnAlong(rider: number, turn: Float64Array, way: Way): void {
    const { setup, turned } = this
    const { caster } = this.journey
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
