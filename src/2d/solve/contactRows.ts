/**
 * Contacts as a kind of constraint: each a soft row for every point, with friction, then relaxed; restitution once a tick. The rows stand
 * in the order of age.
 */
import { SOLID } from '../../core/filter/filter.ts'
import type { Islands } from '../../core/solve/islands.ts'
import { joinBodies } from '../../core/solve/sleep.ts'
import { CHANGE, type ConstraintKind, SUBSTEP } from '../../core/solve/substeps.ts'
import { PAIR_FRICTION, PAIR_RESTITUTION, PAIR_SPEED, PAIR_SURFACE, type Surfaces } from '../../core/solve/surfaces.ts'
import type { Population } from '../../core/state/population.ts'
import type { Column } from '../../core/state/table.ts'
import type { Pairs } from '../../core/step/pairs.ts'
import type * as body from './bodyRows.ts'
import type { BodyRows2 } from './bodyRows.ts'
import {
  CONTACT_WORDS,
  type Contacts,
  POINT_GAP,
  POINT_WORDS,
  POINT_X,
  POINT_Y,
  TOTAL,
  WARM_FRICTION,
  WARM_NORMAL,
} from './contacts.ts'

const BODY: typeof body.BODY = 14
const VX: typeof body.VX = 0
const VY: typeof body.VY = 1
const SPIN: typeof body.SPIN = 2
const DX: typeof body.DX = 3
const DY: typeof body.DY = 4
const TURN: typeof body.TURN = 5
const IX: typeof body.IX = 6
const IY: typeof body.IY = 7
const IT: typeof body.IT = 8
const AX: typeof body.AX = 9
const AY: typeof body.AY = 10

/** Of a contact: normal, friction, restitution, surface speed, softness (rate, mass, impulse); then its points. */
const NORMAL_X = 0
const NORMAL_Y = 1
const FRICTION = 2
const RESTITUTION = 3
const SURFACE_SPEED = 4
const RATE = 5
const MASS_PART = 6
const IMPULSE_PART = 7
const HEAD = 8
/**
 * Of a point: its arms about the centres of A and B, across the normal (r x n) and across the tangent (r x t, which is less the
 * part of r along n); its gap as the tick begins; masses; impulses of the substep and of the tick, the greatest; the speed.
 */
const POINT = 15
const ARM_A = 0
const ARM_B = 1
const SIDE_A = 2
const SIDE_B = 3
const GAP_AT_START = 4
const NORMAL_MASS = 5
const TANGENT_MASS = 6
const NORMAL_IMPULSE = 7
const TANGENT_IMPULSE = 8
const NORMAL_TOTAL = 9
const TANGENT_TOTAL = 10
const MOST = 11
const SPEED = 12
/** How the second order of a turn moves the point along the normal: by the arm of its core, for a radius does not turn away. */
const BEND_A = 13
const BEND_B = 14
const ROW = HEAD + 2 * POINT

/** Of a row: the rows of its two bodies, how many points it has, and the contact. */
const LINKS = 4
const ROW_A = 0
const ROW_B = 1
const POINTS = 2
const CONTACT = 3

/** World centres of mass of the two bodies, and the radii of the two pieces. */
const CENTRE_A = 0
const CENTRE_B = 2
const RADIUS_A = 4
const RADIUS_B = 5

/** What is summed for a pair: impulses along the normal and across it, the greatest speed of coming together. */
const SUM_NORMAL = 0
const SUM_FRICTION = 1
const CLOSING = 2

/** Stiffness of contacts, as cycles a second, and how strongly they are damped. */
const CYCLES = 45
const DAMPING = 10
/** Lengths a second (times the unit) below which nothing bounces. */
export const BOUNCE = 0.5

/** What contact rows ask about the bodies of a tick. */
export interface RowSource {
  /** The row of a body in this tick; that of what cannot be moved where it has none. */
  rowOf(body: number): number
  /** Writes its centre of mass in the world. */
  centreOf(body: number, out: Float64Array, at: number): void
  /** What filter, hooks and one-way sides make of a pair now. */
  responseOf(pair: number): number
}

