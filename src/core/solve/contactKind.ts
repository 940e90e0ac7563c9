/**
 * Contacts as a kind of constraint, as far as that knows no dimension: which of them are worked on in a tick, in the order of age, and what
 * they leave on the books of pairs. A dimension brings the rows and how they are solved.
 */
import { SOLID } from '../filter/filter.ts'
import type { Population } from '../state/population.ts'
import type { Column } from '../state/table.ts'
import type { Pairs } from '../step/pairs.ts'
import type { ContactBook, PointForm } from './contactBook.ts'
import type { Islands } from './islands.ts'
import { joinBodies } from './sleep.ts'
import type { BodyRows, ConstraintKind } from './substeps.ts'
import type { Surfaces } from './surfaces.ts'

/** Of a row: the rows of its two bodies, how many points it has, and the contact. */
export const LINKS = 4
export const ROW_A = 0
export const ROW_B = 1
export const POINTS = 2
const CONTACT = 3

/** What is summed for a pair: impulses along the normal and across it, the greatest speed of coming together. */
export const SUM_NORMAL = 0
export const SUM_FRICTION = 1
export const CLOSING = 2

/** Stiffness of contacts, as cycles a second, and how strongly they are damped. */
const CYCLES = 45
const DAMPING = 10
/**
 * Part of its impulse that such a spring gives up in a substep, of what a true one would. That is what lets a pile sink while its load lasts:
 * with all of it, twenty boxes of half a metre by 61 mm, with a quarter by 15. On the ground, and where one is so many times as heavy as the
 * other, all of it is needed, or what is light shivers under what is heavy.
 */
const GIVE = 0.25
const MUCH_HEAVIER = 10
/** Passes over those who strike each other in a row, at most. */
const MOST_STRIKES = 32
/** Places in what {@link writeSoftness} writes: the rate at which an overlap is pushed apart, the parts of mass and impulse. */
const SOFTNESS = 3
/** Lengths a second (times the unit) below which nothing bounces. */
export const BOUNCE = 0.5

/** How a dimension keeps its rows: their widths, and where in a row, or in a point of one, stands what an impact is made of. */
export interface RowForm {
  /** Numbers of a row, of its head, and of a point behind that. */
  readonly width: number
  readonly head: number
  readonly point: number
  /** In a row. */
  readonly restitution: number
  /** In a point: its gap and its speed as the tick begins, its mass, impulses of the substep, the greatest, that of the tick. */
  readonly gap: number
  readonly speed: number
  readonly mass: number
  readonly impulse: number
  readonly most: number
  readonly total: number
}

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
  /** Where it was last pressed, and along which normal: a vector each. */
  readonly metAt: { data: Float64Array }
  readonly normal: { data: Float64Array }
}

/** Of a row of a body: it is held by a contact, and struck or joined to what is. */
const STRUCK = 2

/** Rows of bodies, and which of them a constraint holds. */
export interface HeldRows extends BodyRows {
  readonly count: number
  held: Int32Array
}

/** What contact rows work on. */
export interface ContactKindSetup<C extends ContactBook, R extends HeldRows> {
  readonly population: Population<object, object>
  readonly pairs: Pairs
  readonly contacts: C
  readonly bodyRows: R
  readonly surfaces: Surfaces
  readonly source: RowSource
  readonly books: PressedBooks
  /** Seconds a tick. */
  readonly dt: number
  /** The user's lengths to a metre. */
  readonly unit: number
}

export abstract class ContactKind<C extends ContactBook, R extends HeldRows> implements ConstraintKind {
  count = 0
  /** Lengths a second at which overlaps are pushed apart at most. */
  push: number
  protected links = new Int32Array(LINKS * 64)
  protected rows: Float64Array
  protected readonly contacts: C
  protected readonly bodyRows: R
  protected readonly surfaces: Surfaces
  protected readonly source: RowSource
  /** Of a contact with the ground, then of one between two that move: see {@link SOFTNESS}. */
  protected readonly softness = new Float64Array(2 * SOFTNESS)
  /** Lengths a second below which nothing bounces. */
  protected readonly bounce: number
  /** How fast two come together, in its first place. */
  protected readonly speed = new Float64Array(1)
  private readonly sums = new Float64Array(3)
  private readonly population: Population<object, object>
  private readonly pairs: Pairs
  private readonly books: PressedBooks
  private readonly dt: number
  private readonly form: PointForm
  private readonly row: RowForm

  constructor(setup: ContactKindSetup<C, R>, form: PointForm, row: RowForm) {
    this.population = setup.population
    this.pairs = setup.pairs
    this.contacts = setup.contacts
    this.bodyRows = setup.bodyRows
    this.surfaces = setup.surfaces
    this.source = setup.source
    this.books = setup.books
    this.dt = setup.dt
    this.form = form
    this.row = row
    this.rows = new Float64Array(row.width * 64)
    this.push = 3 * setup.unit
    this.bounce = BOUNCE * setup.unit
  }

