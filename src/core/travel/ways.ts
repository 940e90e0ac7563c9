/**
 * The ways that bodies travelled since the last step: the poses between which they went straight, where they were teleported in between, and
 * what they hit. The next step takes the bodies back to where they set out, so that it sees their motion, and sweeps the whole way.
 */
import type { StateVisitor } from '../save/state.ts'
import { BODY_ENABLED, KINEMATIC, type Population } from '../state/population.ts'
import { IntList } from '../state/table.ts'

/** Of a hit: the two colliders and their ages. */
export const HIT_WORDS = 4
/** Of a hit, before its normal and its point: how far along the way it was, and which part of the motion led straight in. */
export const HIT_HEAD = 2

/** The way of one body. */
export class Way {
  /** Poses, one behind the other. */
  poses: Float64Array
  /** How far each pose is along the way; what a teleport jumps over does not count. */
  lengths = new Float64Array(8)
  /** 1 for a pose that a teleport led to. */
  jumps = new Int32Array(8)
  count = 0
  /** The first pose after the last teleport: there the tick begins. */
  start = 0
  /** Where the body was when the step began. */
  readonly atStep: Float64Array
  /** Dynamic bodies that were pushed out of the way. */
  readonly pushed = new IntList()
  hits = 0
  readonly words = new IntList()
  numbers = new Float64Array(64)
  private readonly size: number
  private readonly axes: number

  /** @param size numbers of a pose @param axes how many of them are the place, which come first */
  constructor(size: number, axes: number) {
    this.size = size
    this.axes = axes
    this.poses = new Float64Array(8 * size)
    this.atStep = new Float64Array(size)
  }

  /** Its state. */
  visit(v: StateVisitor): void {
    this.poses = v.numbers(this.poses)
    this.lengths = v.numbers(this.lengths)
    this.jumps = v.numbers(this.jumps)
    this.count = v.number(this.count)
    this.start = v.number(this.start)
    this.atStep.set(v.numbers(this.atStep))
    this.pushed.visit(v)
    this.hits = v.number(this.hits)
    this.words.visit(v)
    this.numbers = v.numbers(this.numbers)
  }

  clear(): void {
    this.count = 0
    this.start = 0
    this.hits = 0
    this.words.clear()
    this.pushed.clear()
  }

  get length(): number {
    return this.count === 0 ? 0 : this.lengths[this.count - 1]
  }

  /** Appends a pose: the body went there straight, or was put there. */
  add(pose: Float64Array, jump: boolean): void {
    const { size, axes } = this
    if (this.count === this.lengths.length) this.grow()
    const { count, poses, lengths, jumps } = this
    let square = 0
    for (let k = 0; k < size; k++) {
      poses[size * count + k] = pose[k]
      if (count === 0 || k >= axes) continue
      const moved = pose[k] - poses[size * (count - 1) + k]
      square += moved * moved
    }
    lengths[count] = count === 0 ? 0 : lengths[count - 1] + (jump ? 0 : Math.sqrt(square))
    jumps[count] = jump ? 1 : 0
    if (jump) this.start = count
    this.count++
  }

  /** Takes down what was hit at the end of the way so far. */
  hit(words: Int32Array, into: number, normal: Float64Array, point: Float64Array): void {
    const { axes } = this
    const stride = HIT_HEAD + 2 * axes
    const at = stride * this.hits
    if (at + stride > this.numbers.length) {
      const wider = new Float64Array(2 * this.numbers.length)
      wider.set(this.numbers)
      this.numbers = wider
    }
    for (let i = 0; i < HIT_WORDS; i++) this.words.push(words[i])
    this.numbers[at] = this.length
    this.numbers[at + 1] = into
    for (let k = 0; k < axes; k++) {
      this.numbers[at + HIT_HEAD + k] = normal[k]
      this.numbers[at + HIT_HEAD + axes + k] = point[k]
    }
    this.hits++
  }

  private grow(): void {
    const { poses, lengths, jumps } = this
    this.poses = new Float64Array(2 * poses.length)
    this.lengths = new Float64Array(2 * lengths.length)
    this.jumps = new Int32Array(2 * jumps.length)
    this.poses.set(poses)
    this.lengths.set(lengths)
    this.jumps.set(jumps)
  }
}