/** What a tick leaves on the books of pairs. */
export interface PressedBooks {
  /** The step in which a pair was last pressed, and when within it. */
  readonly pressed: Column<Int32Array>
  readonly pressedWhen: Column<Float64Array>
  /** Where it was last pressed, and along which normal: two numbers each. */
  readonly metAt: { data: Float64Array }
  readonly normal: { data: Float64Array }
}

/** What contact rows work on. */
export interface ContactRowsSetup {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  readonly contacts: Contacts
  readonly bodyRows: BodyRows2
  readonly surfaces: Surfaces
  readonly source: RowSource
  readonly books: PressedBooks
  /** Seconds a tick. */
  readonly dt: number
  /** The user's lengths to a metre. */
  readonly unit: number
}

export class ContactRows implements ConstraintKind {
  count = 0
  /** Lengths a second at which overlaps are pushed apart at most. */
  push: number
  private links = new Int32Array(LINKS * 64)
  private rows = new Float64Array(ROW * 64)
  private readonly centres = new Float64Array(6)
  private readonly surface = new Float64Array(PAIR_SURFACE)
  private readonly sums = new Float64Array(3)
  private readonly population: Population<object, object>
  private readonly pairs: Pairs
  private readonly contacts: Contacts
  private readonly bodyRows: BodyRows2
  private readonly surfaces: Surfaces
  private readonly source: RowSource
  private readonly books: PressedBooks
  private readonly dt: number
  private readonly unit: number

  constructor(setup: ContactRowsSetup) {
    this.population = setup.population
    this.pairs = setup.pairs
    this.contacts = setup.contacts
    this.bodyRows = setup.bodyRows
    this.surfaces = setup.surfaces
    this.source = setup.source
    this.books = setup.books
    this.dt = setup.dt
    this.unit = setup.unit
    this.push = 3 * setup.unit
  }

  begin(): void {
    const { contacts, pairs, population, centres, source } = this
    const { list } = contacts
    const { body } = population.filter
    this.count = 0
    for (let i = 0; i < list.length; i++) {
      const contact = list.data[i]
      if (contacts.seam.data[contact] !== 0) continue
      const pair = contacts.pair.data[contact]
      if (pair < 0 || source.responseOf(pair) !== SOLID) continue
      const a = body.data[pairs.a.data[pair]]
      const b = body.data[pairs.b.data[pair]]
      source.centreOf(a, centres, CENTRE_A)
      source.centreOf(b, centres, CENTRE_B)
      centres[RADIUS_A] = contacts.radiusOf(contacts.pieceA.data[contact])
      centres[RADIUS_B] = contacts.radiusOf(contacts.pieceB.data[contact])
      this.surfaces.read(pair, this.surface)
      this.add(contact, source.rowOf(a), source.rowOf(b))
    }
  }

