/**
 * The stages of a tick behind `tick.ts`, as far as they know no dimension: the search for candidate pairs, the verdicts on them, what
 * was crossed on the way. A dimension brings its geometry and its paths, and, where bodies are moved by forces, the stages that do so.
 */
import { FRESH, PASS, SENSE, SOLID } from '../filter/filter.ts'
import type { DescribedJoints, OffBody } from '../joints/strains.ts'
import type { Hash } from '../save/hash.ts'
import type { StateVisitor } from '../save/state.ts'
import type { Surfaces } from '../solve/surfaces.ts'
import type { PieceTable, SourcePiece } from '../state/pieces.ts'
import { BODY_DEAD, BODY_ENABLED, type Population, TELEPORTED } from '../state/population.ts'
import { type Column, IntList } from '../state/table.ts'
import { HIT_HEAD, HIT_WORDS, hitAt, type Way, type WayPoses, Ways } from '../travel/ways.ts'
import type { BoundsTree } from '../tree/boundsTree.ts'
import { KeenError } from '../util/errors.ts'
import type { Carrying } from '../watch/decideHooks.ts'
import type { Failure } from '../watch/dispatch.ts'
import type { ContactPoint } from '../watch/event.ts'
import type { BroadPhase } from './broadPhase.ts'
import { Candidates, type IsWatched } from './candidates.ts'
import { DISTANCE, type Distances, gapSize, NORMAL } from './distances.ts'
import { type Jump, Jumps } from './jumps.ts'
import { ASK_AGAIN, PASSED_THROUGH, type Pairs, PRESSED_APART, RESHAPED_NEAR, STALE } from './pairs.ts'
import type { Path } from './path.ts'

/** Metres within which a solid pair counts as touching; it ends beyond twice that. */
const TOUCH = 0.001

/** Cosine of the angle by which a one-way collider may be met aslant. */
export const ONE_WAY_COSINE = 0.5

/** Lengths more than rounding, by which what is said of a pair for a while is on the safe side. */
const SURELY = 1e-6

/** Any distance. */
export const ANY_DISTANCE = Float64Array.of(Infinity)

/** How far two colliders are from each other now. */
export interface Apart {
  /** Between their bounds; 0 when these overlap. */
  readonly bounds: number
  /** Between their shapes; negative when they overlap. */
  readonly shapes: number
  /** The distance within which a solid pair counts as touching. */
  readonly touch: number
}

/** What a kernel is made from. */
export interface KernelSetup {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  /** Whether any watch or hook matches a pair. */
  readonly isWatched: IsWatched
  /** Seconds a tick. */
  readonly dt: number
  /** The user's lengths to a metre. */
  readonly unit: number
}

/** Lengths within which a solid pair counts as touching. */
export function touchDistance(unit: number): number {
  return TOUCH * unit
}

/** So many teleports in as many ticks are how a body is moved. */
const OFTEN = 3
const INSIDE_AT_START = 2

/** Ticks that a body's way is followed back. */
const LOOKED_BACK = 64

/** So many times the reach of a touch above a body it is looked for what it fell through: a kilometre. */
const FALLEN = 1e6

/** A way through another body, for explanations. */
export interface Passage {
  /** Who came that way. */
  readonly body: object
  /** Within so many ticks. */
  readonly ticks: number
  /** How fast it is. */
  readonly speed: number
}

/** A teleport past another body, for explanations. */
export interface Jumped {
  /** Who was teleported. */
  readonly body: object
  /** Before which tick. */
  readonly tick: number
  /** Whether it was out of the other, not over it. */
  readonly out: boolean
  /** Whether it is moved by teleports. */
  readonly often: boolean
}

/** What the kernel needs of the poses of a dimension. */
export interface KernelPoses extends WayPoses {
  /** How often in this step a speed or a place was clamped to its limit. */
  held: number
  /** Puts a body at a pose of numbers, at once. */
  teleport(body: number, pose: Float64Array): void
  readonly hasTarget: Column<Int32Array>
  /** How a body moves, as it reads: the numbers of all bodies, 3 each in 2D and 6 in 3D. */
  motionOf(body: number): Float64Array
  /** The body is simply here: no motion within the next tick. */
  resetMotion(body: number): void
  /** Moves a kinematic body to its end pose; returns whether it moved. */
  moveKinematic(body: number, dt: number): boolean
  /** Writes by how many radians a body has turned in the last step, and how far it went. */
  readStep(body: number, out: Float64Array): void
  /** Takes down what a body that was led did in this step; 1 in `isLed` then. */
  noteDone(body: number, dt: number): void
  readonly isLed: Column<Int32Array>
  /** A body that was led goes on by itself, as it did. */
  takeDone(body: number): void
}

