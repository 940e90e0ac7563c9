/**
 * The 2D side of a tick: poses and motion of bodies, the trees, the search for candidate pairs and the verdicts on
 * them. It answers the stages that `core/tick.ts` lists; `refresh` does the same for a query between two steps.
 */

import { FIXED, FRESH, ON, PASS, SENSE, SOLID } from '../core/filter/filter.ts'
import { BODY_DEAD, BODY_ENABLED, DYNAMIC, KINEMATIC, type Population, TELEPORTED } from '../core/state/population.ts'
import { IntList } from '../core/state/table.ts'
import { ASK_AGAIN, PASSED_THROUGH, type Pairs, PRESSED_APART, STALE } from '../core/step/pairs.ts'
import type { Apart, Space } from '../core/step/stages.ts'
import { cosSin } from '../core/util/maths.ts'
import type { ContactPoint } from '../core/watch/event.ts'
import { Gaps } from './gaps.ts'
import type { Geometry } from './geometry.ts'
import { CAST_SIZE, castAgainst } from './narrow/cast.ts'
import { FACE_X, FACE_Y } from './narrow/flush.ts'
import { grazeOf } from './narrow/graze.ts'
import {
  FIRST_POINT,
  GAP,
  MANIFOLD_SIZE,
  manifoldOfPieces,
  NAME,
  POINT_COUNT,
  POINT_SIZE,
  WITHIN,
} from './narrow/manifold.ts'
import { DISTANCE, GAP_SIZE, MISS, NORMAL, POINT_A, POINT_B } from './narrow/records.ts'
import type { Path } from './path.ts'
import { MOVERS, NOWHERE, Places, RESTING_SENSORS } from './places.ts'
import { Poses } from './poses.ts'
import { PLANE } from './shapes/shape.ts'
import { Dynamics, type PlacedShape } from './solve/dynamics.ts'
import { Motion, type Scale } from './solve/motion.ts'
import { Sweeper } from './solve/sweep.ts'
import type { Tree } from './tree/tree.ts'
import type { MutableVec2, Vec2 } from './vector.ts'

/** Metres within which a solid pair counts as touching; it ends beyond twice that. */
const TOUCH = 0.001

/** Lengths a second (times the unit) at which two come together, below which nobody asks why. */
const LEAST_CLOSING = 0.01

/** Any distance. */
const ENDLESS = Float64Array.of(Infinity)

type People = Population<object, object>

export class Space2 implements Space<MutableVec2> {
  /** Where colliders stand, and the trees. */
  readonly places: Places
  readonly geometry: Geometry
  readonly trees: readonly Tree[]
  /** Pieces that are a half of the plane: they are in no tree. */
  readonly planes: IntList
  readonly poses: Poses
  /** What forces and contacts do. */
  readonly motion: Motion
  readonly dynamics: Dynamics
  /** Gaps between colliders, whatever the number of their pieces. */
  readonly gaps: Gaps
  private readonly place
  private readonly turn
  private readonly before
  private readonly normal
  private readonly found = new IntList()
  private readonly stack = new IntList()
  private readonly record = new Float64Array(GAP_SIZE)
  private readonly manifold = new Float64Array(MANIFOLD_SIZE)
  /** How far a gap is looked for. */
  private readonly look = new Float64Array(1)
  private readonly path: Path
  private readonly sweeper: Sweeper
  private readonly population: People
  private readonly pairs: Pairs
  private readonly moved = (body: number): void => this.places.follow(body)
  private readonly refit = (body: number): void => {
    this.places.followBends(body)
    this.findPairs()
  }
  private readonly foreseen = (body: number): void => this.places.makeRoom(body, this.motion.way)
  /** Whether the tick has not moved anything yet. */
  private ahead = false
  private readonly wanted: (a: number, b: number, response: number) => boolean
  private readonly reachOfTouch: number
  private readonly dt: number
  /** Lengths a second of coming together that are looked at twice. */
  private readonly least: number

