/**
 * The contacts that the solver works on: one for every two pieces of a solid pair that touch, or may come to touch within the
 * tick. They last as long as that, and keep the impulses of the last tick for their points, by the points' names.
 */

import type { Population } from '../../core/state/population.ts'
import { IntList, Table } from '../../core/state/table.ts'
import type { Pairs } from '../../core/step/pairs.ts'
import type { Distances2 } from '../distances.ts'
import type { Geometry } from '../geometry.ts'
import {
  FACE_SIZE,
  FLUSH,
  hasFace,
  isFlatAlong,
  isFlush,
  SAME,
  STRAIGHT,
  turnToFace,
  writeFace,
} from '../narrow/flush.ts'
import {
  FIRST_POINT,
  GAP,
  MANIFOLD_NORMAL,
  MANIFOLD_SIZE,
  manifoldOfPieces,
  NAME,
  POINT_COUNT,
  POINT_SIZE,
  WITHIN,
} from '../narrow/manifold.ts'
import { PLANE } from '../shapes/layout.ts'

const NONE = -1

/** Of a contact's point: place, gap, and the impulses along the normal and across it with which the next substep begins. */
export const POINT_X = 0
export const POINT_Y = 1
export const POINT_GAP = 2
export const WARM_NORMAL = 3
export const WARM_FRICTION = 4
/** Newton seconds along the normal in the whole of the last tick. */
export const TOTAL = 5
export const POINT_WORDS = 6
export const CONTACT_WORDS = 2 * POINT_WORDS

/** Where something else is met; behind it half the least width of the body. */
const met = new Float64Array(3)

export class Contacts {
  readonly table = new Table(64)
  readonly pair = this.table.i32()
  readonly count = this.table.i32()
  readonly names = this.table.i32(2)
  readonly normal = this.table.f64(2)
  readonly points = this.table.f64(CONTACT_WORDS)
  /** The pieces, by their numbers in this tick. */
  readonly pieceA = this.table.i32()
  readonly pieceB = this.table.i32()
  /** 1 when another piece of the same ground explains it better. */
  readonly seam = this.table.i32()
  /** The contacts of this tick, by the age of the colliders, then by their pieces. */
  list = new IntList()
  /** First contact of each pair, or 0 for none (slot + 1). */
  private readonly firstOf
  private readonly next = this.table.i32()
  /** The tick in which it was last found; 0 while asleep. */
  private readonly foundTick = this.table.i32()
  private readonly listed = this.table.i32()
  private readonly fresh = new IntList()
  private merged = new IntList()
  private readonly near = new IntList()
  private readonly record = new Float64Array(MANIFOLD_SIZE)
  /** A point on a face of the ground; behind it half the least width of the body. */
  private readonly probe = new Float64Array(4)
  private readonly along = new Float64Array(2)
  private readonly face = new Float64Array(FACE_SIZE)
  private readonly rise = new Float64Array(1)
  private readonly pairs: Pairs
  private readonly population: Population<object, object>
  private readonly geometry: Geometry
  private readonly distances: Distances2
  private readonly older = (a: number, b: number): boolean => this.before(a, b)

  constructor(
    population: Population<object, object>,
    pairs: Pairs,
    geometry: Geometry,
    distances: Distances2,
    unit: number,
  ) {
    this.population = population
    this.pairs = pairs
    this.geometry = geometry
    this.distances = distances
    this.rise[0] = FLUSH * unit
    this.firstOf = pairs.table.i32()
  }

  /** The first contact of a pair, or -1. */
  first(pair: number): number {
    return this.firstOf.data[pair] - 1
  }