type Pieces = PieceTable<SourcePiece>

/** The parts that a dimension brings. */
export interface KernelParts<G extends Pieces> {
  readonly axes: number
  readonly poses: KernelPoses
  readonly broadPhase: BroadPhase<SourcePiece, G, BoundsTree>
  readonly distances: Distances<G>
  readonly path: Path
  readonly surfaces: Surfaces
}

/** Who is carried along by what moves. */
interface StepRiders {
  carryInStep(now: number): void
  forget(body: number): void
  visit(v: StateVisitor): void
  clear(): void
}

/** What joints add at the end of a tick: see `core/joints/joints.ts`. */
export interface JointStages {
  /** The ends that were told in the last tick. */
  readonly told: readonly object[]
  /** Ends what broke in this tick. */
  settle(tick: number): void
  /** For explanations: what is told of the joints of two bodies. */
  describe(a: number, b: number, offBody: OffBody): DescribedJoints
  /** Tells what ended, or only books it; returns whether there was anything. */
  tell(failures: Failure[], quiet: boolean): boolean
}

/** What forces add to the stages: see `core/solve/forces.ts`, which a world without any does not load. */
interface ForceStages {
  visit(v: StateVisitor): void
  hash(into: Hash): void
  readonly joints: JointStages
  predictBounds(): void
  findContacts(): void
  move(): void
  sweep(): void
  judgePressed(pair: number, before: number): boolean
  wakeFor(pair: number, before: number, verdict: number): void
  straighten(pair: number): void
  wakeTouching(collider: number): void
  wake(body: number): void
  releasePair(pair: number): void
  readonly motion: { readonly gravity: Float64Array }
  describeMass(body: number): string
  readApproach(pair: number, out: Float64Array, at: number): boolean
}

export abstract class Kernel<V, G extends Pieces = Pieces> {
  readonly geometry: G
  readonly broadPhase: BroadPhase<SourcePiece, G, BoundsTree>
  readonly trees: readonly BoundsTree[]
  /** Pieces that are halfspaces: they are in no tree. */
  readonly planes: IntList
  /** What forces and contacts do; null where nothing is moved by any. */
  abstract readonly forces: ForceStages | null
  /** How hooks see and set what surfaces carry. */
  abstract readonly carrying: Carrying<V>
  /** What the surfaces of colliders are like. */
  readonly surfaces: Surfaces
  /** Distances between colliders, whatever the number of their pieces. */
  readonly distances: Distances<G>
  /** Lengths within which a solid pair counts as touching. */
  readonly touch: number
  readonly population: Population<object, object>
  protected readonly pairs: Pairs
  protected readonly path: Path
  /** Seconds a tick. */
  readonly dt: number
  /** The record of the last verdict. */
  protected readonly record: Float64Array
  /** The normal of each solid pair, from its `a` to its `b`. */
  protected readonly normal: Column<Float64Array>
  /** Where a pair met that parted within the same tick. */
  protected readonly metAt: Column<Float64Array>
  private readonly axes: number
  /** 2 or 3. */
  readonly dimension: number
  readonly poses: KernelPoses
  /** What travelled since the last step. */
  readonly ways: Ways
  /** The last teleports, for explanations. */
  private readonly jumps: Jumps
  /** Of each body: the step before which it was added. */
  private readonly born: Column<Int32Array>
  private readonly kept: { readonly from: Float64Array; readonly to: Float64Array }
  /** Who is carried along by what moves; null while nobody has travelled. */
  riders: StepRiders | null = null
  /** Which pairs are worth judging. */
  readonly candidates: Candidates
  /** Pairs that are judged anew in this tick since one of the two changed its shape there. */
  private readonly reshaped = new IntList()
  private readonly gone = new Float64Array(2)
  private readonly rewound = (body: number): void => this.broadPhase.markMoved(body)
  /** Pairs that need a verdict in this tick. */
  private readonly open = new IntList()
  /** A bound of how deep two overlap, or how far they are apart. */
  private readonly bound = new Float64Array(1)
  /** The greatest distance that is searched for. */
  private readonly searchReach = new Float64Array(1)

