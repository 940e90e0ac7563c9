/**
 * Nothing slips between what touches. A ray along a face, or past a corner, meets nothing: it grazes. But where the solids that it
 * grazes at one place lie all around it, it runs between them, and meets them. Each graze is a stretch of the ray with the directions,
 * seen along the ray, in which the solid lies; where those of all grazes at one place leave no way out, the ray is closed in.
 */
import { IntList } from '../state/table.ts'

/** A graze record: fractions of the ray between which it runs along the solid; the sector in which the solid lies. */
export const ENTER = 0
export const EXIT = 1
/**
 * The sector, counter-clockwise from the one to the other, in quarter turns: 0 to 4, a number that grows with the angle and is made by a
 * division alone (see {@link quarterTurns}).
 */
export const SECTOR_FROM = 2
export const SECTOR_TO = 3
/** The normal of the face that the ray meets where the solid begins: three numbers in 3D. */
export const FRONT = 4
export const GRAZE_SIZE = 7

/** Part of a fraction that is rounding. */
const ROUNDING = 4e-15
/** Quarter turns by which two sectors that touch may be apart by rounding. */
const LEAK = 1e-6

/** A number from 0 to 4 that grows with the angle of (x, y), counter-clockwise from the axis of x. */
export function quarterTurns(x: number, y: number): number {
  const part = y / (Math.abs(x) + Math.abs(y))
  if (x < 0) return 2 - part
  return y < 0 ? 4 + part : part
}

export class Seams {
  /** What the ray touches where it is closed in. */
  readonly active = new IntList()
  /** Where that is, and whether the ray starts there, between them. */
  fraction = 0
  inside = false
  private readonly pieces = new IntList()
  private readonly order = new IntList()
  private values = new Float64Array(16 * GRAZE_SIZE)
  private next = 0
  private slack = 0
  private atStart = true
  private readonly sooner = (a: number, b: number): boolean => {
    const first = this.values[GRAZE_SIZE * a + ENTER]
    const second = this.values[GRAZE_SIZE * b + ENTER]
    return first === second ? a < b : first < second
  }

  /** @param slack fraction of the ray by which two places at its start may differ and be one */
  clear(slack: number): void {
    this.pieces.clear()
    this.order.clear()
    this.active.clear()
    this.next = 0
    this.atStart = true
    this.slack = slack
  }

  get count(): number {
    return this.pieces.length
  }

  add(piece: number, record: Float64Array): void {
    const at = this.pieces.length
    this.order.push(at)
    this.pieces.push(piece)
    if (GRAZE_SIZE * (at + 1) > this.values.length) {
      const wider = new Float64Array(2 * this.values.length)
      wider.set(this.values)
      this.values = wider
    }
    for (let i = 0; i < GRAZE_SIZE; i++) this.values[GRAZE_SIZE * at + i] = record[i]
  }

  /** After the last {@link add}. */
  sort(): void {
    this.order.sort(this.sooner)
  }

  pieceOf(graze: number): number {
    return this.pieces.data[graze]
  }

  /** The fraction at which a graze begins. */
  enterOf(graze: number): number {
    return this.values[GRAZE_SIZE * graze + ENTER]
  }

  /** Takes all grazes of some pieces out. Cold. */
  forget(gone: (piece: number) => boolean): void {
    const { active, order } = this
    for (const list of [active, order]) {
      const first = list === order ? this.next : 0
      let kept = first
      for (let i = first; i < list.length; i++) {
        if (!gone(this.pieceOf(list.data[i]))) list.data[kept++] = list.data[i]
      }
      list.length = kept
    }
  }

  /**
   * Goes on to the next place, no farther than `limit[0]`, where the ray is closed in: false when there is none. A place where
   * another solid begins to take part counts again.
   */
  advance(limit: Float64Array): boolean {
    const { order, values, slack, active } = this
    if (this.atStart) {
      this.atStart = false
      this.fraction = 0
      // Closed in up to its start, and from there on: it starts between them.
      while (this.next < order.length && values[GRAZE_SIZE * order.data[this.next] + ENTER] < -slack) {
        active.push(order.data[this.next++])
      }
      this.leaveBefore(-slack)
      const before = this.isClosed()
      let ahead = this.next
      while (ahead < order.length && values[GRAZE_SIZE * order.data[ahead] + ENTER] <= slack) ahead++
      // What it leaves where it starts is behind it.
      this.leaveBefore(slack)
      if (before) {
        for (; this.next < ahead; this.next++) {
          const graze = order.data[this.next]
          if (values[GRAZE_SIZE * graze + EXIT] > slack) active.push(graze)
        }
        this.inside = true
        if (this.isClosed()) return true
      }
    }
    this.inside = false
    while (this.next < order.length) {
      const enter = values[GRAZE_SIZE * order.data[this.next] + ENTER]
      const here = enter > slack ? enter : 0
      if (here > limit[0]) return false
      const end = enter + this.slackAt(enter)
      this.leaveBefore(here - this.slackAt(here))
      while (this.next < order.length && values[GRAZE_SIZE * order.data[this.next] + ENTER] <= end) {
        const graze = order.data[this.next++]
        // What the ray starts on and leaves at once is none.
        if (here > 0 || values[GRAZE_SIZE * graze + EXIT] > slack) active.push(graze)
      }
      this.fraction = here
      if (this.isClosed()) return true
    }
    return false
  }

  /**
   * Writes the normal of a hit with an active solid: its own front where it begins here; else that of the one that does, or against the
   * ray. @param back the unit direction against the ray, for where there is no front
   */
  readNormal(graze: number, back: Float64Array, out: Float64Array, at: number): void {
    const { values, active } = this
    let from = this.inside || !this.beginsHere(graze) ? -1 : graze
    for (let i = 0; i < active.length && from < 0 && !this.inside; i++) {
      if (this.beginsHere(active.data[i])) from = active.data[i]
    }
    for (let i = 0; i < back.length; i++) out[at + i] = from < 0 ? back[i] : values[GRAZE_SIZE * from + FRONT + i]
  }

  private beginsHere(graze: number): boolean {
    return this.values[GRAZE_SIZE * graze + ENTER] >= this.fraction - this.slackAt(this.fraction)
  }

  private slackAt(fraction: number): number {
    return this.slack + ROUNDING * Math.min(Math.abs(fraction), 1)
  }

  private leaveBefore(fraction: number): void {
    const { active, values } = this
    let kept = 0
    for (let i = 0; i < active.length; i++) {
      if (values[GRAZE_SIZE * active.data[i] + EXIT] >= fraction) active.data[kept++] = active.data[i]
    }
    active.length = kept
  }

  /** Whether the sectors of all that is active leave no way out. */
  private isClosed(): boolean {
    const { active, values } = this
    if (active.length < 2) return false
    const first = values[GRAZE_SIZE * active.data[0] + SECTOR_FROM]
    let reach = 0
    for (let found = true; found && reach < 4; ) {
      found = false
      for (let i = 0; i < active.length; i++) {
        const at = GRAZE_SIZE * active.data[i]
        let from = values[at + SECTOR_FROM] - first
        if (from < 0) from += 4
        let to = values[at + SECTOR_TO] - values[at + SECTOR_FROM]
        if (to < 0) to += 4
        to += from
        // One that begins a little before the first reaches on behind it.
        const on = from <= reach + LEAK ? to : to - 4
        if (on > reach) {
          reach = on
          found = true
        }
      }
      if (reach >= 4 - LEAK) return true
    }
    return false
  }
}
