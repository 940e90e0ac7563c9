/**
 * Contacts as a kind of constraint: each a soft row for every point, with friction, then relaxed; restitution once a tick. The rows stand
 * in the order of age.
 */
import {
  CLOSING,
  ContactKind,
  type ContactKindSetup,
  LINKS,
  POINTS,
  ROW_A,
  ROW_B,
  type RowForm,
  SUM_FRICTION,
  SUM_NORMAL,
} from '../../core/solve/contactKind.ts'
import { CHANGE, SUBSTEP } from '../../core/solve/substeps.ts'
import { PAIR_FRICTION, PAIR_RESTITUTION, PAIR_SPEED, PAIR_SURFACE } from '../../core/solve/surfaces.ts'
import type * as places from '../../core/util/places.ts'
import type * as body from './bodyRows.ts'
import type { BodyRows2 } from './bodyRows.ts'
import {
  CONTACT_FORM,
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
const PLACE: typeof places.PLACE = 0x3fffffff

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

/** World centres of mass of the two bodies, and the radii of the two pieces. */
const CENTRE_A = 0
const CENTRE_B = 2
const RADIUS_A = 4
const RADIUS_B = 5

const ROW_FORM: RowForm = {
  width: ROW,
  head: HEAD,
  point: POINT,
  restitution: RESTITUTION,
  gap: GAP_AT_START,
  speed: SPEED,
  mass: NORMAL_MASS,
  impulse: NORMAL_IMPULSE,
  most: MOST,
  total: NORMAL_TOTAL,
}

export class ContactRows extends ContactKind<Contacts, BodyRows2> {
  private readonly centres = new Float64Array(6)
  private readonly surface = new Float64Array(PAIR_SURFACE)

  constructor(setup: ContactKindSetup<Contacts, BodyRows2>) {
    super(setup, CONTACT_FORM, ROW_FORM)
  }

  protected override fill(row: number, contact: number, pair: number, bodyA: number, bodyB: number): void {
    const { source } = this
    source.centreOf(bodyA, this.centres, CENTRE_A)
    source.centreOf(bodyB, this.centres, CENTRE_B)
    this.centres[RADIUS_A] = this.contacts.radiusOf(this.contacts.pieceA.data[contact])
    this.centres[RADIUS_B] = this.contacts.radiusOf(this.contacts.pieceB.data[contact])
    this.surfaces.read(pair, this.surface)
    const { rows, links, contacts, bodyRows, centres, surface } = this
    const { data: bodies } = bodyRows
    const points = contacts.points.data
    const pointsAt = CONTACT_WORDS * contact
    const count = contacts.count.data[contact]
    const a = links[LINKS * row + ROW_A]
    const b = links[LINKS * row + ROW_B]
    bodyRows.held[a] = 1
    bodyRows.held[b] = 1
    const at = ROW * row
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
      const to = (at + HEAD + POINT * k) & PLACE
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

  override prepare(time: Float64Array): void {
    this.writeSoftness(time[SUBSTEP])
    const { rows, links, count } = this
    const { data: bodies } = this.bodyRows
    for (let i = 0; i < count; i++) {
      const a = (BODY * links[LINKS * i + ROW_A]) & PLACE
      const b = (BODY * links[LINKS * i + ROW_B]) & PLACE
      this.soften(bodies[a + IX] + bodies[a + IY], bodies[b + IX] + bodies[b + IY], rows, ROW * i + RATE)
    }
  }

  /** Begins a substep with the impulses of the last. */
  override warmStart(): void {
    const { rows, links, count } = this
    const { data: bodies } = this.bodyRows
    for (let i = 0; i < count; i++) {
      const a = (BODY * links[LINKS * i + ROW_A]) & PLACE
      const b = (BODY * links[LINKS * i + ROW_B]) & PLACE
      const at = (ROW * i) & PLACE
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
      for (let place = at + HEAD; place < end; place += POINT) {
        const p = place & PLACE
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
  override solve(time: Float64Array, soft: boolean): void {
    const { rows, links, count, push } = this
    const { data: bodies } = this.bodyRows
    const inverse = 1 / time[SUBSTEP]
    let largest = 0
    for (let i = 0; i < count; i++) {
      const a = (BODY * links[LINKS * i + ROW_A]) & PLACE
      const b = (BODY * links[LINKS * i + ROW_B]) & PLACE
      const at = (ROW * i) & PLACE
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
      for (let place = at + HEAD; place < end; place += POINT) {
        const p = place & PLACE
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
  override sum(): void {
    const { rows, links, count } = this
    for (let i = 0; i < count; i++) {
      const at = (ROW * i + HEAD) & PLACE
      const end = at + POINT * links[LINKS * i + POINTS]
      for (let place = at; place < end; place += POINT) {
        const p = place & PLACE
        rows[p + NORMAL_TOTAL] += rows[p + NORMAL_IMPULSE]
        rows[p + TANGENT_TOTAL] += rows[p + TANGENT_IMPULSE]
      }
    }
  }

  protected override pullTogether(row: number): number {
    const { rows, links } = this
    const { data: bodies } = this.bodyRows
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    const at = ROW * row
    return (
      (bodies[a + AX] - bodies[b + AX]) * rows[at + NORMAL_X] + (bodies[a + AY] - bodies[b + AY]) * rows[at + NORMAL_Y]
    )
  }

  protected override readSpeed(row: number, p: number): void {
    const { rows, links, speed } = this
    const { data: bodies } = this.bodyRows
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    const vx = bodies[b + VX] - bodies[a + VX]
    const vy = bodies[b + VY] - bodies[a + VY]
    speed[0] =
      vx * rows[ROW * row + NORMAL_X] +
      vy * rows[ROW * row + NORMAL_Y] +
      bodies[b + SPIN] * rows[p + ARM_B] -
      bodies[a + SPIN] * rows[p + ARM_A]
  }

  protected override give(row: number, p: number, impulse: number): void {
    const { rows, links } = this
    const { data: bodies } = this.bodyRows
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    const px = impulse * rows[ROW * row + NORMAL_X]
    const py = impulse * rows[ROW * row + NORMAL_Y]
    rows[p + NORMAL_TOTAL] += impulse
    bodies[a + VX] -= px * bodies[a + IX]
    bodies[a + VY] -= py * bodies[a + IY]
    bodies[a + SPIN] -= bodies[a + IT] * rows[p + ARM_A] * impulse
    bodies[b + VX] += px * bodies[b + IX]
    bodies[b + VY] += py * bodies[b + IY]
    bodies[b + SPIN] += bodies[b + IT] * rows[p + ARM_B] * impulse
  }

  protected override readImpulses(index: number, contact: number, out: Float64Array): void {
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
}