  constructor(setup: KernelSetup, parts: KernelParts<G>) {
    const { population, pairs, dt, unit } = setup
    const { axes, poses, broadPhase, distances, path } = parts
    this.population = population
    this.pairs = pairs
    this.candidates = new Candidates(population, pairs, broadPhase, axes, setup.isWatched)
    this.dt = dt
    this.touch = touchDistance(unit)
    this.axes = axes
    this.dimension = axes
    this.poses = poses
    this.ways = new Ways(population, poses)
    this.jumps = new Jumps(poses.kept)
    this.born = population.bodies.i32()
    this.kept = { from: new Float64Array(poses.kept), to: new Float64Array(poses.kept) }
    this.broadPhase = broadPhase
    this.geometry = broadPhase.geometry
    this.trees = broadPhase.trees
    this.planes = broadPhase.planes
    this.distances = distances
    this.path = path
    this.surfaces = parts.surfaces
    this.normal = pairs.table.f64(axes)
    this.metAt = pairs.table.f64(axes)
    this.record = new Float64Array(gapSize(axes))
  }

  /** A new body at a pose of numbers. */
  addBody(body: number, pose: Float64Array): void {
    this.poses.set(body, pose)
    this.poses.resetMotion(body)
    this.born.data[body] = this.broadPhase.now
  }

  /** Puts a body at a pose of numbers; what touched it wakes. */
  teleport(body: number, pose: Float64Array): void {
    const { population, broadPhase, poses, kept } = this
    poses.keep(body, kept.from)
    poses.teleport(body, pose)
    poses.keep(body, kept.to)
    this.jumps.note((population.bodyHandles[body] as { serial: number }).serial, broadPhase.now, kept.from, kept.to)
    this.ways.jump(body)
    broadPhase.markMoved(body)
    for (let c = population.first(body); c >= 0; c = population.next(c)) this.wakeTouching(c)
  }

  /** Brings geometry and trees up to date before a query. Changes no simulated state. */
  refresh(): void {
    this.broadPhase.refresh()
  }

  /** Its state, once nothing waits to be brought in. */
  visit(v: StateVisitor): void {
    this.broadPhase.visit(v)
    this.poses.held = v.number(this.poses.held)
    this.path.visit(v)
    this.ways.visit(v)
    this.jumps.visit(v)
    this.reshaped.visit(v)
    const rides = v.flag(this.riders !== null)
    if (rides) this.riders?.visit(v)
    else this.riders?.clear()
    this.forces?.visit(v)
  }

  /** Adds what decides the future besides bodies, colliders and pairs. */
  hash(into: Hash): void {
    this.forces?.hash(into)
    const { bodies } = this.ways
    for (let i = 0; i < bodies.length; i++) into.word(bodies.data[i])
  }

  // The stages of a tick, in their order.

  /** Changes made outside the step become world geometry, bounds and trees. */
  prepare(): void {
    this.broadPhase.shrinkStretched()
    this.ways.rewind(this.rewound)
    this.broadPhase.prepare()
  }

  /** Makes the bounds of all that moves hold the motion that it is expected to make. */
  predictBounds(): void {
    this.forces?.predictBounds()
  }

  /** Broad phase: adds candidate pairs for whatever left its bounds or must be searched for again. */
  findPairs(): void {
    this.candidates.find()
  }

  /** What was changed in part since the last step: whoever is near wakes, and is judged anew. */
  noteEdits(): void {
    const { pairs, population, broadPhase } = this
    const { edited } = broadPhase
    for (let i = 0; i < this.reshaped.length; i++) pairs.flags.data[this.reshaped.data[i]] &= ~RESHAPED_NEAR
    this.reshaped.clear()
    for (let i = 0; i < edited.length; i += 2) {
      const other = edited.data[i + 1]
      this.forces?.wake(population.filter.body.data[other])
      const pair = this.candidates.pairOf(edited.data[i], other)
      if (pair < 0) continue
      pairs.flags.data[pair] |= STALE | RESHAPED_NEAR
      this.reshaped.push(pair)
    }
    edited.clear()
  }

  /** Contacts of the pairs that the solver is to work on, at the start poses; lists pairs for the decide hooks. */
  findContacts(): void {
    this.forces?.findContacts()
  }

