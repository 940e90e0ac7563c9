/**
 * The contacts that the solver works on: one for every two pieces of a solid pair that touch, or may come to touch within the
 * tick. They last as long as that, and keep the impulses of the last tick for their points, by the points' names. A dimension brings
 * where two pieces touch.
 */
import type { Hash } from '../save/hash.ts'
import type { StateVisitor } from '../save/state.ts'
import type { PieceTable, SourcePiece } from '../state/pieces.ts'
import type { Population } from '../state/population.ts'
import { type Column, IntList, Table } from '../state/table.ts'
import type { Pairs } from '../step/pairs.ts'

const NONE = -1

/** How a dimension keeps the points of a contact. */
export interface PointForm {
  readonly axes: number
  /** Points of a contact, at most. */
  readonly most: number
  /** Numbers of a point, and where among them its gap stands. */
  readonly words: number
  readonly gap: number
}

export abstract class ContactBook<G extends PieceTable<SourcePiece> = PieceTable<SourcePiece>> {
  readonly table = new Table(64)
  readonly pair = this.table.i32()
  readonly count = this.table.i32()
  readonly names: Column<Float64Array>
  readonly normal: Column<Float64Array>
  readonly points: Column<Float64Array>
  /** The pieces, by their numbers in this tick. */
  readonly pieceA = this.table.i32()
  readonly pieceB = this.table.i32()
  /** Which of the directions it is in which a surface pushes; 0 where none of the two is one. */
  readonly group = this.table.i32()
  /** 1 when another piece of the same ground explains it better. */
  readonly seam = this.table.i32()
  /** The contacts of this tick, by the age of the colliders, then by their pieces. */
  list = new IntList()
  /** First contact of each pair, or 0 for none (slot + 1). */
  private readonly firstOf: Column<Int32Array>
  private readonly next = this.table.i32()
  /** Which piece of its collider each of the two is: that lasts, whereas their numbers do not. */
  private readonly partA = this.table.i32()
  private readonly partB = this.table.i32()
  /** The tick in which it was last found; 0 while asleep. */
  private readonly foundTick = this.table.i32()
  private readonly listed = this.table.i32()
  private readonly fresh = new IntList()
  private merged = new IntList()
  protected readonly pairs: Pairs
  protected readonly population: Population<object, object>
  protected readonly geometry: G
  private readonly form: PointForm
  private readonly older = (a: number, b: number): boolean => this.before(a, b)

  /** Its state. */
  visit(v: StateVisitor): void {
    this.table.visit(v)
    for (const list of [this.list, this.fresh, this.merged]) list.visit(v)
  }

  /** Adds the contacts of the last tick, with what each pressed: they stand in an order that is the same for the same worlds. */
  hash(into: Hash): void {
    const { list, pair, count, points, normal } = this
    for (let i = 0; i < list.length; i++) {
      const contact = list.data[i]
      into.word(this.pairs.a.data[pair.data[contact]])
      into.word(this.pairs.b.data[pair.data[contact]])
      into.word(count.data[contact])
      for (let k = 0; k < normal.width; k++) into.number(normal.data[normal.width * contact + k])
      for (let k = 0; k < points.width; k++) into.number(points.data[points.width * contact + k])
    }
  }

  constructor(population: Population<object, object>, pairs: Pairs, geometry: G, form: PointForm) {
    this.population = population
    this.pairs = pairs
    this.geometry = geometry
    this.form = form
    this.names = this.table.f64(form.most)
    this.normal = this.table.f64(form.axes)
    this.points = this.table.f64(form.words * form.most)
    this.firstOf = pairs.table.i32()
  }

  /**
   * Finds the contacts of a pair again.
   * @param within how far apart two points may be, in its first place
   * @returns how many points there are
   */
  abstract update(pair: number, within: Float64Array, now: number): number

  /**
   * Of the contacts of one body with the ground, marks those that are only an inner edge of it: the ground that is touched there does not
   * rise above a face on which the body lies elsewhere, and pushes another way than that. Such a push would trip what slides or
   * rolls over the seam.
   * @param slender half the least width of each body
   * @param isGround whether a body takes part as ground
   * @param alike whether two of them stand or move alike
   */
  abstract findSeams(
    body: number,
    slender: Float64Array,
    isGround: (body: number) => boolean,
    alike: (a: number, b: number) => boolean,
  ): void