  /** Adds a contact between two rows of bodies, whose centres and surface stand ready. */
  private add(contact: number, a: number, b: number): void {
    const index = this.count++
    if (ROW * this.count > this.rows.length) {
      const wider = new Float64Array(2 * this.rows.length)
      wider.set(this.rows)
      this.rows = wider
      const links = new Int32Array(2 * this.links.length)
      links.set(this.links)
      this.links = links
    }
    const { rows, links, contacts, bodyRows, centres, surface } = this
    const { data: bodies } = bodyRows
    const points = contacts.points.data
    const pointsAt = CONTACT_WORDS * contact
    const count = contacts.count.data[contact]
    links[LINKS * index + ROW_A] = a
    links[LINKS * index + ROW_B] = b
    links[LINKS * index + POINTS] = count
    links[LINKS * index + CONTACT] = contact
    bodyRows.held[a] = 1
    bodyRows.held[b] = 1
    const at = ROW * index
    const nx = contacts.normal.data[2 * contact]
    const ny = contacts.normal.data[2 * contact + 1]
    rows[at + NORMAL_X] = nx
    rows[at + NORMAL_Y] = ny
    rows[at + FRICTION] = surface[PAIR_FRICTION]
    rows[at + RESTITUTION] = surface[PAIR_RESTITUTION]
    rows[at + SURFACE_SPEED] = surface[PAIR_SPEED]
    const p = BODY * a
    const q = BODY * b
    const iax = bodies[p + IX]
    const iay = bodies[p + IY]
    const iat = bodies[p + IT]
    const ibx = bodies[q + IX]
    const iby = bodies[q + IY]
    const ibt = bodies[q + IT]
    for (let k = 0; k < count; k++) {
      const from = pointsAt + POINT_WORDS * k
      const to = at + HEAD + POINT * k
      const x = points[from + POINT_X]
      const y = points[from + POINT_Y]
      const rax = x - centres[CENTRE_A]
      const ray = y - centres[CENTRE_A + 1]
      const rbx = x - centres[CENTRE_B]
      const rby = y - centres[CENTRE_B + 1]
      // The tangent is (ny, -nx).
      const ran = rax * ny - ray * nx
      const rbn = rbx * ny - rby * nx
      const rat = -rax * nx - ray * ny
      const rbt = -rbx * nx - rby * ny
      rows[to + ARM_A] = ran
      rows[to + ARM_B] = rbn
      rows[to + SIDE_A] = rat
      rows[to + SIDE_B] = rbt
      rows[to + BEND_A] = rat + centres[RADIUS_A]
      rows[to + BEND_B] = rbt - centres[RADIUS_B]
      rows[to + GAP_AT_START] = points[from + POINT_GAP]
      const normalMass = (iax + ibx) * nx * nx + (iay + iby) * ny * ny + iat * ran * ran + ibt * rbn * rbn
      const tangentMass = (iax + ibx) * ny * ny + (iay + iby) * nx * nx + iat * rat * rat + ibt * rbt * rbt
      rows[to + NORMAL_MASS] = normalMass > 0 ? 1 / normalMass : 0
      rows[to + TANGENT_MASS] = tangentMass > 0 ? 1 / tangentMass : 0
      rows[to + NORMAL_IMPULSE] = points[from + WARM_NORMAL]
      rows[to + TANGENT_IMPULSE] = points[from + WARM_FRICTION]
      rows[to + NORMAL_TOTAL] = 0
      rows[to + TANGENT_TOTAL] = 0
      rows[to + MOST] = 0
      const vx = bodies[q + VX] - bodies[q + SPIN] * rby - (bodies[p + VX] - bodies[p + SPIN] * ray)
      const vy = bodies[q + VY] + bodies[q + SPIN] * rbx - (bodies[p + VY] + bodies[p + SPIN] * rax)
      rows[to + SPEED] = vx * nx + vy * ny
    }
  }

  /** How soft each contact is: as a spring of so many cycles a second that a substep can follow; stiffer against the ground. */
  prepare(time: Float64Array): void {
    const h = time[SUBSTEP]
    const { rows, links, count } = this
    const { data: bodies } = this.bodyRows
    const cycles = Math.min(CYCLES, 0.25 / h)
    for (let i = 0; i < count; i++) {
      const a = BODY * links[LINKS * i + ROW_A]
      const b = BODY * links[LINKS * i + ROW_B]
      const ground = bodies[a + IX] + bodies[a + IY] === 0 || bodies[b + IX] + bodies[b + IY] === 0
      const omega = 6.283185307179586 * (ground ? 2 * cycles : cycles)
      const first = 2 * DAMPING + h * omega
      const second = h * omega * first
      const third = 1 / (1 + second)
      const at = ROW * i
      rows[at + RATE] = omega / first
      rows[at + MASS_PART] = second * third
      rows[at + IMPULSE_PART] = third
    }
  }

