/** The contacts of 3D: their points, and which of them are only inner edges. What lasts of them stands in `core/solve/contactBook.ts`. */
import { ContactBook, type PointForm } from '../../core/solve/contactBook.ts'
import type { Population } from '../../core/state/population.ts'
import { IntList } from '../../core/state/table.ts'
import type { Pairs } from '../../core/step/pairs.ts'
import type * as places from '../../core/util/places.ts'
import type { Distances3 } from '../distances.ts'
import type { Geometry } from '../geometry.ts'
import { BEHIND, FLUSH, faceCosine, hasFace, reachAlong, SAME, STRAIGHT } from '../narrow/flush.ts'
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
import { Manifolds, writeSurfaceManifolds } from '../narrow/surfaceManifold.ts'
import { PLANE, RADIUS, SURFACE } from '../shapes/layout.ts'

const PLACE: typeof places.PLACE = 0x3fffffff

/** Of a contact's point: place, gap, and the impulse along the normal with which the next substep begins. */
export const POINT_X = 0
export const POINT_GAP = 3
export const WARM_NORMAL = 4
/** Newton seconds along the normal in the whole of the last tick. */
export const TOTAL = 5
export const POINT_WORDS = 6
const MOST_POINTS = 4
export const CONTACT_WORDS = MOST_POINTS * POINT_WORDS
export const CONTACT_FORM: PointForm = { axes: 3, most: MOST_POINTS, words: POINT_WORDS, gap: POINT_GAP }
/** Of a contact: the impulse of friction as a vector, and about the normal, with which the next substep begins. */
export const FRICTION = 4
/** Cosine of the angle within which a direction in which a surface pushed before is the same. */
const SAME_PUSH = 0.99
/** Lengths (times the unit) within which a point is where one was in the last tick. */
const SAME_PLACE = 0.02
/** Of a point of the last tick: place, impulse, name, and whether it was taken over. */
const OLD = 6
const OLD_IMPULSE = 3
const OLD_NAME = 4
const OLD_TAKEN = 5
const NONE = -1

export class Contacts3 extends ContactBook<Geometry> {
  readonly friction = this.table.f64(FRICTION)
  private readonly near = new IntList()
  private readonly record = new Float64Array(MANIFOLD_SIZE)
  private readonly manifolds = new Manifolds()
  private readonly old = new Float64Array(OLD * MOST_POINTS)
  private readonly distances: Distances3
  /** Lengths by which ground may rise above a face, and lie behind it. */
  private readonly rise: number
  private readonly behind: number
  /** Lengths within which a point is where one was in the last tick. */
  private readonly samePlace: number

  constructor(
    population: Population<object, object>,
    pairs: Pairs,
    geometry: Geometry,
    distances: Distances3,
    unit: number,
  ) {
    super(population, pairs, geometry, CONTACT_FORM)
    this.distances = distances
    this.rise = FLUSH * unit
    this.behind = BEHIND * unit
    this.samePlace = SAME_PLACE * unit
  }

  /** Writes by how much the cores of the two pieces of a contact are grown; 0 for a halfspace and a surface. */
  readRadii(contact: number, out: Float64Array): void {
    const { geometry, pieceA, pieceB } = this
    for (let side = 0; side < 2; side++) {
      const piece = (side === 0 ? pieceA : pieceB).data[contact]
      const kind = geometry.kindOf(piece)
      out[side] = kind === PLANE || kind === SURFACE ? 0 : geometry.world[geometry.offsetOf(piece) + RADIUS]
    }
  }

  override update(pair: number, within: Float64Array, now: number): number {
    const { pairs, geometry, near, record } = this
    near.clear()
    this.distances.nearPieces(pairs.a.data[pair], pairs.b.data[pair], within, near)
    const { world } = geometry
    let total = 0
    for (let i = 0; i < near.length; i += 2) {
      const p = near.data[i]
      const q = near.data[i + 1]
      if (geometry.kindOf(p) === SURFACE || geometry.kindOf(q) === SURFACE) {
        total += this.updateSurface(pair, p, q, within, now)
        continue
      }
      record[WITHIN] = within[0]
      manifoldOfPieces(world, geometry.offsetOf(p), world, geometry.offsetOf(q), record)
      if (record[POINT_COUNT] === 0) continue
      total += record[POINT_COUNT]
      this.keep(this.find(pair, p, q, 0, now), record, 0)
    }
    this.dropOthers(pair, now)
    return total
  }