  /** Solves the contacts and moves every mover to its end pose; then what rides on them. */
  move(): void {
    const { population, poses, broadPhase, dt } = this
    const { kinematics, bodyFlags } = population
    poses.held = 0
    this.path.reset()
    this.forces?.move()
    for (let body = kinematics.from(0); body >= 0; body = kinematics.from(body + 1)) {
      if ((bodyFlags.data[body] & BODY_DEAD) !== 0) continue
      poses.resetMotion(body)
      const isLed = poses.hasTarget.data[body] !== 0
      if (!isLed) poses.isLed.data[body] = 0
      if ((bodyFlags.data[body] & BODY_ENABLED) === 0 || !poses.moveKinematic(body, dt)) {
        if (isLed) poses.noteDone(body, dt)
        continue
      }
      if (isLed) poses.noteDone(body, dt)
      poses.readStep(body, this.gone)
      broadPhase.follow(body, this.gone)
    }
    if (this.riders === null) return
    this.riders.carryInStep(broadPhase.now)
    broadPhase.refresh()
    this.followWays()
  }

  /** The paths of what travelled lead along the whole of its way; what it passed becomes a candidate. */
  private followWays(): void {
    const { ways, path, poses, broadPhase, dt } = this
    const { bodies } = ways
    for (let i = 0; i < bodies.length; i++) {
      const body = bodies.data[i]
      poses.noteDone(body, dt)
      path.setWay(body, ways.of(body)!)
      broadPhase.followBends(body, path)
      broadPhase.markStretched(body)
    }
  }

  /** After the verdicts: what was hit on the way is told where it was, and with how much speed. */
  noteHits(): void {
    const { ways } = this
    const { bodies } = ways
    for (let i = 0; i < bodies.length; i++) {
      const way = ways.of(bodies.data[i])!
      for (let hit = 0; hit < way.hits; hit++) if (ways.lives(way, hit)) this.noteHit(way, hit)
    }
    ways.clear()
  }

  private noteHit(way: Way, hit: number): void {
    const { pairs, normal, metAt, axes, dt } = this
    const own = way.words.data[HIT_WORDS * hit]
    const other = way.words.data[HIT_WORDS * hit + 1]
    const pair = this.candidates.pairOf(own, other)
    if (pair < 0 || pairs.response.data[pair] !== SOLID) return
    const passed = (pairs.flags.data[pair] & PASSED_THROUGH) !== 0
    const meets = pairs.next.data[pair] !== 0
    if (pairs.state.data[pair] !== 0 || (pairs.flags.data[pair] & PRESSED_APART) !== 0) return
    const at = hitAt(axes, hit)
    const { numbers } = way
    const time = way.length > 0 ? numbers[at] / way.length : 0
    const closing = (numbers[at + 1] * way.length) / dt
    if (!meets && !passed) {
      pairs.flags.data[pair] |= PASSED_THROUGH
      pairs.impulse.data[pair] = 0
      pairs.friction.data[pair] = 0
      pairs.when.data[pair] = time
      pairs.exit.data[pair] = time
      pairs.closing.data[pair] = 0
      pairs.markChanged(pair)
    }
    if (closing < pairs.closing.data[pair]) return
    pairs.closing.data[pair] = closing
    if (meets) return
    const sign = pairs.a.data[pair] === own ? -1 : 1
    for (let k = 0; k < axes; k++) {
      normal.data[axes * pair + k] = sign * numbers[at + HIT_HEAD + k]
      metAt.data[axes * pair + k] = numbers[at + HIT_HEAD + axes + k]
    }
  }

  /** Follows what moved fast along its path, and lets it bounce where it would have gone through. */
  sweep(): void {
    this.forces?.sweep()
  }