  /** Begins a substep with the impulses of the last. */
  warmStart(): void {
    const { rows, links, count } = this
    const { data: bodies } = this.bodyRows
    for (let i = 0; i < count; i++) {
      const a = BODY * links[LINKS * i + ROW_A]
      const b = BODY * links[LINKS * i + ROW_B]
      const at = ROW * i
      const nx = rows[at + NORMAL_X]
      const ny = rows[at + NORMAL_Y]
      const end = at + HEAD + POINT * links[LINKS * i + POINTS]
      let vax = bodies[a + VX]
      let vay = bodies[a + VY]
      let va = bodies[a + SPIN]
      let vbx = bodies[b + VX]
      let vby = bodies[b + VY]
      let vb = bodies[b + SPIN]
      const iax = bodies[a + IX]
      const iay = bodies[a + IY]
      const iat = bodies[a + IT]
      const ibx = bodies[b + IX]
      const iby = bodies[b + IY]
      const ibt = bodies[b + IT]
      for (let p = at + HEAD; p < end; p += POINT) {
        const jn = rows[p + NORMAL_IMPULSE]
        const jt = rows[p + TANGENT_IMPULSE]
        const px = jn * nx + jt * ny
        const py = jn * ny - jt * nx
        vax -= px * iax
        vay -= py * iay
        va -= iat * (jn * rows[p + ARM_A] + jt * rows[p + SIDE_A])
        vbx += px * ibx
        vby += py * iby
        vb += ibt * (jn * rows[p + ARM_B] + jt * rows[p + SIDE_B])
      }
      bodies[a + VX] = vax
      bodies[a + VY] = vay
      bodies[a + SPIN] = va
      bodies[b + VX] = vbx
      bodies[b + VY] = vby
      bodies[b + SPIN] = vb
    }
  }

  /** One pass over all contacts, of each point friction, then the normal. With `soft`, overlaps are pushed apart. */
  solve(time: Float64Array, soft: boolean): void {
    const { rows, links, count, push } = this
    const { data: bodies } = this.bodyRows
    const inverse = 1 / time[SUBSTEP]
    let largest = 0
    for (let i = 0; i < count; i++) {
      const a = BODY * links[LINKS * i + ROW_A]
      const b = BODY * links[LINKS * i + ROW_B]
      const at = ROW * i
      const nx = rows[at + NORMAL_X]
      const ny = rows[at + NORMAL_Y]
      const friction = rows[at + FRICTION]
      const surface = rows[at + SURFACE_SPEED]
      const end = at + HEAD + POINT * links[LINKS * i + POINTS]
      let vax = bodies[a + VX]
      let vay = bodies[a + VY]
      let va = bodies[a + SPIN]
      let vbx = bodies[b + VX]
      let vby = bodies[b + VY]
      let vb = bodies[b + SPIN]
      const iax = bodies[a + IX]
      const iay = bodies[a + IY]
      const iat = bodies[a + IT]
      const ibx = bodies[b + IX]
      const iby = bodies[b + IY]
      const ibt = bodies[b + IT]
      // A measure of how much an impulse changes speeds.
      const inverseMass = iax + iay + ibx + iby
      const turnA = bodies[a + TURN]
      const turnB = bodies[b + TURN]
      const bendA = 0.5 * turnA * turnA
      const bendB = 0.5 * turnB * turnB
      const nearer = (bodies[b + DX] - bodies[a + DX]) * nx + (bodies[b + DY] - bodies[a + DY]) * ny
      const rate = rows[at + RATE]
      const softMass = rows[at + MASS_PART]
      const softImpulse = rows[at + IMPULSE_PART]
      for (let p = at + HEAD; p < end; p += POINT) {
        const ran = rows[p + ARM_A]
        const rbn = rows[p + ARM_B]
        const rat = rows[p + SIDE_A]
        const rbt = rows[p + SIDE_B]
        const normalBefore = rows[p + NORMAL_IMPULSE]
        const tangentBefore = rows[p + TANGENT_IMPULSE]

        const vt = (vbx - vax) * ny - (vby - vay) * nx + vb * rbt - va * rat - surface
        const most = friction * normalBefore
        let tangent = tangentBefore - rows[p + TANGENT_MASS] * vt
        if (tangent > most) tangent = most
        else if (tangent < -most) tangent = -most
        rows[p + TANGENT_IMPULSE] = tangent
        const tangentChange = tangent - tangentBefore
        vax -= tangentChange * ny * iax
        vay += tangentChange * nx * iay
        va -= iat * rat * tangentChange
        vbx += tangentChange * ny * ibx
        vby -= tangentChange * nx * iby
        vb += ibt * rbt * tangentChange

        // How the point's gap has changed, to the second order of the turns.
        const gap =
          rows[p + GAP_AT_START] +
          nearer +
          turnB * rbn -
          turnA * ran +
          bendB * rows[p + BEND_B] -
          bendA * rows[p + BEND_A]
        const vn = (vbx - vax) * nx + (vby - vay) * ny + vb * rbn - va * ran
        let bias = 0
        let massPart = 1
        let impulsePart = 0
        if (gap > 0) bias = gap * inverse
        else if (soft) {
          bias = rate * gap
          if (bias < -push) bias = -push
          massPart = softMass
          impulsePart = softImpulse
        }
        let normal = normalBefore - rows[p + NORMAL_MASS] * massPart * (vn + bias) - impulsePart * normalBefore
        if (normal < 0) normal = 0
        rows[p + NORMAL_IMPULSE] = normal
        if (normal > rows[p + MOST]) rows[p + MOST] = normal
        const normalChange = normal - normalBefore
        const change = (normalChange < 0 ? -normalChange : normalChange) * inverseMass
        if (change > largest) largest = change
        vax -= normalChange * nx * iax
        vay -= normalChange * ny * iay
        va -= iat * ran * normalChange
        vbx += normalChange * nx * ibx
        vby += normalChange * ny * iby
        vb += ibt * rbn * normalChange
      }
      bodies[a + VX] = vax
      bodies[a + VY] = vay
      bodies[a + SPIN] = va
      bodies[b + VX] = vbx
      bodies[b + VY] = vby
      bodies[b + SPIN] = vb
    }
    if (largest > time[CHANGE]) time[CHANGE] = largest
  }