  /** The contacts of a piece with a surface: one for each direction in which it is pushed. */
  private updateSurface(pair: number, p: number, q: number, within: Float64Array, now: number): number {
    const { manifolds } = this
    manifolds.count = 0
    writeSurfaceManifolds(this.geometry, p, q, within, manifolds)
    let total = 0
    for (let i = 0; i < manifolds.count; i++) {
      const at = MANIFOLD_SIZE * i
      const contact = this.find(pair, p, q, this.groupOf(pair, p, q, manifolds.data, at, now), now)
      total += manifolds.data[at + POINT_COUNT]
      this.keep(contact, manifolds.data, at)
    }
    return total
  }

  /** The number of the contact that pushed in about the same direction before; a new one where none did. */
  private groupOf(pair: number, p: number, q: number, from: Float64Array, at: number, now: number): number {
    let free = 0
    for (let contact = this.first(pair); contact !== NONE; contact = this.after(contact)) {
      if (!this.isOf(contact, p, q)) continue
      free = Math.max(free, this.group.data[contact] + 1)
      if (this.isFound(contact, now)) continue
      let cosine = 0
      for (let k = 0; k < 3; k++) cosine += this.normal.data[3 * contact + k] * from[at + MANIFOLD_NORMAL + k]
      if (cosine > SAME_PUSH) return this.group.data[contact]
    }
    return free
  }

  /**
   * Takes a manifold over: its points by their names. Where a corner lies all but on an edge its name comes and goes, so what has no name in
   * common is known by its place. What is new begins without an impulse.
   */
  private keep(contact: number, from: Float64Array, at: number): void {
    const { points, names, normal, old, friction } = this
    const was = this.count.data[contact]
    const count = from[at + POINT_COUNT]
    const first = (CONTACT_WORDS * contact) & PLACE
    const { data } = points
    let lasts = was === count
    for (let k = 0; lasts && k < count; k++) {
      lasts = names.data[MOST_POINTS * contact + k] === from[at + FIRST_POINT + POINT_SIZE * k + NAME]
    }
    this.count.data[contact] = count
    for (let n = 0; n < 3; n++) normal.data[3 * contact + n] = from[at + MANIFOLD_NORMAL + n]
    if (lasts) {
      // All are known, in their places.
      for (let k = 0; k < count; k++) this.place(first + POINT_WORDS * k, from, at + FIRST_POINT + POINT_SIZE * k)
      return
    }
    for (let k = 0; k < was; k++) {
      const from = (first + POINT_WORDS * k) & PLACE
      const to = (OLD * k) & PLACE
      old[to] = data[from + POINT_X]
      old[to + 1] = data[from + POINT_X + 1]
      old[to + 2] = data[from + POINT_X + 2]
      old[to + OLD_IMPULSE] = data[from + WARM_NORMAL]
      old[to + OLD_NAME] = names.data[MOST_POINTS * contact + k]
      old[to + OLD_TAKEN] = 0
    }
    for (let k = 0; k < count; k++) {
      const point = at + FIRST_POINT + POINT_SIZE * k
      const to = first + POINT_WORDS * k
      this.place(to, from, point)
      data[to + WARM_NORMAL] = -1
      names.data[MOST_POINTS * contact + k] = from[point + NAME]
      for (let i = 0; i < was; i++) {
        if (old[OLD * i + OLD_NAME] !== from[point + NAME] || old[OLD * i + OLD_TAKEN] !== 0) continue
        old[OLD * i + OLD_TAKEN] = 1
        data[to + WARM_NORMAL] = old[OLD * i + OLD_IMPULSE]
        lasts = true
      }
    }
    for (let k = 0; k < count; k++) {
      const to = first + POINT_WORDS * k
      if (data[to + WARM_NORMAL] >= 0) continue
      const i = this.nearestOld(was, data, to)
      if (i >= 0) old[OLD * i + OLD_TAKEN] = 1
      if (i >= 0) lasts = true
      data[to + WARM_NORMAL] = i >= 0 ? old[OLD * i + OLD_IMPULSE] : 0
    }
    if (!lasts) friction.data.fill(0, FRICTION * contact, FRICTION * (contact + 1))
  }