  /** Verdicts at the end poses: lists changed pairs, dooms those that are no candidates any more. */
  judgePairs(): void {
    const { pairs, distances, candidates } = this
    const { changedTick, now, unsettled, odometer } = this.broadPhase
    const { a, b, flags, response, state, next, settled } = pairs
    const { filter } = this.population
    for (let i = 0; i < unsettled.length; i++) pairs.unsettle(unsettled.data[i])
    unsettled.clear()
    distances.tests = 0
    const plain = !pairs.hasHooks
    const { open } = this
    open.clear()
    pairs.listOpen(plain ? odometer.data : null, open)
    for (let i = 0; i < open.length; i++) {
      const pair = open.data[i]
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
        settled.data[pair] = 0
        response.data[pair] = filter.respond(one, other)
        if (
          candidates.isSilent(response.data[pair], one, other) &&
          !candidates.isWatched(one, other, response.data[pair])
        )
          pairs.scheduleRemoval(pair)
        if (before !== 0) pairs.markChanged(pair)
      }
      if (plain && this.judgeQuickly(pair, one, other, before)) continue
      if (this.forces === null || !this.forces.judgePressed(pair, before)) this.judge(pair)
      const verdict = next.data[pair]
      if (verdict === 0 && before === SOLID) this.surfaces.reset(pair)
      if (pairs.hasHooks) this.putToHooks(pair)
      if (verdict !== before) pairs.markChanged(pair)
      else if (verdict === 0) {
        if (response.data[pair] !== PASS && candidates.isSilent(response.data[pair], one, other))
          this.findCrossing(pair, one, other)
        if (response.data[pair] === PASS || distances.wideApart(one, other)) pairs.scheduleRemoval(pair)
      }
    }
    this.broadPhase.now++
  }

  /**
   * Judges a pair that nobody presses apart, where that can be told without the distance of the two: whether they meet, or that they cannot have on
   * the way. Says then how long it lasts. Returns whether it did.
   */
  private judgeQuickly(pair: number, one: number, other: number, before: number): boolean {
    const { pairs, distances } = this
    const response = pairs.response.data[pair]
    if (response === PASS || pairs.answer.data[pair] !== 0 || pairs.through.data[pair] !== 0) return false
    if (response === SENSE && before !== SOLID) {
      if (distances.meet(one, other)) {
        if (!this.needsNoNormal(pair, one, other)) return false
        if (before === 0) this.changeQuickly(pair, one, other, before, SENSE)
        distances.depthBound(one, other, this.bound)
        this.settle(pair, one, other)
        return true
      }
      if (before === SENSE) {
        this.changeQuickly(pair, one, other, before, 0)
        pairs.settled.data[pair] = 0
        return true
      }
    } else if (before !== 0 || !this.candidates.isSilent(response, one, other)) return false
    return this.staysApart(pair, one, other, response)
  }

  /** Whether nobody can ask for the normal of a sense pair: it never was a solid one, and is not told together with any. */
  private needsNoNormal(pair: number, one: number, other: number): boolean {
    const { normal, axes, population } = this
    const { data } = normal
    const at = axes * pair
    if (data[at] !== 0 || data[at + 1] !== 0 || (axes === 3 && data[at + 2] !== 0)) return false
    return population.isAlone(one) && population.isAlone(other)
  }

  /** Whether two that are apart were so all the time, and says how long they will be. */
  private staysApart(pair: number, one: number, other: number, response: number): boolean {
    const { pairs, distances, path, bound } = this
    const { first, pieceCount } = this.geometry
    const { odometer } = this.broadPhase
    if (pieceCount.data[one] !== 1 || pieceCount.data[other] !== 1) return false
    const p = first.data[one]
    const q = first.data[other]
    distances.gapBound(p, q, bound)
    if (response === SOLID) bound[0] -= 2 * this.touch
    if (!(bound[0] > 0)) return false
    const came = odometer.data[2 * one + 1] + odometer.data[2 * other + 1] + SURELY
    if (!(bound[0] > came || path.keptApart(one, other, p, q))) return false
    // What was settled before has had no other wide bounds since.
    if (pairs.settled.data[pair] === 0 && distances.wideApart(one, other)) pairs.scheduleRemoval(pair)
    this.settle(pair, one, other)
    return true
  }

  private changeQuickly(pair: number, one: number, other: number, before: number, verdict: number): void {
    const { pairs } = this
    pairs.next.data[pair] = verdict
    pairs.when.data[pair] = this.timeOf(one, other, verdict, before)
    pairs.markChanged(pair)
  }

  /** What was found of a pair lasts until the two have come by the bound. */
  private settle(pair: number, one: number, other: number): void {
    const { data } = this.broadPhase.odometer
    this.pairs.settled.data[pair] = data[2 * one] + data[2 * other] + this.bound[0] - SURELY
  }

  /** The verdict of one pair; again, after a decide hook answered. */
  judge(pair: number): void {
    const { pairs } = this
    const one = pairs.a.data[pair]
    const other = pairs.b.data[pair]
    const before = pairs.state.data[pair]
    let response = pairs.response.data[pair]
    const allowed = pairs.allowedResponse(pair)
    // The answer of a hook, or of a one-way side, is kept until the two part by the distance that the filter's response asks for.
    const kept = allowed < response && this.verdict(pair, one, other, response, response) !== 0
    if (kept) response = allowed
    const verdict = this.verdict(pair, one, other, response, before)
    if (verdict === 0 && !kept) {
      pairs.answer.data[pair] = 0
      pairs.through.data[pair] = 0
    }
    pairs.next.data[pair] = verdict
    this.forces?.wakeFor(pair, before, verdict)
    if (verdict === SOLID) this.writeClosing(pair, one, other)
    else pairs.closing.data[pair] = 0
    if (verdict === SOLID) this.forces?.straighten(pair)
    if (verdict !== before) pairs.when.data[pair] = this.timeOf(one, other, verdict, before)
  }

  /** Writes how fast two that touch came together in this tick, along the normal, where they are nearest: by the record of the verdict. */
  protected abstract writeClosing(pair: number, one: number, other: number): void

  /** A collider changed: wakes what rests on it. */
  wakeTouching(collider: number): void {
    this.forces?.wakeTouching(collider)
  }

  /** A pair's slot is about to be used again. */
  releasePair(pair: number): void {
    this.forces?.releasePair(pair)
  }

  /** For explanations: how forces move a dynamic body, in a few words. Cold. */
  describeMass(body: number): string {
    return this.forces?.describeMass(body) ?? ''
  }

  /** Friction, restitution and surface speed of a solid pair, as decide hooks see and set them. */
  readSurface(pair: number, out: Float64Array): void {
    this.surfaces.read(pair, out)
  }

  writeSurface(pair: number, from: Float64Array): void {
    if (this.forces !== null) {
      this.surfaces.write(pair, from)
      return
    }
    throw new KeenError(
      'bad-argument',
      `'friction', 'restitution' and '${this.carrying.field}' of a pair act on what is moved by forces, and in this world nothing is: a hook can only answer`,
    )
  }

  // What is asked about pairs and colliders.

  /** Whether two are near enough to touch; writes their record. */
  touches(c: number, other: number, record: Float64Array): boolean {
    this.searchReach[0] = this.touch
    this.distances.between(c, other, this.searchReach, record)
    return record[DISTANCE] <= this.touch
  }

  /** The normal of a solid pair towards its `a` or its `b`. */
  normalTowards(pair: number, towardsA: boolean): V {
    return this.vectorOf(this.normal.data, this.axes * pair, towardsA ? -1 : 1)
  }

  /** The unit normal of a record, towards the first of the two. */
  normalTowardsFirst(record: Float64Array): V {
    return this.vectorOf(record, NORMAL, -1)
  }

  /** The place between the two nearest points of a record. */
  middleOf(record: Float64Array): V {
    const { axes } = this
    const middle = new Float64Array(axes)
    const pointA = NORMAL + axes
    for (let i = 0; i < axes; i++) middle[i] = (record[pointA + i] + record[pointA + axes + i]) / 2
    return this.vectorOf(middle, 0, 1)
  }

  /** For explanations: how far two colliders are from each other. Cold. */
  apart(a: number, b: number): Apart {
    this.refresh()
    this.distances.between(a, b, ANY_DISTANCE, this.record)
    return { bounds: this.distances.betweenBounds(a, b), shapes: this.record[DISTANCE], touch: this.touch }
  }

  /** For explanations: what is told of the joints of two bodies; null for a world without forces. Cold. */
  describeJoints(a: number, b: number): DescribedJoints | null {
    const { population } = this
    const offBody: OffBody = (body, point) => {
      const colliders: number[] = []
      for (let c = population.first(body); c >= 0; c = population.next(c)) colliders.push(c)
      return colliders.length === 0 ? null : this.distances.toPoint(colliders, point)
    }
    return this.forces?.joints.describe(a, b, offBody) ?? null
  }

  /** For explanations: the last teleport of either over the other, or out of it; null for none that is kept. Cold. */
  teleportedPast(a: number, b: number): Jumped | null {
    const { population } = this
    for (const [c, other] of [
      [a, b],
      [b, a],
    ]) {
      const body = population.bodyHandles[population.filter.body.data[c]] as { serial: number }
      const jumps = this.jumps.of(body.serial)
      for (const jump of jumps) {
        const met = this.jumpMeets(c, jump, other)
        if (met === 0) continue
        const near = jumps.filter(({ tick }) => Math.abs(tick - jump.tick) < OFTEN)
        return { body, tick: jump.tick, out: met === INSIDE_AT_START, often: near.length >= OFTEN }
      }
    }
    return null
  }

  /**
   * For explanations: whether the straight way that a body came lately leads through a collider that it is past now. Walks back by how it moves
   * now, for no history is kept; so only of what is so fast that it goes its own size in a tick, and can hardly have turned. Cold.
   */
  cameThrough(a: number, b: number): Passage | null {
    const { population, poses, dt } = this
    const numbers = poses.axes === 2 ? 3 : 6
    for (const [c, other] of [
      [a, b],
      [b, a],
    ]) {
      const body = population.filter.body.data[c]
      const motion = poses.motionOf(body).subarray(numbers * body, numbers * body + poses.axes)
      const speed = Math.sqrt(motion.reduce((sum, part) => sum + part * part, 0))
      if (speed * dt < this.geometry.reach.data[c] || speed === 0) continue
      const to = new Float64Array(poses.kept)
      poses.keep(body, to)
      const most = Math.min(LOOKED_BACK, this.broadPhase.now - this.born.data[body])
      for (let ticks = 1; ticks <= most; ticks = ticks < most ? Math.min(2 * ticks, most) : most + 1) {
        const from = to.slice()
        for (let i = 0; i < poses.axes; i++) from[i] -= motion[i] * dt * ticks
        if (this.jumpMeets(c, { tick: 0, from, to }, other) !== 1) continue
        return { body: population.bodyHandles[body] as object, ticks, speed }
      }
    }
    return null
  }

  /** For explanations: whether a collider lies beyond another in the direction in which gravity pulls. Cold. */
  isBelow(c: number, other: number, gravity: Float64Array): boolean {
    const from = new Float64Array(this.poses.kept)
    this.poses.keep(this.population.filter.body.data[c], from)
    const length = Math.sqrt(gravity.reduce((sum, part) => sum + part * part, 0))
    if (length === 0) return false
    const to = from.slice()
    for (let i = 0; i < this.poses.axes; i++) to[i] -= (gravity[i] / length) * this.touch * FALLEN
    return this.jumpMeets(c, { tick: 0, from, to }, other) === 1
  }

  /** What the straight way of a teleport of a collider meets of another: 0 nothing, 1 it, 2 it is inside at the start. */
  protected abstract jumpMeets(c: number, jump: Jump, other: number): number

  /** How a pair's `a` moves as seen from its `b` in this tick, a second, as three numbers. */
  readApproach(pair: number, out: Float64Array, at: number): void {
    if (this.forces?.readApproach(pair, out, at)) return
    const { body } = this.population.filter
    this.readWay(body.data[this.pairs.a.data[pair]], body.data[this.pairs.b.data[pair]], out, at)
    for (let i = 0; i < 3; i++) out[at + i] /= this.dt
  }

  /** Writes how far one body moved in this tick as seen from another, as three numbers. */
  protected abstract readWay(body: number, from: number, out: Float64Array, at: number): void

  /** Where the two of a solid pair touch now. Cold. */
  abstract pointsOf(pair: number): ContactPoint<V>[]

  /** Whether any collider adds something of its own to a hit. */
  get describesHits(): boolean {
    return false
  }

  /** Writes the direction, in the world, towards which a collider lets through; false where it lets nothing through. */
  abstract readOneWay(c: number, out: Float64Array): boolean

  /** Whether a ray runs along a piece; writes a graze record. */
  abstract graze(piece: number, line: Float64Array, out: Float64Array): boolean

  /** The unit normal of a solid pair, from its `a` to its `b`, as three numbers (2D: the last is 0). */
  readNormal(pair: number, out: Float64Array, at: number): void {
    for (let i = 0; i < 3; i++) out[at + i] = i < this.axes ? this.normal.data[this.axes * pair + i] : 0
  }

  /** Where the two of a solid pair that met and parted within the tick met, as three numbers. */
  readMet(pair: number, out: Float64Array, at: number): void {
    for (let i = 0; i < 3; i++) out[at + i] = i < this.axes ? this.metAt.data[this.axes * pair + i] : 0
  }

  /** A vector of this dimension, to be filled by {@link fillVector}. */
  abstract newVector(): V

  /** Writes the numbers at `from[at]`, times a sign, as a vector. */
  abstract fillVector(out: V, from: Float64Array, at: number, sign: number): void

  private vectorOf(from: Float64Array, at: number, sign: number): V {
    const vector = this.newVector()
    this.fillVector(vector, from, at, sign)
    return vector
  }

  // How a pair is judged.

  /** How two meet: 0 for not at all. What met before holds on for longer. */
  private verdict(pair: number, a: number, b: number, response: number, before: number): number {
    if (response === PASS) return 0
    const { record, normal, searchReach, axes } = this
    const reach = response === SENSE ? 0 : before === SOLID ? 2 * this.touch : this.touch
    searchReach[0] = reach
    // Two that did not meet are searched as far as they may have moved, in case they passed through each other.
    if (before === 0 && this.candidates.isSilent(response, a, b)) {
      this.path.approach(a, b, searchReach)
      if (searchReach[0] < reach) searchReach[0] = reach
    }
    this.distances.between(a, b, searchReach, record)
    if (record[DISTANCE] > searchReach[0]) record[DISTANCE] = Infinity
    if (!(record[DISTANCE] <= reach)) return 0
    for (let i = 0; i < axes; i++) normal.data[axes * pair + i] = record[NORMAL + i]
    return response
  }

  /** When in the tick the distance passed the reach that decides: forwards for a begin, backwards for an end. */
  private timeOf(a: number, b: number, verdict: number, before: number): number {
    if (verdict !== 0) return this.path.meeting(a, b, verdict === SOLID ? this.touch : 0, false)
    return this.path.meeting(a, b, before === SOLID ? 2 * this.touch : 0, true)
  }

  /**
   * A pair that meets at neither end of the tick: whether it did on the way. Only what stands at the path's start because it was
   * put there counts as met there.
   */
  private findCrossing(pair: number, a: number, b: number): void {
    // The record of the verdict holds the distance at the end; Infinity when the motion was too short to bridge it.
    if (this.record[DISTANCE] === Infinity || this.record[DISTANCE] <= 0) return
    const { pairs, path, population, record, normal, metAt, axes } = this
    const entry = path.crossing(a, b)
    if (entry < 0) return
    if (entry === 0) {
      const { filter, bodyFlags } = population
      const marks = bodyFlags.data[filter.body.data[a]] | bodyFlags.data[filter.body.data[b]]
      const fresh = (filter.flags.data[a] | filter.flags.data[b]) & FRESH
      if ((marks & TELEPORTED) === 0 && fresh === 0) return
    }
    // It may be the last of several to part, and then gives the normal of the end event.
    path.gapAt(a, b, entry, record)
    const pointA = NORMAL + axes
    for (let i = 0; i < axes; i++) {
      normal.data[axes * pair + i] = record[NORMAL + i]
      metAt.data[axes * pair + i] = (record[pointA + i] + record[pointA + axes + i]) / 2
    }
    path.closingAt(a, b, entry, record)
    pairs.impulse.data[pair] = 0
    pairs.friction.data[pair] = 0
    pairs.closing.data[pair] = Math.max(0, record[DISTANCE] / this.dt)
    pairs.when.data[pair] = entry
    // A graze within rounding may be found forwards and not backwards.
    const exit = path.meeting(a, b, 0, true)
    pairs.exit.data[pair] = exit > entry ? exit : entry
    pairs.flags.data[pair] |= PASSED_THROUGH
    pairs.markChanged(pair)
    if (pairs.hasHooks) pairs.toAsk.push(pair)
  }

  /** Lists a pair for the decide hooks when it has come into touch, or is to be asked about again. */
  private putToHooks(pair: number): void {
    const { pairs } = this
    const { answer, flags, next } = pairs
    const again = (flags.data[pair] & ASK_AGAIN) !== 0
    flags.data[pair] &= ~ASK_AGAIN
    const touching = next.data[pair] !== 0 || answer.data[pair] !== 0
    if (touching && (answer.data[pair] === 0 || again || pairs.askEvery)) pairs.toAsk.push(pair)
  }
}