/** What the ways need of the poses of a dimension. */
export interface WayPoses {
  /** Numbers of a pose as it is kept; the place comes first. */
  readonly kept: number
  readonly axes: number
  /** Writes the pose of a body. */
  keep(body: number, out: Float64Array): void
  /** Puts a body at a pose. */
  set(body: number, pose: Float64Array): void
  readonly hasTarget: { readonly data: Int32Array }
  setTarget(body: number, pose: Float64Array): void
}

export class Ways {
  /** Bodies that have a way, in the order in which they set out. */
  readonly bodies = new IntList()
  private readonly ways: (Way | null)[] = []
  private readonly spare: Way[] = []
  private readonly population: Population<object, object>
  private readonly poses: WayPoses
  private readonly pose: Float64Array

  constructor(population: Population<object, object>, poses: WayPoses) {
    this.population = population
    this.poses = poses
    this.pose = new Float64Array(poses.kept)
  }

  /** The way of a body, or null. */
  of(body: number): Way | null {
    return body < this.ways.length ? this.ways[body] : null
  }

  /** The way of a body, which begins where it is now unless it has begun. */
  begin(body: number): Way {
    const begun = this.of(body)
    if (begun !== null) return begun
    const way = this.spare.pop() ?? new Way(this.poses.kept, this.poses.axes)
    while (this.ways.length <= body) this.ways.push(null)
    this.ways[body] = way
    this.bodies.push(body)
    this.addHere(body, way, false)
    for (let k = 0; k < way.atStep.length; k++) way.atStep[k] = this.pose[k]
    return way
  }

  /** Whether a body that travelled stops where another one is. */
  holds(traveller: number, other: number): boolean {
    const way = this.of(traveller)
    return way !== null && !way.pushed.has(other)
  }

  /** Their state. */
  visit(v: StateVisitor): void {
    const before = this.bodies.data.slice(0, this.bodies.length)
    this.bodies.visit(v)
    for (const body of before) {
      const way = this.ways[body]!
      if (!this.bodies.has(body)) this.giveBack(body, way)
    }
    for (let i = 0; i < this.bodies.length; i++) {
      const body = this.bodies.data[i]
      while (this.ways.length <= body) this.ways.push(null)
      this.ways[body] ??= this.spare.pop() ?? new Way(this.poses.kept, this.poses.axes)
      this.ways[body]!.visit(v)
    }
  }

  /** A body was teleported: what it travelled before is kept. */
  jump(body: number): void {
    const way = this.of(body)
    if (way !== null) this.addHere(body, way, true)
  }

  /** A body is gone, or does not travel any more. */
  drop(body: number): void {
    const way = this.of(body)
    if (way === null) return
    this.bodies.remove(body)
    this.giveBack(body, way)
  }

  /**
   * As a step begins: takes each traveller back to where its tick begins, and sends it to where it is now.
   * @param moved called for each that was taken back
   */
  rewind(moved: (body: number) => void): void {
    const { bodies, poses, population } = this
    const { kept } = poses
    let left = 0
    for (let i = 0; i < bodies.length; i++) {
      const body = bodies.data[i]
      const way = this.of(body)!
      const travels = population.type.data[body] === KINEMATIC && (population.bodyFlags.data[body] & BODY_ENABLED) !== 0
      if (!travels) {
        this.giveBack(body, way)
        continue
      }
      bodies.data[left++] = body
      poses.keep(body, way.atStep)
      if (poses.hasTarget.data[body] === 0) poses.setTarget(body, way.atStep)
      for (let k = 0; k < kept; k++) this.pose[k] = way.poses[kept * way.start + k]
      poses.set(body, this.pose)
      moved(body)
    }
    bodies.length = left
  }

  /** The step is over. */
  clear(): void {
    const { bodies } = this
    for (let i = 0; i < bodies.length; i++) this.giveBack(bodies.data[i], this.of(bodies.data[i])!)
    bodies.clear()
  }

  /** Whether a hit that was taken down is of two colliders that are still there. */
  lives(way: Way, hit: number): boolean {
    const { data } = this.population.serial
    const at = HIT_WORDS * hit
    const { words } = way
    return data[words.data[at]] === words.data[at + 2] && data[words.data[at + 1]] === words.data[at + 3]
  }

  private giveBack(body: number, way: Way): void {
    this.ways[body] = null
    way.clear()
    this.spare.push(way)
  }

  private addHere(body: number, way: Way, jump: boolean): void {
    this.poses.keep(body, this.pose)
    way.add(this.pose, jump)
  }
}

/** Where the numbers of a hit stand. */
export function hitAt(axes: number, hit: number): number {
  return (HIT_HEAD + 2 * axes) * hit
}