  /**
   * @param wanted whether any watch or hook speaks of a pair
   * @param dt seconds a tick
   * @param unit the user's lengths to a metre
   * @param placed the shape of a collider, within its body
   */
  constructor(
    population: People,
    pairs: Pairs,
    wanted: (a: number, b: number, response: number) => boolean,
    dt: number,
    unit: number,
    placed: (c: number) => PlacedShape,
  ) {
    this.population = population
    this.pairs = pairs
    this.wanted = wanted
    this.dt = dt
    this.reachOfTouch = TOUCH * unit
    this.least = LEAST_CLOSING * unit
    const scale: Scale = { touch: this.reachOfTouch, unit, dt }
    this.poses = new Poses(population.bodies)
    this.places = new Places(population, this.poses, this.reachOfTouch)
    this.geometry = this.places.geometry
    this.trees = this.places.trees
    this.planes = this.places.planes
    this.path = this.places.path
    this.place = this.poses.place
    this.turn = this.poses.turn
    this.before = this.poses.before
    this.normal = pairs.table.f64(2)
    this.gaps = new Gaps(this.geometry, this.trees, this.places.treeOf)
    this.dynamics = new Dynamics(population, placed)
    this.motion = new Motion(population, pairs, this.poses, this.geometry, this.gaps, this.dynamics, this.normal, scale)
    this.sweeper = new Sweeper(population, pairs, this.poses, this.path, this.geometry, this.motion, this.normal, scale)
  }

  // What handles ask for between steps.

  addBody(body: number, x: number, y: number, angle: number): void {
    this.poses.set(body, x, y, angle)
    this.poses.rest(body)
  }

  teleport(body: number, x: number, y: number, angle: number): void {
    this.poses.jumpTo(body, x, y, angle, this.places.now)
    this.places.list(body)
    for (let c = this.population.first(body); c >= 0; c = this.population.next(c)) this.disturb(c)
  }