  /** Adds the impulses of a substep to those of the tick. */
  sum(): void {
    const { rows, links, count } = this
    for (let i = 0; i < count; i++) {
      const at = ROW * i + HEAD
      const end = at + POINT * links[LINKS * i + POINTS]
      for (let p = at; p < end; p += POINT) {
        rows[p + NORMAL_TOTAL] += rows[p + NORMAL_IMPULSE]
        rows[p + TANGENT_TOTAL] += rows[p + TANGENT_IMPULSE]
      }
    }
  }

  /**
   * What came fast enough, and was stopped, leaves at its restitution: by the speed that it has at the surface, which is that at
   * the start of the tick and what its acceleration adds over the gap.
   */
  finish(): void {
    const { rows, links, count } = this
    const { data: bodies } = this.bodyRows
    const least = BOUNCE * this.unit
    for (let i = 0; i < count; i++) {
      const at = ROW * i
      const restitution = rows[at + RESTITUTION]
      if (restitution === 0) continue
      const a = BODY * links[LINKS * i + ROW_A]
      const b = BODY * links[LINKS * i + ROW_B]
      const nx = rows[at + NORMAL_X]
      const ny = rows[at + NORMAL_Y]
      const end = at + HEAD + POINT * links[LINKS * i + POINTS]
      for (let p = at + HEAD; p < end; p += POINT) {
        const speed = rows[p + SPEED]
        if (speed > -least || rows[p + MOST] === 0) continue
        const pull = (bodies[a + AX] - bodies[b + AX]) * nx + (bodies[a + AY] - bodies[b + AY]) * ny
        const gap = rows[p + GAP_AT_START]
        const square = speed * speed + 2 * pull * (gap > 0 ? gap : 0)
        const ran = rows[p + ARM_A]
        const rbn = rows[p + ARM_B]
        const vx = bodies[b + VX] - bodies[a + VX]
        const vy = bodies[b + VY] - bodies[a + VY]
        const vn = vx * nx + vy * ny + bodies[b + SPIN] * rbn - bodies[a + SPIN] * ran
        const wanted = square > 0 ? restitution * Math.sqrt(square) : 0
        const before = rows[p + NORMAL_IMPULSE]
        let after = before - rows[p + NORMAL_MASS] * (vn - wanted)
        if (after < 0) after = 0
        rows[p + NORMAL_IMPULSE] = after
        const change = after - before
        rows[p + NORMAL_TOTAL] += change
        const px = change * nx
        const py = change * ny
        bodies[a + VX] -= px * bodies[a + IX]
        bodies[a + VY] -= py * bodies[a + IY]
        bodies[a + SPIN] -= bodies[a + IT] * ran * change
        bodies[b + VX] += px * bodies[b + IX]
        bodies[b + VY] += py * bodies[b + IY]
        bodies[b + SPIN] += bodies[b + IT] * rbn * change
      }
    }
  }