  /**
   * One of two stops where the other is: what it comes nearer in this tick does not press.
   * @param velocity of that one, at an index @param sign 1 where it is the first of the two, -1 where it is the second
   * @param time seconds of its motion by which the two count as further apart
   */
  widen(pair: number, velocity: Float64Array, at: number, sign: number, time: number): void {
    const { words, most, gap, axes } = this.form
    const { points, count, normal } = this
    for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
      let closing = 0
      for (let k = 0; k < axes; k++) closing += sign * normal.data[axes * contact + k] * velocity[at + k]
      if (!(closing > 0)) continue
      for (let k = 0; k < count.data[contact]; k++) points.data[words * (most * contact + k) + gap] += closing * time
    }
  }

  /** The first contact of a pair, or -1. */
  first(pair: number): number {
    return this.firstOf.data[pair] - 1
  }

  after(contact: number): number {
    return this.next.data[contact] - 1
  }

  /** The contact of a pair whose nearest point is nearest; of equal ones that of the first pieces. -1 for none. */
  deepest(pair: number): number {
    const { words, most, gap: gapAt } = this.form
    const { points, count } = this
    let best = NONE
    let least = Infinity
    for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
      let gap = Infinity
      for (let k = 0; k < count.data[contact]; k++) {
        const own = points.data[words * (most * contact + k) + gapAt]
        if (own < gap) gap = own
      }
      if (gap > least || (gap === least && best !== NONE && this.before(best, contact))) continue
      best = contact
      least = gap
    }
    return best
  }

  /** The piece of ground of a contact. @param sign -1 where it is the second of the two, 1 where it is the first */
  protected groundPiece(contact: number, sign: number): number {
    return (sign < 0 ? this.pieceB : this.pieceA).data[contact]
  }

  /** The piece that lies on that ground. */
  protected sliderPiece(contact: number, sign: number): number {
    return (sign < 0 ? this.pieceA : this.pieceB).data[contact]
  }

  /** Whether it is the same piece of the body that two of its contacts with the ground are of. */
  protected haveOneSlider(one: number, oneSign: number, two: number, twoSign: number): boolean {
    return this.sliderPiece(one, oneSign) === this.sliderPiece(two, twoSign)
  }

  /** The body of the ground of a contact. */
  protected groundOf(contact: number, sign: number): number {
    const { pairs } = this
    const pair = this.pair.data[contact]
    return this.population.filter.body.data[(sign < 0 ? pairs.b : pairs.a).data[pair]]
  }

  /** Appends the contacts of a body with the ground, each with a sign: -1 where the ground is the second of the two. */
  protected listGround(body: number, isGround: (body: number) => boolean, out: IntList): void {
    const { pairs, population } = this
    const { filter } = population
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge !== NONE; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        if (this.firstOf.data[pair] === 0) continue
        const other = (edge & 1) === 0 ? pairs.b.data[pair] : pairs.a.data[pair]
        if (!isGround(filter.body.data[other])) continue
        for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
          out.push(contact)
          out.push((edge & 1) === 0 ? -1 : 1)
        }
      }
    }
  }

  /**
   * The point of a contact, by its two pieces (as places in their colliders) and its name, as a place in {@link points}; -1 where
   * there is none. Cold.
   */
  pointAt(pair: number, partA: number, partB: number, name: number): number {
    const { words, most } = this.form
    for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
      if (this.partA.data[contact] !== partA || this.partB.data[contact] !== partB) continue
      for (let k = 0; k < this.count.data[contact]; k++) {
        if (this.names.data[most * contact + k] === name) return words * (most * contact + k)
      }
    }
    return NONE
  }

  /** The contact of these two pieces, found in this tick; made if it is not there. */
  protected find(pair: number, p: number, q: number, group: number, now: number): number {
    const { geometry, partA, partB } = this
    const keyA = geometry.ordinalOf(p)
    const keyB = geometry.ordinalOf(q)
    let contact = this.first(pair)
    while (
      contact !== NONE &&
      !(partA.data[contact] === keyA && partB.data[contact] === keyB && this.group.data[contact] === group)
    ) {
      contact = this.after(contact)
    }
    if (contact === NONE) {
      contact = this.table.claim()
      this.pair.data[contact] = pair
      partA.data[contact] = keyA
      partB.data[contact] = keyB
      this.group.data[contact] = group
      this.next.data[contact] = this.firstOf.data[pair]
      this.firstOf.data[pair] = contact + 1
    }
    this.pieceA.data[contact] = p
    this.pieceB.data[contact] = q
    this.seam.data[contact] = 0
    this.foundTick.data[contact] = now
    if (this.listed.data[contact] === 0) {
      this.listed.data[contact] = 1
      this.fresh.push(contact)
    }
    return contact
  }

  /** Whether a contact is of these two pieces. */
  protected isOf(contact: number, p: number, q: number): boolean {
    const { geometry } = this
    return this.partA.data[contact] === geometry.ordinalOf(p) && this.partB.data[contact] === geometry.ordinalOf(q)
  }

  /** Whether a contact was already found in this tick. */
  protected isFound(contact: number, now: number): boolean {
    return this.foundTick.data[contact] === now
  }

  /** The contacts of a pair that were not found again are over. */
  protected dropOthers(pair: number, now: number): void {
    for (let contact = this.first(pair); contact !== NONE; ) {
      const following = this.after(contact)
      if (this.foundTick.data[contact] !== now) this.drop(contact)
      contact = following
    }
  }

  /** Takes a contact off its pair; its slot is freed when the list is next put in order. */
  private drop(contact: number): void {
    const pair = this.pair.data[contact]
    let at = this.first(pair)
    if (at === contact) this.firstOf.data[pair] = this.next.data[contact]
    else {
      while (this.next.data[at] !== contact + 1) at = this.next.data[at] - 1
      this.next.data[at] = this.next.data[contact]
    }
    if (this.listed.data[contact] === 0) this.table.release(contact)
    else this.pair.data[contact] = NONE
  }

  /** Drops all contacts of a pair that is solid no more, or gone. */
  clear(pair: number): void {
    for (let contact = this.first(pair); contact !== NONE; contact = this.first(pair)) this.drop(contact)
  }

  /**
   * Puts the contacts found in this tick in the order of age. The others are asleep, and leave the list, or are over.
   * The list is nearly the same from tick to tick: the new ones are sorted by themselves and merged in.
   */
  order(now: number): void {
    const { list, fresh, merged, foundTick, pair } = this
    let kept = 0
    for (let i = 0; i < fresh.length; i++) {
      const contact = fresh.data[i]
      if (pair.data[contact] === NONE) this.table.release(contact)
      else fresh.data[kept++] = contact
    }
    fresh.length = kept
    fresh.sort(this.older)
    merged.clear()
    let taken = 0
    for (let i = 0; i < list.length; i++) {
      const contact = list.data[i]
      if (pair.data[contact] === NONE) {
        this.table.release(contact)
        continue
      }
      if (foundTick.data[contact] !== now) {
        this.listed.data[contact] = 0
        continue
      }
      while (taken < fresh.length && this.before(fresh.data[taken], contact)) merged.push(fresh.data[taken++])
      merged.push(contact)
    }
    while (taken < fresh.length) merged.push(fresh.data[taken++])
    fresh.clear()
    this.list = merged
    this.merged = list
  }

  private before(a: number, b: number): boolean {
    const p = this.pair.data[a]
    const q = this.pair.data[b]
    if (p !== q) {
      const { serial } = this.population
      const first = serial.data[this.pairs.a.data[p]] - serial.data[this.pairs.a.data[q]]
      if (first !== 0) return first < 0
      return serial.data[this.pairs.b.data[p]] < serial.data[this.pairs.b.data[q]]
    }
    const { partA, partB, group } = this
    const first = partA.data[a] - partA.data[b]
    if (first !== 0) return first < 0
    const second = partB.data[a] - partB.data[b]
    return second !== 0 ? second < 0 : group.data[a] < group.data[b]
  }
}