  /** Writes where a point is, how far apart the two are there, and that nothing presses yet. */
  private place(point: number, from: Float64Array, at: number): void {
    const { data } = this.points
    const to = point & PLACE
    const own = at & PLACE
    data[to + POINT_X] = from[own]
    data[to + POINT_X + 1] = from[own + 1]
    data[to + POINT_X + 2] = from[own + 2]
    data[to + POINT_GAP] = from[own + GAP]
    data[to + TOTAL] = 0
  }

  /** The nearest of the points of the last tick that no other has taken over, if it is near; else -1. */
  private nearestOld(was: number, data: Float64Array, at: number): number {
    const { old } = this
    let best = NONE
    let least = this.samePlace * this.samePlace
    for (let i = 0; i < was; i++) {
      if (old[OLD * i + OLD_TAKEN] !== 0) continue
      const x = old[OLD * i] - data[at]
      const y = old[OLD * i + 1] - data[at + 1]
      const z = old[OLD * i + 2] - data[at + 2]
      const square = x * x + y * y + z * z
      if (square >= least) continue
      least = square
      best = i
    }
    return best
  }

  override findSeams(
    body: number,
    _slender: Float64Array,
    isGround: (body: number) => boolean,
    alike: (a: number, b: number) => boolean,
  ): void {
    const { near } = this
    near.clear()
    this.listGround(body, isGround, near)
    if (near.length < 4) return
    for (let i = 0; i < near.length; i += 2) {
      for (let k = 0; k < near.length && this.seam.data[near.data[i]] === 0; k += 2) {
        const c = near.data[i]
        const by = near.data[k]
        // A convex piece that lies on a face cannot reach below it; another foot of the body can, and may stand on lower ground.
        if (i === k || !this.haveOneSlider(by, near.data[k + 1], c, near.data[i + 1])) continue
        if (!this.explains(by, near.data[k + 1], c, near.data[i + 1])) continue
        if (alike(this.groundOf(by, near.data[k + 1]), this.groundOf(c, near.data[i + 1]))) this.seam.data[c] = 1
      }
    }
  }

  /** Whether what is met at contact `c` does not rise above the face that is touched at contact `by`, and pushes another way. */
  private explains(by: number, bySign: number, c: number, sign: number): boolean {
    const { geometry, normal } = this
    const { world } = geometry
    const n = normal.data
    let cosine = 0
    for (let k = 0; k < 3; k++) cosine += n[3 * by + k] * n[3 * c + k]
    cosine *= bySign * sign
    if (cosine >= SAME) return false
    const edge = this.groundPiece(c, sign)
    const own = this.groundPiece(by, bySign)
    if (edge === own) return false
    if (cosine >= STRAIGHT) {
      // Two faces that look the same way both hold, and so does a flat side on an edge of what is level with it.
      if (faceCosine(world, geometry.offsetOf(this.sliderPiece(c, sign)), n, 3 * c, -sign) >= STRAIGHT) return false
      if (geometry.kindOf(edge) !== SURFACE && faceCosine(world, geometry.offsetOf(edge), n, 3 * c, sign) >= SAME)
        return false
    }
    if (!hasFace(world, geometry.offsetOf(own), n, 3 * by, bySign, STRAIGHT)) return false
    const face = this.groundHeight(by, bySign, by, bySign)
    const met = this.groundHeight(c, sign, by, bySign)
    if (met < face - this.behind) return false
    const reach =
      geometry.kindOf(edge) === SURFACE ? met : reachAlong(world, geometry.offsetOf(edge), n, 3 * by, bySign)
    return reach <= face + this.rise
  }

  /** How far along the normal of a contact the points of another one reach, on the surface of its ground. */
  private groundHeight(contact: number, sign: number, along: number, alongSign: number): number {
    const { points, count, normal } = this
    const n = normal.data
    let most = -Infinity
    for (let k = 0; k < count.data[contact]; k++) {
      const at = CONTACT_WORDS * contact + POINT_WORDS * k
      const down = (sign * points.data[at + POINT_GAP]) / 2
      let height = 0
      for (let i = 0; i < 3; i++) {
        height += (points.data[at + POINT_X + i] - n[3 * contact + i] * down) * alongSign * n[3 * along + i]
      }
      if (height > most) most = height
    }
    return most
  }
}