  /** Impulses of this tick to the points of the contacts, and summed to their pairs. */
  readBack(now: number): void {
    const { links, contacts, pairs, sums, books } = this
    const { pressed, pressedWhen, metAt, normal } = books
    for (let i = 0; i < this.count; i++) {
      const contact = links[LINKS * i + CONTACT]
      const pair = contacts.pair.data[contact]
      sums[SUM_NORMAL] = pairs.impulse.data[pair]
      sums[SUM_FRICTION] = pairs.friction.data[pair]
      sums[CLOSING] = pairs.closing.data[pair]
      const before = sums[SUM_NORMAL]
      this.readImpulses(i, contact, sums)
      pairs.impulse.data[pair] = sums[SUM_NORMAL]
      pairs.friction.data[pair] = sums[SUM_FRICTION]
      pairs.closing.data[pair] = sums[CLOSING]
      if (sums[SUM_NORMAL] > before) {
        if (pressed.data[pair] !== now) pressedWhen.data[pair] = this.whenOf(contact, sums[CLOSING])
        pressed.data[pair] = now
        const at = CONTACT_WORDS * contact
        metAt.data[2 * pair] = contacts.points.data[at + POINT_X]
        metAt.data[2 * pair + 1] = contacts.points.data[at + POINT_Y]
        normal.data[2 * pair] = contacts.normal.data[2 * contact]
        normal.data[2 * pair + 1] = contacts.normal.data[2 * contact + 1]
      }
    }
  }

  joinIslands(islands: Islands): void {
    const { links, contacts, pairs, population } = this
    const { body } = population.filter
    for (let i = 0; i < this.count; i++) {
      const pair = contacts.pair.data[links[LINKS * i + CONTACT]]
      const a = body.data[pairs.a.data[pair]]
      const b = body.data[pairs.b.data[pair]]
      const at = LINKS * i
      joinBodies(islands, population.type, a, b, links[at + ROW_A] !== 0, links[at + ROW_B] !== 0)
    }
  }

  /**
   * Writes the impulses of a row back to its contact's points, and adds to `out`: the sum along the normal, that across it, and
   * the greatest speed of coming together of what was pressed.
   */
  private readImpulses(index: number, contact: number, out: Float64Array): void {
    const { rows, links } = this
    const points = this.contacts.points.data
    const pointsAt = CONTACT_WORDS * contact
    const at = ROW * index + HEAD
    for (let k = 0; k < links[LINKS * index + POINTS]; k++) {
      const p = at + POINT * k
      const to = pointsAt + POINT_WORDS * k
      points[to + WARM_NORMAL] = rows[p + NORMAL_IMPULSE]
      points[to + WARM_FRICTION] = rows[p + TANGENT_IMPULSE]
      const total = rows[p + NORMAL_TOTAL]
      points[to + TOTAL] = total
      out[SUM_NORMAL] += total
      out[SUM_FRICTION] += Math.abs(rows[p + TANGENT_TOTAL])
      if (total > 0 && -rows[p + SPEED] > out[CLOSING]) out[CLOSING] = -rows[p + SPEED]
    }
  }

  /** When in the tick the nearest point of a contact was reached at its speed of coming together. */
  private whenOf(contact: number, closing: number): number {
    const { contacts } = this
    let gap = Infinity
    for (let k = 0; k < contacts.count.data[contact]; k++) {
      gap = Math.min(gap, contacts.points.data[CONTACT_WORDS * contact + POINT_WORDS * k + POINT_GAP])
    }
    if (gap <= 0 || closing <= 0) return 0
    return Math.min(1, gap / (closing * this.dt))
  }
}