  /** A body became dynamic, or is dynamic no more. */
  setDynamic(body: number, dynamic: boolean): void {
    if (dynamic) this.motion.enter(body)
    else this.motion.leave(body)
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
        else tree.search(geometry.bounds.data, 4 * piece, mask, found, stack)
      }
    }
    for (let i = 0; i < found.length; i++) near.add(geometry.ownerOf(found.data[i]))
    for (let i = 0; i < planes.length; i++) near.add(geometry.ownerOf(planes.data[i]))
    const { data } = population.serial
    return [...near].sort((p, q) => data[p] - data[q])
  }

  /** Whether a ray runs along a piece; writes a graze record. */
  graze(piece: number, line: Float64Array, out: Float64Array): boolean {
    const { geometry } = this
    const offset = geometry.offsetOf(piece)
    return grazeOf(geometry.world, offset, geometry.countOf(piece), geometry.kindOf(piece), line, out)
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

  foresee(): void {
    if (this.motion.count > 0) this.motion.foresee(this.foreseen)
  }

  touch(): void {
    this.ahead = true
    if (this.motion.count > 0) this.motion.findContacts(this.places.now)
  }

  move(): void {
    this.poses.held = 0
    this.ahead = false
    this.path.straighten()
    const { population, poses, motion } = this
    const { type, bodyFlags } = population
    if (motion.count > 0) {
      motion.restSlept()
      motion.solve(this.places.now, this.moved)
    }
    for (let body = 0; body < population.bodies.size; body++) {
      if (type.data[body] !== KINEMATIC || (bodyFlags.data[body] & BODY_DEAD) !== 0) continue
      poses.rest(body)
      if ((bodyFlags.data[body] & BODY_ENABLED) !== 0 && poses.carry(body, this.dt)) this.places.follow(body)
    }
  }

  sweep(): void {
    if (this.motion.count > 0) this.sweeper.run(this.places.now, this.refit)
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
        for (let tree = MOVERS; tree <= last; tree++) trees[tree].search(fat.data, 4 * piece, mask, found, stack)
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
      if (this.motion.pressed.data[pair] === now) this.judgePressed(pair, before)
      else this.judge(pair)
      const verdict = next.data[pair]
      if (verdict === 0 && before === SOLID) this.motion.forgetSurface(pair)
      if (pairs.asking) this.putToHooks(pair)
      if (verdict !== before) pairs.list(pair)
      else if (verdict === 0) {
        if (response.data[pair] !== PASS && this.isSilent(response.data[pair], one, other)) this.cross(pair, one, other)
        if (response.data[pair] === PASS || this.gaps.fatApart(one, other)) pairs.doom(pair)
      }
    }
    this.places.now++
  }

  /** What was pressed in this tick touches, wherever it is by its end. */
  private judgePressed(pair: number, before: number): void {
    const { pairs, motion } = this
    const { pressedWhen } = motion
    if (motion.swept.data[pair] === this.places.now) {
      const closing = pairs.closing.data[pair]
      this.judge(pair)
      pairs.closing.data[pair] = closing
      if (pairs.next.data[pair] === 0 && before === 0) {
        // Met on the way, and left again.
        pairs.when.data[pair] = pressedWhen.data[pair]
        pairs.exit.data[pair] = pressedWhen.data[pair]
        pairs.flags.data[pair] |= PASSED_THROUGH | PRESSED_APART
        pairs.list(pair)
        return
      }
      if (pairs.next.data[pair] === 0) return
    }
    pairs.next.data[pair] = SOLID
    if (before !== SOLID) pairs.when.data[pair] = pressedWhen.data[pair]
  }

  judge(pair: number): void {
    const { pairs } = this
    const one = pairs.a.data[pair]
    const other = pairs.b.data[pair]
    const before = pairs.state.data[pair]
    let response = pairs.response.data[pair]
    const allowed = pairs.allowed(pair)
    // What a hook said, or a one-way side, is kept until they part, by the measure of what the filter says.
    const kept = allowed < response && this.verdict(pair, one, other, response, response) !== 0
    if (kept) response = allowed
    const verdict = this.verdict(pair, one, other, response, before)
    if (verdict === 0 && !kept) {
      pairs.answer.data[pair] = 0
      pairs.through.data[pair] = 0
    }
    pairs.next.data[pair] = verdict
    if (verdict !== before && (verdict === SOLID || before === SOLID)) this.motion.wakePair(pair)
    pairs.closing.data[pair] = verdict === SOLID ? this.closingOf(pair, one, other) : 0
    if (pairs.closing.data[pair] > this.least) this.straighten(pair, one, other)
    if (verdict !== before) pairs.when.data[pair] = this.timeOf(one, other, verdict, before)
  }

  /** How fast two that touch came together in this tick: along the normal, where they are nearest. */
  private closingOf(pair: number, one: number, other: number): number {
    const { record, normal, dt } = this
    const { body } = this.population.filter
    const nx = normal.data[2 * pair]
    const ny = normal.data[2 * pair + 1]
    const x = (record[POINT_A] + record[POINT_B]) / 2
    const y = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
    const a = this.advance(body.data[one], x, y, nx, ny)
    const closing = (a - this.advance(body.data[other], x, y, nx, ny)) / dt
    return closing > 0 ? closing : 0
  }

  /** At an inner edge nothing is struck: the body comes together with the ground where it slides on it, and that is another pair. */
  private straighten(pair: number, one: number, other: number): void {
    const { population, normal, sweeper, pairs } = this
    const a = population.filter.body.data[one]
    const b = population.filter.body.data[other]
    const slides = population.type.data[a] === DYNAMIC ? a : population.type.data[b] === DYNAMIC ? b : -1
    if (slides < 0 || !sweeper.isInnerEdge(slides, pair, 1)) return
    const sign = slides === a ? -1 : 1
    normal.data[2 * pair] = sign * sweeper.face[FACE_X]
    normal.data[2 * pair + 1] = sign * sweeper.face[FACE_Y]
    pairs.closing.data[pair] = 0
  }

  /** How far the point of a body that is at (x, y) now has come along a direction in this tick. */
  private advance(body: number, x: number, y: number, nx: number, ny: number): number {
    const { place, turn, before } = this
    const nowX = place.data[2 * body]
    const nowY = place.data[2 * body + 1]
    const turned = turn.data[3 * body] - before.data[3 * body + 2]
    const dx = nowX - before.data[3 * body] - turned * (y - nowY)
    const dy = nowY - before.data[3 * body + 1] + turned * (x - nowX)
    return dx * nx + dy * ny
  }

  pointsOf(pair: number): ContactPoint<MutableVec2>[] {
    const { geometry, pairs, manifold } = this
    const { contacts } = this.motion
    const found: ContactPoint<MutableVec2>[] = []
    const { world } = geometry
    for (let p = geometry.first.data[pairs.a.data[pair]]; p !== NOWHERE; p = geometry.after(p)) {
      for (let q = geometry.first.data[pairs.b.data[pair]]; q !== NOWHERE; q = geometry.after(q)) {
        manifold[WITHIN] = 2 * this.reachOfTouch
        const [a, an, aKind] = [geometry.offsetOf(p), geometry.countOf(p), geometry.kindOf(p)]
        const [b, bn, bKind] = [geometry.offsetOf(q), geometry.countOf(q), geometry.kindOf(q)]
        manifoldOfPieces(world, a, an, aKind, world, b, bn, bKind, manifold)
        for (let i = 0; i < manifold[POINT_COUNT]; i++) {
          const at = FIRST_POINT + POINT_SIZE * i
          const impulse = contacts.impulseAt(pair, geometry.ordinalOf(p), geometry.ordinalOf(q), manifold[at + NAME])
          found.push({ x: manifold[at], y: manifold[at + 1], depth: 0 - manifold[at + GAP], impulse })
        }
      }
    }
    if (found.length > 0 || pairs.impulse.data[pair] === 0) return found
    // Pressed in this tick, and parted again: where it was.
    const { struckAt } = this.motion
    return [{ x: struckAt.data[2 * pair], y: struckAt.data[2 * pair + 1], depth: 0, impulse: pairs.impulse.data[pair] }]
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

  readApproach(pair: number, out: Float64Array, at: number): void {
    const { before, place, dt } = this
    const { data: was } = before
    const { data: now } = place
    const { data: pace } = this.motion.pace
    const { body } = this.population.filter
    const a = body.data[this.pairs.a.data[pair]]
    const b = body.data[this.pairs.b.data[pair]]
    for (let axis = 0; axis < 2; axis++) {
      // Before anything has moved, by the speeds at which it sets out.
      if (this.ahead) {
        out[at + axis] = pace[3 * a + axis] - pace[3 * b + axis]
        continue
      }
      const moved = now[2 * a + axis] - was[3 * a + axis] - (now[2 * b + axis] - was[3 * b + axis])
      out[at + axis] = moved / dt
    }
    out[at + 2] = 0
  }

  apart(a: number, b: number): Apart {
    this.refresh()
    const { geometry, record } = this
    const { first } = geometry
    const box = geometry.bounds.data
    let bounds = Infinity
    for (let p = first.data[a]; p !== NOWHERE; p = geometry.after(p)) {
      for (let q = first.data[b]; q !== NOWHERE; q = geometry.after(q)) {
        const x = Math.max(box[4 * p] - box[4 * q + 2], box[4 * q] - box[4 * p + 2], 0)
        const y = Math.max(box[4 * p + 1] - box[4 * q + 3], box[4 * q + 1] - box[4 * p + 3], 0)
        bounds = Math.min(bounds, Math.hypot(x, y))
      }
    }
    this.gaps.gapOf(a, b, ENDLESS, record)
    return { bounds, shapes: record[DISTANCE], touch: this.reachOfTouch }
  }

  weight(body: number): string {
    const { dynamics, motion } = this
    const { gravity } = motion
    const scale = dynamics.tuning.data[3 * body]
    const words = [`weighs ${Number(dynamics.mass.data[2 * body].toPrecision(3))} kg`]
    if (gravity[0] === 0 && gravity[1] === 0) words.push('no gravity')
    else if (scale === 0) words.push('its gravity is scaled to 0')
    else if (scale !== 1) words.push(`gravity scaled by ${scale}`)
    const locks = dynamics.locks.data[body]
    if (locks !== 0)
      words.push(`locked in ${['x', 'y', 'turn'].filter((_, bit) => (locks & (1 << bit)) !== 0).join(', ')}`)
    if (motion.islands.isAwake.data[body] === 0) words.push('asleep')
    return words.join(', ')
  }

  jumped(a: number, b: number): string | null {
    return this.jumpedOver(a, b) ?? this.jumpedOver(b, a)
  }

  /** Whether the straight way of a collider's last teleport leads through another one. */
  private jumpedOver(c: number, other: number): string | null {
    const { geometry, population, place } = this
    const { jump, jumpTick } = this.poses
    const body = population.filter.body.data[c]
    if (jumpTick.data[body] === 0) return null
    const x = jump.data[3 * body]
    const y = jump.data[3 * body + 1]
    const line = Float64Array.of(0, 0, place.data[2 * body] - x, place.data[2 * body + 1] - y)
    const pose = Float64Array.of(x, y, jump.data[3 * body + 2], 0, 0)
    cosSin(pose, 2)
    const out = new Float64Array(CAST_SIZE)
    for (let p = geometry.first.data[c]; p !== NOWHERE; p = geometry.after(p)) {
      const n = geometry.countOf(p)
      if (geometry.kindOf(p) === PLANE) continue
      const block = new Float64Array(1 + 2 * n)
      geometry.blockAt(p, pose, block, 0)
      for (let q = geometry.first.data[other]; q !== NOWHERE; q = geometry.after(q)) {
        const { world } = geometry
        const met = castAgainst(
          block,
          0,
          n,
          world,
          geometry.offsetOf(q),
          geometry.countOf(q),
          geometry.kindOf(q),
          line,
          out,
        )
        if (met === MISS) continue
        const name = population.bodyHandles[body]
        return `before tick ${jumpTick.data[body]} ${name} was teleported over it: a teleport never sweeps what lies between`
      }
    }
    return null
  }

  disturb(c: number): void {
    this.motion.disturb(c)
  }

  forgetPair(pair: number): void {
    this.motion.contacts.clear(pair)
  }

  readSurface(pair: number, out: Float64Array): void {
    this.motion.readSurface(pair, out)
  }

  writeSurface(pair: number, from: Float64Array): void {
    this.motion.writeSurface(pair, from)
  }

  readNormal(pair: number, out: Float64Array, at: number): void {
    out[at] = this.normal.data[2 * pair]
    out[at + 1] = this.normal.data[2 * pair + 1]
    out[at + 2] = 0
  }

  readMet(pair: number, out: Float64Array, at: number): void {
    const { struckAt } = this.motion
    out[at] = struckAt.data[2 * pair]
    out[at + 1] = struckAt.data[2 * pair + 1]
    out[at + 2] = 0
  }

  newVector(): MutableVec2 {
    return { x: 0, y: 0 }
  }

  fillVector(out: MutableVec2, from: Float64Array, at: number, sign: number): void {
    // Adding 0 turns -0 into 0.
    out.x = sign * from[at] + 0
    out.y = sign * from[at + 1] + 0
  }

  /** The normal of a solid pair towards its `a` or its `b`. */
  normalTowards(pair: number, towardsA: boolean): Vec2 {
    const sign = towardsA ? -1 : 1
    return { x: sign * this.normal.data[2 * pair] + 0, y: sign * this.normal.data[2 * pair + 1] + 0 }
  }

  /** Whether two are near enough to touch; writes their gap. */
  touches(c: number, other: number, record: Float64Array): boolean {
    this.look[0] = this.reachOfTouch
    this.gaps.gapOf(c, other, this.look, record)
    return record[DISTANCE] <= this.reachOfTouch
  }

  /** The unit normal of a gap record, towards the first of the two. */
  normalTowardsFirst(record: Float64Array): Vec2 {
    return { x: 0 - record[NORMAL], y: 0 - record[NORMAL + 1] }
  }

  /** The place between the two nearest points of a gap record. */
  middleOf(record: Float64Array): Vec2 {
    const middle = (i: number): number => (record[POINT_A + i] + record[POINT_B + i]) / 2
    return { x: middle(0), y: middle(1) }
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
    const { pairs, path, population, motion, record } = this
    const entry = path.crossing(a, b)
    if (entry < 0) return
    if (entry === 0) {
      const { filter, bodyFlags } = population
      const marks = bodyFlags.data[filter.body.data[a]] | bodyFlags.data[filter.body.data[b]]
      const fresh = (filter.flags.data[a] | filter.flags.data[b]) & FRESH
      if ((marks & TELEPORTED) === 0 && fresh === 0) return
    }
    // It may be the last to part of several, and so speak for the end of what was solid.
    path.gapAt(a, b, entry, record)
    this.normal.data[2 * pair] = record[NORMAL]
    this.normal.data[2 * pair + 1] = record[NORMAL + 1]
    motion.struckAt.data[2 * pair] = (record[POINT_A] + record[POINT_B]) / 2
    motion.struckAt.data[2 * pair + 1] = (record[POINT_A + 1] + record[POINT_B + 1]) / 2
    path.closingAt(a, b, entry, record)
    pairs.impulse.data[pair] = 0
    pairs.friction.data[pair] = 0
    pairs.closing.data[pair] = Math.max(0, record[DISTANCE] / this.dt)
    pairs.when.data[pair] = entry
    // What only grazes, nearer than can be told apart, may be met on the way there and not on the way back.
    const exit = path.meeting(a, b, 0, true)
    pairs.exit.data[pair] = exit > entry ? exit : entry
    pairs.flags.data[pair] |= PASSED_THROUGH
    pairs.list(pair)
    if (pairs.asking) pairs.asked.push(pair)
  }

  private verdict(pair: number, a: number, b: number, response: number, before: number): number {
    if (response === PASS) return 0
    const { record, normal, look } = this
    const reach = response === SENSE ? 0 : before === SOLID ? 2 * this.reachOfTouch : this.reachOfTouch
    look[0] = reach
    // What did not meet is looked at as far as it may have come, in case it has passed through.
    if (before === 0 && this.isSilent(response, a, b)) {
      this.path.approach(a, b, look)
      if (look[0] < reach) look[0] = reach
    }
    this.gaps.gapOf(a, b, look, record)
    if (record[DISTANCE] > look[0]) record[DISTANCE] = Infinity
    if (!(record[DISTANCE] <= reach)) return 0
    normal.data[2 * pair] = record[NORMAL]
    normal.data[2 * pair + 1] = record[NORMAL + 1]
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
}
