/**
 * The 3D side of a tick: poses of bodies, the trees, the search for candidate pairs and the verdicts on them. It answers
 * the stages that `core/tick.ts` lists; `refresh` does the same for a query between two steps.
 */

import { FIXED, FRESH, ON, PASS, SENSE, SOLID } from '../core/filter/filter.ts'
import { BODY_DEAD, BODY_ENABLED, KINEMATIC, type Population, TELEPORTED } from '../core/state/population.ts'
import { type Column, IntList } from '../core/state/table.ts'
import { ASK_AGAIN, PASSED_THROUGH, type Pairs, STALE } from '../core/step/pairs.ts'
import type { Apart, Space } from '../core/step/stages.ts'
import { KeenError } from '../core/util/errors.ts'
import type { ContactPoint } from '../core/watch/event.ts'
import { Gaps } from './gaps.ts'
import type { Geometry } from './geometry.ts'
import { castAgainst } from './narrow/cast.ts'
import { grazeOf } from './narrow/graze.ts'
import { CAST_SIZE, DISTANCE, FRACTION, GAP_SIZE, MISS, NORMAL, POINT_A, POINT_B } from './narrow/records.ts'
import { Path } from './path.ts'
import { MOVERS, NOWHERE, Places, RESTING_SENSORS } from './places.ts'
import { KEPT, Poses } from './poses.ts'
import { PLANE, SURFACE } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import type { Tree } from './tree/tree.ts'
import { FRAME, type MutableVec3, POSE_SIZE, type Vec3, writeFrame } from './vector.ts'

/** Metres within which a solid pair counts as touching; it ends beyond twice that. */
const TOUCH = 0.001

/** Any distance. */
const ENDLESS = Float64Array.of(Infinity)

type People = Population<object, object>

export class Space3 implements Space<MutableVec3> {
  /** Where colliders stand, and the trees. */
  readonly places: Places
  readonly geometry: Geometry
  readonly trees: readonly Tree[]
  /** Pieces that are a half of space: they are in no tree. */
  readonly planes: IntList
  readonly poses: Poses
  /** Gaps between colliders, whatever the number of their pieces. */
  readonly gaps: Gaps
  private readonly path: Path
  private readonly normal: Column<Float64Array>
  /** Where a pair met that parted within the same tick. */
  private readonly metAt: Column<Float64Array>
  private readonly found = new IntList()
  private readonly stack = new IntList()
  private readonly record = new Float64Array(GAP_SIZE)
  /** How far a gap is looked for. */
  private readonly look = new Float64Array(1)
  private readonly population: People
  private readonly pairs: Pairs
  private readonly wanted: (a: number, b: number, response: number) => boolean
  private readonly reachOfTouch: number
  private readonly dt: number

  /**
   * @param wanted whether any watch or hook speaks of a pair
   * @param dt seconds a tick
   * @param unit the user's lengths to a metre
   */
  constructor(
    population: People,
    pairs: Pairs,
    wanted: (a: number, b: number, response: number) => boolean,
    dt: number,
    unit: number,
  ) {
    this.population = population
    this.pairs = pairs
    this.wanted = wanted
    this.dt = dt
    this.reachOfTouch = TOUCH * unit
    this.poses = new Poses(population.bodies)
    this.places = new Places(population, this.poses, this.reachOfTouch)
    this.geometry = this.places.geometry
    this.trees = this.places.trees
    this.planes = this.places.planes
    this.normal = pairs.table.f64(3)
    this.metAt = pairs.table.f64(3)
    this.path = new Path(this.geometry, population.filter.body, this.poses)
    this.gaps = new Gaps(this.geometry, this.trees, this.places.treeOf)
  }

  // What handles ask for between steps.

  /** @param pose place and unit quaternion */
  addBody(body: number, pose: Float64Array): void {
    this.poses.set(body, pose)
    this.poses.rest(body)
  }

  /** @param pose place and unit quaternion */
  teleport(body: number, pose: Float64Array): void {
    this.poses.jumpTo(body, pose, this.places.now)
    this.places.list(body)
  }

  /** Brings geometry and trees up to date before a query. Changes no simulated state. */
  refresh(): void {
    this.places.refresh()
  }