  begin(): void {
    const { contacts, pairs, population, source } = this
    const { width } = this.row
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
      const row = this.count++
      if (width * this.count > this.rows.length) {
        const wider = new Float64Array(2 * this.rows.length)
        wider.set(this.rows)
        this.rows = wider
        const links = new Int32Array(2 * this.links.length)
        links.set(this.links)
        this.links = links
      }
      const at = LINKS * row
      this.links[at + ROW_A] = source.rowOf(a)
      this.links[at + ROW_B] = source.rowOf(b)
      this.links[at + POINTS] = contacts.count.data[contact]
      this.links[at + CONTACT] = contact
      this.fill(row, contact, pair, a, b)
    }
  }

  /** Writes the row of a contact of a pair, between two bodies; its links stand ready. */
  protected abstract fill(row: number, contact: number, pair: number, a: number, b: number): void

  /** How soft contacts are: as a spring of so many cycles a second that a substep of `h` can follow; stiffer against the ground. */
  protected writeSoftness(h: number): void {
    const cycles = Math.min(CYCLES, 0.25 / h)
    for (let at = 0; at < 2 * SOFTNESS; at += SOFTNESS) {
      const omega = 6.283185307179586 * (at === 0 ? 2 * cycles : cycles)
      const first = 2 * DAMPING + h * omega
      const second = h * omega * first
      const third = 1 / (1 + second)
      this.softness[at] = omega / first
      this.softness[at + 1] = second * third
      this.softness[at + 2] = third
    }
  }

  /**
   * Writes how soft a contact is between two with these inverse masses: the rate at which an overlap is pushed apart, the parts of mass and
   * of impulse.
   */
  protected soften(one: number, other: number, out: Float64Array, at: number): void {
    const { softness } = this
    const ground = one === 0 || other === 0
    const from = ground ? 0 : SOFTNESS
    const ratio = ground ? MUCH_HEAVIER : one > other ? one / other : other / one
    const part = (ratio - 1) / (MUCH_HEAVIER - 1)
    out[at] = softness[from]
    out[at + 1] = softness[from + 1]
    out[at + 2] = softness[from + 2] * (part < 1 ? GIVE + (1 - GIVE) * part : 1)
  }

  moved(): void {}

  abstract prepare(time: Float64Array): void
  abstract warmStart(): void
  abstract solve(time: Float64Array, soft: boolean): void
  abstract sum(): void

  /**
   * What came fast enough, and was stopped, leaves at its restitution. What touches at single points and bounces passes it on: of balls in a
   * row the solver has made one lump, so their impulses are taken back, and given again one after the other.
   */
  finish(): void {
    const { count, links, bodyRows, bounce, speed } = this
    const { held } = bodyRows
    let struck = false
    for (let i = 0; i < count; i++) {
      if (!this.bounces(i)) continue
      if (!this.isStruck(i)) continue
      struck = true
      for (let side = ROW_A; side <= ROW_B; side++) held[links[LINKS * i + side]] = STRUCK
    }
    if (!struck) return
    held[0] = 1
    this.spreadStruck()
    for (let i = 0; i < count; i++) {
      if (!this.bounces(i)) continue
      if (this.passesOn(i)) this.takeBack(i)
      else this.reboundAll(i)
    }
    for (let pass = 0; pass < MOST_STRIKES; pass++) {
      let fastest = 0
      for (let i = 0; i < count; i++) {
        if (!this.bounces(i) || !this.passesOn(i)) continue
        this.rebound(i, pass === 0)
        if (speed[0] > fastest) fastest = speed[0]
      }
      if (fastest <= bounce) break
    }
    for (let row = 1; row < bodyRows.count; row++) if (held[row] === STRUCK) held[row] = 1
  }

  /** Marks all bodies that are joined to a struck one by contacts at single points that bounce. */
  private spreadStruck(): void {
    const { count, links, bodyRows } = this
    const { held } = bodyRows
    for (let spreads = true; spreads; ) {
      spreads = false
      for (let i = 0; i < count; i++) {
        if (links[LINKS * i + POINTS] !== 1 || !this.bounces(i)) continue
        const a = links[LINKS * i + ROW_A]
        const b = links[LINKS * i + ROW_B]
        if (a === 0 || b === 0 || (held[a] === STRUCK) === (held[b] === STRUCK)) continue
        held[a] = held[b] = STRUCK
        spreads = true
      }
    }
  }

  /** Whether a row that bounces is one of those that pass impacts on. */
  private passesOn(row: number): boolean {
    const { links, bodyRows } = this
    const { held } = bodyRows
    const at = LINKS * row
    return links[at + POINTS] === 1 && (held[links[at + ROW_A]] === STRUCK || held[links[at + ROW_B]] === STRUCK)
  }

  /** Whether a row has restitution. */
  private bounces(row: number): boolean {
    const { width, restitution } = this.row
    return this.rows[width * row + restitution] > 0
  }

  /** Where the points of a row begin, or end. */
  private pointsAt(row: number, count: number): number {
    const { width, head, point } = this.row
    return width * row + head + point * count
  }

  /** Whether a point came fast enough to bounce, and was stopped. */
  private isPointStruck(p: number): boolean {
    const { speed, most } = this.row
    return this.rows[p + speed] <= -this.bounce && this.rows[p + most] > 0
  }

  private isStruck(row: number): boolean {
    const end = this.pointsAt(row, this.links[LINKS * row + POINTS])
    for (let p = this.pointsAt(row, 0); p < end; p += this.row.point) if (this.isPointStruck(p)) return true
    return false
  }

  /** Takes back what the only point of a row was given in this tick. */
  private takeBack(row: number): void {
    const p = this.pointsAt(row, 0)
    this.give(row, p, -this.rows[p + this.row.total])
    this.rows[p + this.row.impulse] = 0
  }

  /** Lets the only point of a row leave by what it closes at; the first time, by what it came at. Writes how fast it closed to {@link speed}. */
  private rebound(row: number, first: boolean): void {
    const { rows, speed, bounce } = this
    const { width, restitution, mass } = this.row
    const p = this.pointsAt(row, 0)
    this.readSpeed(row, p)
    const closing = -speed[0]
    let wanted = 0
    if (first && this.isPointStruck(p)) wanted = this.reboundSpeed(row, p)
    else if (closing > bounce) wanted = rows[width * row + restitution] * closing
    if (closing > -wanted) this.give(row, p, rows[p + mass] * (closing + wanted))
    speed[0] = closing
  }

  /** Lets all points of a row that were struck leave, one after the other. */
  private reboundAll(row: number): void {
    const { rows, speed } = this
    const { impulse, mass } = this.row
    const end = this.pointsAt(row, this.links[LINKS * row + POINTS])
    for (let p = this.pointsAt(row, 0); p < end; p += this.row.point) {
      if (!this.isPointStruck(p)) continue
      this.readSpeed(row, p)
      const before = rows[p + impulse]
      let after = before - rows[p + mass] * (speed[0] - this.reboundSpeed(row, p))
      if (after < 0) after = 0
      rows[p + impulse] = after
      this.give(row, p, after - before)
    }
  }

  /**
   * How fast a point leaves that was struck: by the speed that it has at the surface, which is that at the start of the tick and what its
   * acceleration adds over the gap.
   */
  private reboundSpeed(row: number, p: number): number {
    const { rows } = this
    const { width, restitution, speed, gap: gapAt } = this.row
    const gap = rows[p + gapAt]
    const square = rows[p + speed] * rows[p + speed] + 2 * this.pullTogether(row) * (gap > 0 ? gap : 0)
    return square > 0 ? rows[width * row + restitution] * Math.sqrt(square) : 0
  }

  /** How fast forces bring the two of a row together, along its normal, a second. */
  protected abstract pullTogether(row: number): number
  /** Writes how fast a point of a row comes apart to {@link speed}. */
  protected abstract readSpeed(row: number, p: number): void
  /** Gives the two of a row an impulse at a point, and adds it to that of the tick. */
  protected abstract give(row: number, p: number, impulse: number): void

  /** Impulses of this tick to the points of the contacts, and summed to their pairs. */
  readBack(now: number): void {
    const { links, contacts, pairs, sums, books } = this
    const { axes, most, words } = this.form
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
      if (sums[SUM_NORMAL] <= before) continue
      if (pressed.data[pair] !== now) pressedWhen.data[pair] = this.whenOf(contact, sums[CLOSING])
      pressed.data[pair] = now
      for (let k = 0; k < axes; k++) {
        metAt.data[axes * pair + k] = contacts.points.data[words * most * contact + k]
        normal.data[axes * pair + k] = contacts.normal.data[axes * contact + k]
      }
    }
  }

  /**
   * Writes the impulses of a row back to its contact's points, and adds to `out`: the sum along the normal, that across it, and
   * the greatest speed of coming together of what was pressed.
   */
  protected abstract readImpulses(row: number, contact: number, out: Float64Array): void

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

  /** When in the tick the nearest point of a contact was reached at its speed of coming together. */
  private whenOf(contact: number, closing: number): number {
    const { contacts } = this
    const { most, words, gap: gapAt } = this.form
    let gap = Infinity
    for (let k = 0; k < contacts.count.data[contact]; k++) {
      gap = Math.min(gap, contacts.points.data[words * (most * contact + k) + gapAt])
    }
    if (gap <= 0 || closing <= 0) return 0
    return Math.min(1, gap / (closing * this.dt))
  }
}