  /** The contact of a pair whose nearest point is nearest; of equal ones that of the first pieces. -1 for none. */
  deepest(pair: number): number {
    let best = NONE
    let least = Infinity
    for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
      let gap = Infinity
      for (let k = 0; k < this.count.data[contact]; k++) {
        gap = Math.min(gap, this.points.data[CONTACT_WORDS * contact + POINT_WORDS * k + POINT_GAP])
      }
      if (gap > least || (gap === least && best !== NONE && this.before(best, contact))) continue
      best = contact
      least = gap
    }
    return best
  }

  /** By how much a piece's core is grown; 0 for a halfspace. */
  radiusOf(piece: number): number {
    const { geometry } = this
    return geometry.kindOf(piece) === PLANE ? 0 : geometry.world[geometry.offsetOf(piece)]
  }

  after(contact: number): number {
    return this.next.data[contact] - 1
  }

  /**
   * Finds the contacts of a pair again.
   * @param within how far apart two points may be, in its first place
   * @returns how many points there are
   */
  update(pair: number, within: Float64Array, now: number): number {
    const { pairs, geometry, near, record, points, names, normal } = this
    near.clear()
    this.distances.nearPieces(pairs.a.data[pair], pairs.b.data[pair], within, near)
    const { world } = geometry
    let total = 0
    for (let i = 0; i < near.length; i += 2) {
      const p = near.data[i]
      const q = near.data[i + 1]
      record[WITHIN] = within[0]
      manifoldOfPieces(world, geometry.offsetOf(p), geometry.world, geometry.offsetOf(q), record)
      const count = record[POINT_COUNT]
      if (count === 0) continue
      total += count
      const contact = this.find(pair, p, q)
      const was = this.count.data[contact]
      const at = CONTACT_WORDS * contact
      const old = points.data
      // The two points by their names; what is new begins without an impulse.
      const name0 = names.data[2 * contact]
      const name1 = names.data[2 * contact + 1]
      const n0 = was > 0 ? old[at + WARM_NORMAL] : 0
      const t0 = was > 0 ? old[at + WARM_FRICTION] : 0
      const n1 = was > 1 ? old[at + POINT_WORDS + WARM_NORMAL] : 0
      const t1 = was > 1 ? old[at + POINT_WORDS + WARM_FRICTION] : 0
      for (let k = 0; k < count; k++) {
        const from = FIRST_POINT + POINT_SIZE * k
        const to = at + POINT_WORDS * k
        const name = record[from + NAME]
        old[to + POINT_X] = record[from]
        old[to + POINT_Y] = record[from + 1]
        old[to + POINT_GAP] = record[from + GAP]
        old[to + WARM_NORMAL] = was > 0 && name === name0 ? n0 : was > 1 && name === name1 ? n1 : 0
        old[to + WARM_FRICTION] = was > 0 && name === name0 ? t0 : was > 1 && name === name1 ? t1 : 0
        old[to + TOTAL] = 0
        names.data[2 * contact + k] = name
      }
      this.count.data[contact] = count
      normal.data[2 * contact] = record[MANIFOLD_NORMAL]
      normal.data[2 * contact + 1] = record[MANIFOLD_NORMAL + 1]
      this.pieceA.data[contact] = p
      this.pieceB.data[contact] = q
      this.seam.data[contact] = 0
      this.foundTick.data[contact] = now
      if (this.listed.data[contact] === 0) {
        this.listed.data[contact] = 1
        this.fresh.push(contact)
      }
    }
    // What was not found again is over.
    for (let contact = this.first(pair); contact !== NONE; ) {
      const following = this.after(contact)
      if (this.foundTick.data[contact] !== now) this.drop(contact)
      contact = following
    }
    return total
  }

  /**
   * Newton seconds of the last tick at a point, known by its pieces (as places in their colliders) and its name; 0 where there was
   * none. Cold.
   */
  impulseAt(pair: number, partA: number, partB: number, name: number): number {
    for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
      if (this.partA.data[contact] !== partA || this.partB.data[contact] !== partB) continue
      for (let k = 0; k < this.count.data[contact]; k++) {
        if (this.names.data[2 * contact + k] !== name) continue
        return this.points.data[CONTACT_WORDS * contact + POINT_WORDS * k + TOTAL]
      }
    }
    return 0
  }

  /** The contact of these two pieces, made if it is not there. */
  private find(pair: number, p: number, q: number): number {
    const { geometry, partA, partB } = this
    const keyA = geometry.ordinalOf(p)
    const keyB = geometry.ordinalOf(q)
    for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
      if (partA.data[contact] === keyA && partB.data[contact] === keyB) return contact
    }
    const contact = this.table.claim()
    this.pair.data[contact] = pair
    partA.data[contact] = keyA
    partB.data[contact] = keyB
    this.next.data[contact] = this.firstOf.data[pair]
    this.firstOf.data[pair] = contact + 1
    return contact
  }

  /** Which piece of its collider each of the two is: that lasts, whereas their numbers do not. */
  private readonly partA = this.table.i32()
  private readonly partB = this.table.i32()

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

  /**
   * Of the contacts of one body with the ground, marks those that are only an inner edge of it: the ground that is touched there does not
   * rise above a face on which the body lies elsewhere, and pushes another way than that. Such a push would trip what slides or
   * rolls over the seam.
   * @param slender half the least width of each body
   * @param isGround whether a body takes part as ground
   * @param alike whether two of them stand or move alike
   */
  findSeams(
    body: number,
    slender: Float64Array,
    isGround: (body: number) => boolean,
    alike: (a: number, b: number) => boolean,
  ): void {
    const { near, pairs, population, normal } = this
    const { filter } = population
    near.clear()
    let bent = false
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      for (let edge = pairs.firstEdge(c); edge !== NONE; edge = pairs.nextEdge(edge)) {
        const pair = edge >> 1
        if (this.firstOf.data[pair] === 0) continue
        const other = (edge & 1) === 0 ? pairs.b.data[pair] : pairs.a.data[pair]
        if (!isGround(filter.body.data[other])) continue
        for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
          // Outwards of the ground.
          const sign = (edge & 1) === 0 ? -1 : 1
          if (near.length > 0) {
            const one = near.data[0]
            const dot =
              normal.data[2 * contact] * normal.data[2 * one] + normal.data[2 * contact + 1] * normal.data[2 * one + 1]
            if (dot * sign * near.data[1] < SAME[0]) bent = true
          }
          near.push(contact)
          near.push(sign)
        }
      }
    }
    if (!bent) return
    this.probe[3] = slender[body]
    // A flat side on a corner of the ground is pushed out of the ground, however little the body leans: at speed that would lift it.
    const { geometry } = this
    for (let i = 0; i < near.length; i += 2) {
      const contact = near.data[i]
      const sign = near.data[i + 1]
      const ground = (sign < 0 ? this.pieceB : this.pieceA).data[contact]
      if (geometry.kindOf(ground) === PLANE) continue
      const slider = (sign < 0 ? this.pieceA : this.pieceB).data[contact]
      const at = geometry.offsetOf(slider)
      if (!isFlatAlong(geometry.world, at, normal.data, 2 * contact, -sign, SAME)) continue
      const offset = geometry.offsetOf(ground)
      turnToFace(geometry.world, offset, normal.data, 2 * contact, sign)
    }
    for (let i = 0; i < near.length; i += 2) {
      for (let k = 0; k < near.length && this.seam.data[near.data[i]] === 0; k += 2) {
        if (i === k || !this.explains(near.data[k], near.data[k + 1], near.data[i], near.data[i + 1])) continue
        if (alike(this.groundOf(near.data[k], near.data[k + 1]), this.groundOf(near.data[i], near.data[i + 1]))) {
          this.seam.data[near.data[i]] = 1
        }
      }
    }
  }

  /** The body of the ground of a contact. */
  private groundOf(contact: number, sign: number): number {
    const { pairs } = this
    const pair = this.pair.data[contact]
    return this.population.filter.body.data[(sign < 0 ? pairs.b : pairs.a).data[pair]]
  }

  /** Whether what is met at contact `c` does not rise above the face that is touched at contact `by`, and pushes another way. */
  private explains(by: number, bySign: number, c: number, sign: number): boolean {
    const { normal, probe, face, geometry, rise, along } = this
    const nx = bySign * normal.data[2 * by]
    const ny = bySign * normal.data[2 * by + 1]
    const { world } = geometry
    const edge = sign < 0 ? this.pieceB.data[c] : this.pieceA.data[c]
    const atEdge = geometry.offsetOf(edge)
    // Two faces that look the same way both hold, and so does a flat side on a corner of what is level with it.
    const alike = sign * (nx * normal.data[2 * c] + ny * normal.data[2 * c + 1]) >= STRAIGHT[0]
    if (alike) {
      const slider = sign < 0 ? this.pieceA.data[c] : this.pieceB.data[c]
      const atSlider = geometry.offsetOf(slider)
      if (isFlatAlong(world, atSlider, normal.data, 2 * c, -sign, SAME)) return false
      if (hasFace(world, atEdge, normal.data, 2 * c, sign, SAME)) return false
    }
    along[0] = nx
    along[1] = ny
    this.groundPoint(by, bySign, along, probe)
    this.groundPoint(c, sign, along, met)
    met[2] = probe[3]
    writeFace(along, 1, probe, met, face)
    const ground = bySign < 0 ? this.pieceB.data[by] : this.pieceA.data[by]
    const own = geometry.offsetOf(ground)
    if (!hasFace(world, own, along, 0, 1, STRAIGHT)) return false
    return isFlush(world, atEdge, face, rise)
  }

  /** Writes that point of a contact, on the surface of its ground, which lies farthest along a direction. */
  private groundPoint(contact: number, sign: number, along: Float64Array, out: Float64Array): void {
    const { points, count, normal } = this
    const nx = normal.data[2 * contact]
    const ny = normal.data[2 * contact + 1]
    let most = -Infinity
    for (let k = 0; k < count.data[contact]; k++) {
      const at = CONTACT_WORDS * contact + POINT_WORDS * k
      const down = (sign * points.data[at + POINT_GAP]) / 2
      const x = points.data[at + POINT_X] - nx * down
      const y = points.data[at + POINT_Y] - ny * down
      const far = x * along[0] + y * along[1]
      if (far <= most) continue
      most = far
      out[0] = x
      out[1] = y
    }
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
    const first = this.partA.data[a] - this.partA.data[b]
    return first !== 0 ? first < 0 : this.partB.data[a] < this.partB.data[b]
  }
}