  /** The other colliders whose bounds are near those of one, and that its filter may let it meet; the oldest first. */
  around(c: number): number[] {
    const { found, stack, trees, geometry, planes, population } = this
    const mask = population.filter.meet.data[c]
    const near = new Set<number>()
    found.clear()
    for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
      const endless = geometry.kindOf(piece) === PLANE
      for (const tree of trees) {
        if (endless) tree.all(mask, found, stack)
        else tree.search(geometry.bounds.data, 6 * piece, mask, found, stack)
      }
    }
    for (let i = 0; i < found.length; i++) near.add(geometry.ownerOf(found.data[i]))
    for (let i = 0; i < planes.length; i++) near.add(geometry.ownerOf(planes.data[i]))
    const { data } = population.serial
    return [...near].sort((p, q) => data[p] - data[q])
  }

  /** Whether a ray runs along a piece; writes a graze record. */
  graze(piece: number, line: Float64Array, out: Float64Array): boolean {
    return grazeOf(this.geometry.world, this.geometry.offsetOf(piece), line, out)
  }

  // The stages of a tick.

  prepare(): void {
    this.places.prepare()
  }

  refind(c: number): void {
    this.places.refind(c)
  }

  forget(c: number): void {
    this.places.forget(c)
  }

  move(): void {
    this.poses.held = 0
    const { population, poses, places } = this
    const { type, bodyFlags } = population
    for (let body = 0; body < population.bodies.size; body++) {
      if (type.data[body] !== KINEMATIC || (bodyFlags.data[body] & BODY_DEAD) !== 0) continue
      poses.rest(body)
      if ((bodyFlags.data[body] & BODY_ENABLED) === 0 || !poses.carry(body, this.dt)) continue
      places.follow(body, poses.turned(body))
    }
  }

  findPairs(): void {
    const { found, stack, trees, geometry, planes } = this
    const { toFind, listed, treeOf } = this.places
    const { filter } = this.population
    const { fat } = geometry
    for (let i = 0; i < toFind.length; i++) {
      const c = toFind.data[i]
      if (listed.data[c] === 0) continue
      listed.data[c] = 0
      const flags = filter.flags.data[c]
      if ((flags & ON) === 0 || treeOf.data[c] === NOWHERE) continue
      const mask = filter.meet.data[c]
      const last = (flags & FIXED) !== 0 ? MOVERS : RESTING_SENSORS
      for (let piece = geometry.first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        found.clear()
        if (geometry.kindOf(piece) === PLANE) {
          trees[MOVERS].all(mask, found, stack)
          for (let k = 0; k < found.length; k++) this.considerPieces(piece, found.data[k])
          continue
        }
        for (let tree = MOVERS; tree <= last; tree++) trees[tree].search(fat.data, 6 * piece, mask, found, stack)
        for (let k = 0; k < found.length; k++) this.consider(c, geometry.ownerOf(found.data[k]))
        if (last === MOVERS) continue
        for (let k = 0; k < planes.length; k++) this.considerPieces(piece, planes.data[k])
      }
    }
    toFind.clear()
  }

  settle(): void {
    const { pairs } = this
    const { changedTick, now } = this.places
    const { a, b, flags, response, state, next } = pairs
    const { filter } = this.population
    this.gaps.tests = 0
    for (let pair = 0; pair < pairs.table.size; pair++) {
      const one = a.data[pair]
      const other = b.data[pair]
      const stale = (flags.data[pair] & STALE) !== 0
      const still = !stale && changedTick.data[one] !== now && changedTick.data[other] !== now
      if (still) pairs.closing.data[pair] = 0
      if (still && !pairs.askEvery) continue
      if (one === other || !pairs.alive(pair)) continue
      const before = state.data[pair]
      if (still && before === 0 && pairs.answer.data[pair] === 0) continue
      if (stale) {
        flags.data[pair] &= ~STALE
        response.data[pair] = filter.respond(one, other)
        if (this.isSilent(response.data[pair], one, other) && !this.wanted(one, other, response.data[pair]))
          pairs.doom(pair)
        if (before !== 0) pairs.list(pair)
      }
      this.judge(pair)
      if (pairs.asking) this.putToHooks(pair)
      const verdict = next.data[pair]
      if (verdict !== before) pairs.list(pair)
      else if (verdict === 0) {
        if (response.data[pair] !== PASS) this.cross(pair, one, other)
        if (response.data[pair] === PASS || this.gaps.fatApart(one, other)) pairs.doom(pair)
      }
    }
    this.places.now++
  }

  judge(pair: number): void {
    const { pairs } = this
    const one = pairs.a.data[pair]
    const other = pairs.b.data[pair]
    const before = pairs.state.data[pair]
    let response = pairs.response.data[pair]
    const allowed = pairs.allowed(pair)
    // What a hook said is kept until they part, by the measure of what the filter says.
    const kept = allowed < response && this.verdict(pair, one, other, response, response) !== 0
    if (kept) response = allowed
    const verdict = this.verdict(pair, one, other, response, before)
    if (verdict === 0 && !kept) {
      pairs.answer.data[pair] = 0
      pairs.through.data[pair] = 0
    }
    pairs.next.data[pair] = verdict
    pairs.closing.data[pair] = 0
    if (verdict === SOLID) {
      this.path.closingAt(one, other, 1, this.record)
      pairs.closing.data[pair] = Math.max(0, this.record[DISTANCE] / this.dt)
    }
    if (verdict !== before) pairs.when.data[pair] = this.timeOf(one, other, verdict, before)
  }

  /** Whether two are near enough to touch; writes their gap. */
  touches(c: number, other: number, record: Float64Array): boolean {
    this.look[0] = this.reachOfTouch
    this.gaps.gapOf(c, other, this.look, record)
    return record[DISTANCE] <= this.reachOfTouch
  }

  /** The unit normal of a gap record, towards the first of the two. */
  normalTowardsFirst(record: Float64Array): Vec3 {
    return { x: 0 - record[NORMAL], y: 0 - record[NORMAL + 1], z: 0 - record[NORMAL + 2] }
  }

  /** The place between the two nearest points of a gap record. */
  middleOf(record: Float64Array): Vec3 {
    const middle = (i: number): number => (record[POINT_A + i] + record[POINT_B + i]) / 2
    return { x: middle(0), y: middle(1), z: middle(2) }
  }

  /** When in the tick the gap passed the reach that decides: forwards for a begin, backwards for an end. */
  private timeOf(a: number, b: number, verdict: number, before: number): number {
    if (verdict !== 0) return this.path.meeting(a, b, verdict === SOLID ? this.reachOfTouch : 0, false)
    return this.path.meeting(a, b, before === SOLID ? 2 * this.reachOfTouch : 0, true)
  }

  /**
   * A pair that meets at neither end of the tick: whether it did on the way. Only what stands at the path's start because it was
   * put there counts as met there.
   */
  private cross(pair: number, a: number, b: number): void {
    // What is left of the verdict: the gap at the end, Infinity when the way was too short to bridge it.
    if (this.record[DISTANCE] === Infinity || this.record[DISTANCE] <= 0) return
    const { pairs, path, population, record, normal, metAt } = this
    const entry = path.crossing(a, b)
    if (entry < 0) return
    if (entry === 0) {
      const { filter, bodyFlags } = population
      const marks = bodyFlags.data[filter.body.data[a]] | bodyFlags.data[filter.body.data[b]]
      const fresh = (filter.flags.data[a] | filter.flags.data[b]) & FRESH
      if ((marks & TELEPORTED) === 0 && fresh === 0) return
    }
    // It may be the last to part of several, and so speak for the end of what was solid.
    path.gapAt(a, b, entry, ENDLESS, record)
    for (let i = 0; i < 3; i++) {
      normal.data[3 * pair + i] = record[NORMAL + i]
      metAt.data[3 * pair + i] = (record[POINT_A + i] + record[POINT_B + i]) / 2
    }
    path.closingAt(a, b, entry, record)
    pairs.closing.data[pair] = Math.max(0, record[DISTANCE] / this.dt)
    pairs.when.data[pair] = entry
    // What only grazes, nearer than can be told apart, may be met on the way there and not on the way back.
    const exit = path.meeting(a, b, 0, true)
    pairs.exit.data[pair] = exit > entry ? exit : entry
    pairs.flags.data[pair] |= PASSED_THROUGH
    pairs.list(pair)
    if (pairs.asking) pairs.asked.push(pair)
  }

  /** Lists a pair for the decide hooks when it has come into touch, or is to be asked about again. */
  private putToHooks(pair: number): void {
    const { pairs } = this
    const { answer, flags, next } = pairs
    const again = (flags.data[pair] & ASK_AGAIN) !== 0
    flags.data[pair] &= ~ASK_AGAIN
    const touching = next.data[pair] !== 0 || answer.data[pair] !== 0
    if (touching && (answer.data[pair] === 0 || again || pairs.askEvery)) pairs.asked.push(pair)
  }

  private verdict(pair: number, a: number, b: number, response: number, before: number): number {
    if (response === PASS) return 0
    const { record, normal, look } = this
    const reach = response === SENSE ? 0 : before === SOLID ? 2 * this.reachOfTouch : this.reachOfTouch
    look[0] = reach
    // What did not meet is looked at as far as it may have come, in case it has passed through.
    if (before === 0) {
      this.path.approach(a, b, look)
      if (look[0] < reach) look[0] = reach
    }
    this.gaps.gapOf(a, b, look, record)
    if (record[DISTANCE] > look[0]) record[DISTANCE] = Infinity
    if (!(record[DISTANCE] <= reach)) return 0
    for (let i = 0; i < 3; i++) normal.data[3 * pair + i] = record[NORMAL + i]
    return response
  }

  /** Of a plane, which is in no tree, and a piece: considers their colliders unless the piece is wholly outside. */
  private considerPieces(p: number, q: number): void {
    const { geometry } = this
    if (!geometry.wideApart(p, q)) this.consider(geometry.ownerOf(p), geometry.ownerOf(q))
  }

  /** Whether a pair matters only to those who watch it: a sense pair, or a solid one that nobody presses apart. */
  private isSilent(response: number, a: number, b: number): boolean {
    return response === SENSE || !this.population.filter.isPressed(a, b)
  }

  /** The pair of two colliders, or -1. */
  pairOf(c: number, other: number): number {
    const { data } = this.population.serial
    return data[c] < data[other] ? this.pairs.find(c, other) : this.pairs.find(other, c)
  }

  /** Adds a pair that the filter and the watches let through, unless it is there. */
  private consider(c: number, other: number): void {
    const { pairs, population } = this
    const { filter, serial } = population
    const response = filter.respond(c, other)
    if (response === PASS) return
    const silent = this.isSilent(response, c, other)
    if (silent) {
      const { at, watched } = filter
      if ((at.data[c] & watched.data[other]) === 0 || (at.data[other] & watched.data[c]) === 0) return
    }
    if (this.pairOf(c, other) >= 0) return
    const a = serial.data[c] < serial.data[other] ? c : other
    const b = a === c ? other : c
    if (silent && !this.wanted(a, b, response)) return
    pairs.add(a, b, response)
  }

  readApproach(pair: number, out: Float64Array, at: number): void {
    const { before, place } = this.poses
    const { body } = this.population.filter
    const a = body.data[this.pairs.a.data[pair]]
    const b = body.data[this.pairs.b.data[pair]]
    for (let i = 0; i < 3; i++) {
      const own = place.data[3 * a + i] - before.data[KEPT * a + i]
      out[at + i] = (own - (place.data[3 * b + i] - before.data[KEPT * b + i])) / this.dt
    }
  }

  pointsOf(pair: number): ContactPoint<MutableVec3>[] {
    const { record } = this
    this.gaps.gapOf(this.pairs.a.data[pair], this.pairs.b.data[pair], ENDLESS, record)
    if (!(record[DISTANCE] <= 2 * this.reachOfTouch)) return []
    const middle = (i: number): number => (record[POINT_A + i] + record[POINT_B + i]) / 2
    return [{ x: middle(0), y: middle(1), z: middle(2), depth: 0 - record[DISTANCE], impulse: 0 }]
  }

  apart(a: number, b: number): Apart {
    this.refresh()
    const { geometry, record } = this
    const { first } = geometry
    const box = geometry.bounds.data
    let bounds = Infinity
    for (let p = first.data[a]; p !== NOWHERE; p = geometry.after(p)) {
      for (let q = first.data[b]; q !== NOWHERE; q = geometry.after(q)) {
        let square = 0
        for (let i = 0; i < 3; i++) {
          const gap = Math.max(box[6 * p + i] - box[6 * q + 3 + i], box[6 * q + i] - box[6 * p + 3 + i], 0)
          square += gap * gap
        }
        bounds = Math.min(bounds, Math.sqrt(square))
      }
    }
    this.gaps.gapOf(a, b, ENDLESS, record)
    return { bounds, shapes: record[DISTANCE], touch: this.reachOfTouch }
  }

  readNormal(pair: number, out: Float64Array, at: number): void {
    for (let i = 0; i < 3; i++) out[at + i] = this.normal.data[3 * pair + i]
  }

  readMet(pair: number, out: Float64Array, at: number): void {
    for (let i = 0; i < 3; i++) out[at + i] = this.metAt.data[3 * pair + i]
  }

  newVector(): MutableVec3 {
    return { x: 0, y: 0, z: 0 }
  }

  fillVector(out: MutableVec3, from: Float64Array, at: number, sign: number): void {
    // Adding 0 turns -0 into 0.
    out.x = sign * from[at] + 0
    out.y = sign * from[at + 1] + 0
    out.z = sign * from[at + 2] + 0
  }

  /** The normal of a solid pair towards its `a` or its `b`. */
  normalTowards(pair: number, towardsA: boolean): Vec3 {
    const out = this.newVector()
    this.fillVector(out, this.normal.data, 3 * pair, towardsA ? -1 : 1)
    return out
  }

  // Nothing is moved by forces in space: what only they would need has nothing to do.

  foresee(): void {}

  touch(): void {}

  sweep(): void {}

  disturb(): void {}

  forgetPair(): void {}

  weight(): string {
    return ''
  }

  jumped(a: number, b: number): string | null {
    return this.jumpedOver(a, b) ?? this.jumpedOver(b, a)
  }

  /** Whether the straight way of a collider's last teleport leads through another one. */
  private jumpedOver(c: number, other: number): string | null {
    const { geometry, population } = this
    const { jump, jumpTick, place } = this.poses
    const body = population.filter.body.data[c]
    if (jumpTick.data[body] === 0) return null
    const pose = new Float64Array(POSE_SIZE)
    const line = new Float64Array(7)
    for (let i = 0; i < 3; i++) {
      pose[i] = jump.data[KEPT * body + i]
      line[3 + i] = place.data[3 * body + i] - pose[i]
    }
    writeFrame(jump.data, KEPT * body + 3, pose, FRAME)
    const record = new Float64Array(CAST_SIZE)
    const box = new Float64Array(6)
    for (let p = geometry.first.data[c]; p !== NOWHERE; p = geometry.after(p)) {
      // A surface that moves is not followed anywhere.
      if (geometry.kindOf(p) === PLANE || geometry.kindOf(p) === SURFACE) continue
      const block = new Float64Array(geometry.sizeOf(p))
      geometry.blockAt(p, pose, block, 0)
      boundsOf(block, 0, box, 0, box, 0)
      const middle = line.slice()
      const half = new Float64Array(3)
      for (let i = 0; i < 3; i++) {
        middle[i] = (box[i] + box[3 + i]) / 2
        half[i] = (box[3 + i] - box[i]) / 2
      }
      for (let q = geometry.first.data[other]; q !== NOWHERE; q = geometry.after(q)) {
        record[FRACTION] = 1
        const { world, surfaces } = geometry
        const moving = { line: middle, half }
        const met = castAgainst(block, 0, world, geometry.offsetOf(q), surfaces[q] ?? null, line, moving, record)
        if (met === MISS) continue
        const name = population.bodyHandles[body]
        return `before tick ${jumpTick.data[body]} ${name} was teleported over it: a teleport never sweeps what lies between`
      }
    }
    return null
  }

  readSurface(_pair: number, out: Float64Array): void {
    out.fill(0)
  }

  writeSurface(): void {
    throw new KeenError(
      'bad-argument',
      "'friction', 'restitution' and 'surfaceSpeed' of a pair act on what is moved by forces, and in 3D nothing is yet: a hook of a 3D world can only answer",
    )
  }
}
