/** The contacts of 2D: their points, and which of them are only inner edges. What lasts of them stands in `core/solve/contactBook.ts`. */
import { ContactBook, type PointForm } from '../../core/solve/contactBook.ts'

import type { Population } from '../../core/state/population.ts'
import { IntList } from '../../core/state/table.ts'
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
export const CONTACT_FORM: PointForm = { axes: 2, most: 2, words: POINT_WORDS, gap: POINT_GAP }

/** Where something else is met; behind it half the least width of the body. */
const met = new Float64Array(3)

export class Contacts extends ContactBook<Geometry> {
  private readonly near = new IntList()
  private readonly record = new Float64Array(MANIFOLD_SIZE)
  /** A point on a face of the ground; behind it half the least width of the body. */
  private readonly probe = new Float64Array(4)
  private readonly along = new Float64Array(2)
  private readonly face = new Float64Array(FACE_SIZE)
  private readonly rise = new Float64Array(1)
  private readonly distances: Distances2

  constructor(
    population: Population<object, object>,
    pairs: Pairs,
    geometry: Geometry,
    distances: Distances2,
    unit: number,
  ) {
    super(population, pairs, geometry, CONTACT_FORM)
    this.distances = distances
    this.rise[0] = FLUSH * unit
  }

  /** By how much a piece's core is grown; 0 for a halfspace. */
  radiusOf(piece: number): number {
    const { geometry } = this
    return geometry.kindOf(piece) === PLANE ? 0 : geometry.world[geometry.offsetOf(piece)]
  }

  override update(pair: number, within: Float64Array, now: number): number {
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
      const contact = this.find(pair, p, q, 0, now)
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
    }
    this.dropOthers(pair, now)
    return total
  }

  override findSeams(
    body: number,
    slender: Float64Array,
    isGround: (body: number) => boolean,
    alike: (a: number, b: number) => boolean,
  ): void {
    const { near, normal } = this
    near.clear()
    this.listGround(body, isGround, near)
    if (near.length < 4) return
    let bent = false
    const one = near.data[0]
    for (let i = 2; i < near.length && !bent; i += 2) {
      const contact = near.data[i]
      const dot =
        normal.data[2 * contact] * normal.data[2 * one] + normal.data[2 * contact + 1] * normal.data[2 * one + 1]
      bent = dot * near.data[i + 1] * near.data[1] < SAME[0]
    }
    if (!bent) return
    this.probe[3] = slender[body]
    // A flat side on a corner of the ground is pushed out of the ground, however little the body leans: at speed that would lift it.
    const { geometry } = this
    for (let i = 0; i < near.length; i += 2) {
      const contact = near.data[i]
      const sign = near.data[i + 1]
      const ground = this.groundPiece(contact, sign)
      if (geometry.kindOf(ground) === PLANE) continue
      const slider = this.sliderPiece(contact, sign)
      const at = geometry.offsetOf(slider)
      if (!isFlatAlong(geometry.world, at, normal.data, 2 * contact, -sign, SAME)) continue
      const offset = geometry.offsetOf(ground)
      turnToFace(geometry.world, offset, normal.data, 2 * contact, sign)
    }
    for (let i = 0; i < near.length; i += 2) {
      for (let k = 0; k < near.length && this.seam.data[near.data[i]] === 0; k += 2) {
        // A convex piece that lies on a face cannot reach below it; another foot of the body can, and may stand on lower ground.
        if (i === k || !this.haveOneSlider(near.data[k], near.data[k + 1], near.data[i], near.data[i + 1])) continue
        if (!this.explains(near.data[k], near.data[k + 1], near.data[i], near.data[i + 1])) continue
        if (alike(this.groundOf(near.data[k], near.data[k + 1]), this.groundOf(near.data[i], near.data[i + 1]))) {
          this.seam.data[near.data[i]] = 1
        }
      }
    }
  }

  /** Whether what is met at contact `c` does not rise above the face that is touched at contact `by`, and pushes another way. */
  private explains(by: number, bySign: number, c: number, sign: number): boolean {
    const { normal, probe, face, geometry, rise, along } = this
    const nx = bySign * normal.data[2 * by]
    const ny = bySign * normal.data[2 * by + 1]
    const { world } = geometry
    const edge = this.groundPiece(c, sign)
    const atEdge = geometry.offsetOf(edge)
    // Two faces that look the same way both hold, and so does a flat side on a corner of what is level with it.
    const alike = sign * (nx * normal.data[2 * c] + ny * normal.data[2 * c + 1]) >= STRAIGHT[0]
    if (alike) {
      const slider = this.sliderPiece(c, sign)
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
    const ground = this.groundPiece(by, bySign)
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
}
