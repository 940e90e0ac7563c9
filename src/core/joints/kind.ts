/**
 * Joints as a kind of constraint, as far as that knows no dimension. A joint is a few rows, each of them one number that is to stay what it
 * is: how it changes with the velocities of the two bodies (its Jacobian), by how much it is off, and how hard or soft it is held. Rows that hold in
 * both directions are a block and are solved together, exactly; limits and motors are rows of their own. Rows are made anew in each substep, where the
 * bodies are then. A dimension says what the rows of a joint are.
 */

import type { HeldRows } from '../solve/contactKind.ts'
import type { Islands } from '../solve/islands.ts'
import { joinBodies } from '../solve/sleep.ts'
import { CHANGE, type ConstraintKind, SUBSTEP, TICK } from '../solve/substeps.ts'
import { BODY_ENABLED, type Population } from '../state/population.ts'
import { exp } from '../util/maths.ts'
import {
  BREAK_FORCE,
  BREAK_TORQUE,
  BROKEN,
  DAMPING,
  FORCE,
  FREQUENCY,
  type JointBook,
  type JointFace,
  MOST_ROWS,
  SETTINGS,
  SPEED,
  STRENGTH,
  TORQUE,
  WORLD,
} from './book.ts'
import {
  ANSWER,
  BLOCK,
  BODY_A,
  BODY_B,
  COUNT,
  FIRST,
  GIVE,
  HIGH,
  IMPULSE,
  JOINT,
  LAST_RATE,
  LOW,
  OFF,
  OFF_AHEAD,
  PLACE,
  RATE,
  RELAX_RATE,
  RIGID_ROW,
  TAIL,
  TURNING,
} from './rows.ts'
import { backSubstitute, factor, JointTree, type TreeRows } from './tree.ts'

/** Of a joint of this tick: its slot, and the rows of its bodies. */
const ACTIVE = 3
const SLOT = 0
const ROW_A = 1
const ROW_B = 2

/** The part of what a rigid row is off that is drawn back in a substep. */
const DRAWN = 0.44
/** Lengths (times the unit) and radians a second at which it is drawn back at most. */
const MOST_DRAWN = 10
/** Cycles a substep beyond which nothing is stiffer. */
const STIFFEST = 0.25
/** Radians a substep from which on a spring is worked out stably instead of exactly, and up to which it is only exact. */
const STABLE = 0.5
const EXACT = 0.1
/** The least damping of a substep: a spring without any would divide by it. */
const LEAST_DAMPING = 1e-7

/** How many numbers a dimension has for a velocity, for a place and for a body. */
export interface JointForm {
  readonly speeds: number
  readonly axes: number
  readonly body: number
  /** The user's lengths to a metre. */
  readonly unit: number
}

/** What joints ask about the bodies of a tick. */
interface RowOwner {
  rowOf(body: number): number
}

export abstract class JointKind<J extends JointFace> implements ConstraintKind, TreeRows {
  readonly book: JointBook<J>
  protected readonly form: JointForm
  protected readonly source: RowOwner
  protected readonly bodyRows: HeldRows & { data: Float64Array }
  rows: Float64Array
  /** The width of a row. */
  readonly width: number
  readonly speeds: number
  private readonly tree = new JointTree()
  private hasTree = false
  /** Of each block of the tree, what its rows want, and then are given. */
  private wanted = new Float64Array(0)
  /** Joints of this tick. */
  protected count = 0
  protected active = new Int32Array(ACTIVE * 16)
  /** Newtons times the time, and these times a length, that a joint gave in this tick: vectors. */
  private loads: Float64Array
  blocks = new Int32Array(BLOCK * 16)
  /** The most that the impulse of a block can be. */
  private most = new Float64Array(16)
  /** The factors of the matrix of a block. */
  private factors: Float64Array
  blockCount = 0
  private rowCount = 0
  /** The block and the row that are written next, and whether this tick's are being counted. */
  private nextBlock = 0
  private nextRow = 0
  private counting = false
  private current = 0
  private backwards = false
  private readonly population: Population<object, object>
  private readonly x: Float64Array
  private readonly matrix: Float64Array
  /** How soft the joint at hand is: what it gives, as a part of a row's answer (below 0: it is rigid), and a rate. */
  private readonly softness = new Float64Array(2)
  /** By how much the row that is added next is off: in an array, for a double that crosses a call is boxed. */
  protected readonly off = new Float64Array(1)
  /** Seconds of a tick, of a substep, and one over that. */
  private dt = 0
  protected h = 0
  protected inverseH = 0
  /** Seconds ahead of where the bodies are for which rows are written; 0 for now. */
  protected ahead = 0
  /** Where a row is written that nobody reads. */
  private get spare(): number {
    return this.width * this.rowCount
  }

  constructor(
    book: JointBook<J>,
    population: Population<object, object>,
    bodyRows: HeldRows & { data: Float64Array },
    source: RowOwner,
    form: JointForm,
  ) {
    this.book = book
    this.population = population
    this.bodyRows = bodyRows
    this.source = source
    this.form = form
    this.speeds = form.speeds
    this.width = 4 * form.speeds + TAIL
    this.rows = new Float64Array(this.width * 32)
    this.factors = new Float64Array(form.speeds * form.speeds * 16)
    this.loads = new Float64Array(2 * form.axes * 16)
    this.x = new Float64Array(form.speeds)
    this.matrix = new Float64Array(form.speeds * form.speeds)
  }

  get bodyCount(): number {
    return this.bodyRows.count
  }

  isOpen(block: number): boolean {
    if (this.most[block] < Infinity) return false
    const { blocks, rows } = this
    // A single row may have bounds of its own.
    const tail = this.tail(blocks[BLOCK * block + FIRST])
    return rows[tail + LOW] === -Infinity && rows[tail + HIGH] === Infinity
  }

  // What a dimension brings.

  abstract isFree(body: number): boolean
  abstract writeMass(body: number, out: Float64Array, at: number): void

  /** Reads where the anchors of a joint are as the tick begins; its place in this tick, and its slot. */
  protected abstract place(index: number, joint: number, a: number, b: number): void
  /** Writes the rows of a joint where its two bodies are now, in an order that stays through a tick. */
  protected abstract writeRows(index: number, joint: number, rowA: number, rowB: number): void
  /** Writes what an impulse along the Jacobian at `from` changes of the velocity of a row of a body. */
  protected abstract writeAnswer(row: number, from: number, to: number): void
  /** After a tick: measures what is told without jumps. */
  protected abstract measureAfter(joint: number): void

  begin(): void {
    const { book, source, bodyRows } = this
    const { order } = book
    this.count = 0
    this.blockCount = 0
    this.rowCount = 0
    for (let i = 0; i < order.length; i++) {
      const joint = order.data[i]
      const one = book.one.data[joint]
      const two = book.two.data[joint]
      if (!book.isActive(joint) || !this.isOn(one) || !this.isOn(two)) {
        book.load.data.fill(0, 2 * joint, 2 * joint + 2)
        book.impulses.data.fill(0, MOST_ROWS * joint, MOST_ROWS * (joint + 1))
        continue
      }
      const a = one === WORLD ? 0 : source.rowOf(one)
      const b = two === WORLD ? 0 : source.rowOf(two)
      if (!this.isFree(a) && !this.isFree(b)) continue
      const index = this.count++
      this.makeRoom()
      const at = ACTIVE * index
      this.active[at + SLOT] = joint
      this.active[at + ROW_A] = a
      this.active[at + ROW_B] = b
      bodyRows.held[a] = 1
      bodyRows.held[b] = 1
      this.place(index, joint, one, two)
    }
    bodyRows.held[0] = 0
  }

  private isOn(body: number): boolean {
    return body === WORLD || (this.population.bodyFlags.data[body] & BODY_ENABLED) !== 0
  }

  prepare(time: Float64Array): void {
    this.dt = time[TICK]
    this.h = time[SUBSTEP]
    this.inverseH = 1 / this.h
    const { book } = this
    const { axes } = this.form
    this.counting = true
    this.nextBlock = 0
    this.nextRow = 0
    for (let i = 0; i < this.count; i++) this.writeJoint(i)
    this.blockCount = this.nextBlock
    this.rowCount = this.nextRow
    this.counting = false
    const { impulses } = book
    for (let i = 0; i < this.rowCount; i++) {
      const tail = this.tail(i)
      this.rows[tail + IMPULSE] = impulses.data[this.rows[tail + PLACE]]
    }
    this.loads.fill(0, 0, 2 * axes * this.count)
    this.hasTree = this.tree.build(this)
    if (this.wanted.length < this.speeds * this.blockCount)
      this.wanted = new Float64Array(2 * this.speeds * this.blockCount)
    this.factoriseAll()
    this.lookAhead()
  }

  private factoriseAll(): void {
    for (let block = 0; block < this.blockCount; block++) this.factorise(block)
    if (!this.hasTree) return
    this.tree.factorise(this)
  }

  warmStart(): void {
    for (let block = 0; block < this.blockCount; block++) this.giveAll(block)
  }

  /**
   * How far off rigid rows come to be by the curve of the way alone, beyond what their speed says: half the pull that holds what swings on its
   * circle. With it the substep is one of the method of Andersen (1983), and a pendulum keeps its energy.
   */
  private lookAhead(): void {
    const { rows, width } = this
    const { speeds, body } = this.form
    const { data: bodies } = this.bodyRows
    this.ahead = this.h
    this.nextBlock = 0
    this.nextRow = 0
    for (let i = 0; i < this.count; i++) this.writeJoint(i)
    this.ahead = 0
    for (let block = 0; block < this.blockCount; block++) {
      const at = BLOCK * block
      const a = body * this.blocks[at + BODY_A]
      const b = body * this.blocks[at + BODY_B]
      for (let i = 0; i < this.blocks[at + COUNT]; i++) {
        const row = width * (this.blocks[at + FIRST] + i)
        const tail = row + 4 * speeds
        if (rows[tail + RIGID_ROW] === 0) continue
        let speed = 0
        for (let n = 0; n < speeds; n++) speed += rows[row + n] * bodies[a + n] + rows[row + speeds + n] * bodies[b + n]
        const curve = rows[tail + OFF_AHEAD] - rows[tail + OFF] - this.h * speed
        this.draw(tail, rows[tail + TURNING] !== 0)
        rows[tail + RATE] += curve * this.inverseH
      }
    }
  }

  moved(): void {
    this.nextBlock = 0
    this.nextRow = 0
    for (let i = 0; i < this.count; i++) this.writeJoint(i)
    this.factoriseAll()
  }

  private writeJoint(index: number): void {
    const { active } = this
    const at = ACTIVE * index
    this.current = index
    this.writeSpring(active[at + SLOT])
    this.writeRows(index, active[at + SLOT], active[at + ROW_A], active[at + ROW_B])
  }

  // Rows are written by these.

  /** Opens a block: rows that are solved together, until the next is opened. @param most the most that its impulse can be */
  protected openBlock(most: number): void {
    const block = this.nextBlock++
    if (this.counting) {
      if (BLOCK * this.nextBlock > this.blocks.length) this.widenBlocks()
      const at = BLOCK * block
      this.blocks[at + BODY_A] = this.active[ACTIVE * this.current + ROW_A]
      this.blocks[at + BODY_B] = this.active[ACTIVE * this.current + ROW_B]
      this.blocks[at + FIRST] = this.nextRow
      this.blocks[at + COUNT] = 0
      this.blocks[at + JOINT] = this.current
    }
    if (this.ahead === 0) this.most[block] = most
  }

  /**
   * Adds a row to the block that is open, and returns where its Jacobian is to be written: that of the one body, then that of the other.
   * @param place by which its impulse is known in the next tick
   */
  protected addRow(place: number, turning: boolean): number {
    const { off } = this
    const row = this.nextRow++
    if (this.ahead > 0) {
      this.rows[this.tail(row) + OFF_AHEAD] = off[0]
      return this.spare
    }
    if (this.counting) {
      if (this.width * (this.nextRow + 1) > this.rows.length) this.rows = wider(this.rows)
      this.blocks[BLOCK * (this.nextBlock - 1) + COUNT]++
    }
    const { rows } = this
    const tail = this.tail(row)
    rows[tail + PLACE] = MOST_ROWS * this.active[ACTIVE * this.current + SLOT] + place
    rows[tail + TURNING] = turning ? 1 : 0
    rows[tail + OFF] = off[0]
    rows[tail + RIGID_ROW] = 1
    rows[tail + LOW] = -Infinity
    rows[tail + HIGH] = Infinity
    // What is solved again after the bodies have moved is held as it was before.
    rows[tail + LAST_RATE] = rows[tail + RATE]
    rows[tail + GIVE] = 0
    this.draw(tail, turning)
    rows[tail + RELAX_RATE] = 0
    return this.width * row
  }

  /** Writes how fast a rigid row is drawn back by what it is off: what was torn far apart comes together without being flung. */
  private draw(tail: number, turning: boolean): void {
    const { rows } = this
    const rate = DRAWN * this.inverseH * rows[tail + OFF]
    const most = turning ? MOST_DRAWN : MOST_DRAWN * this.form.unit
    rows[tail + RATE] = rate > most ? most : rate < -most ? -most : rate
  }

  /** The row that was added last is as soft as the joint's frequency says, where it has one. */
  protected soften(): void {
    const { rows, softness } = this
    if (softness[0] < 0 || this.ahead > 0) return
    const tail = this.tail(this.nextRow - 1)
    rows[tail + RIGID_ROW] = 0
    rows[tail + GIVE] = softness[0]
    rows[tail + RATE] = softness[1] * rows[tail + OFF]
    rows[tail + RELAX_RATE] = this.counting ? rows[tail + RATE] : rows[tail + LAST_RATE]
  }

  /**
   * Adds a row that holds in one direction: the number may be more than 0, not less. It begins to hold before it is reached, so that
   * nothing goes beyond it at speed.
   */
  protected addLimit(place: number, turning: boolean): number {
    this.openBlock(Infinity)
    const at = this.addRow(place, turning)
    if (this.ahead > 0) return at
    const tail = this.tail(this.nextRow - 1)
    const { rows } = this
    rows[tail + LOW] = 0
    rows[tail + RIGID_ROW] = 0
    if (rows[tail + OFF] > 0) {
      rows[tail + RATE] = rows[tail + OFF] * this.inverseH
      rows[tail + RELAX_RATE] = this.counting ? rows[tail + RATE] : rows[tail + LAST_RATE]
    }
    return at
  }

  /** Adds the row of a motor: it drives the number at a speed, as far as its strength goes. */
  protected addMotor(place: number, joint: number, turning: boolean): number {
    const { settings } = this.book
    const speed = settings.data[SETTINGS * joint + SPEED]
    const most = settings.data[SETTINGS * joint + STRENGTH] * this.h
    this.openBlock(Infinity)
    this.off[0] = 0
    const at = this.addRow(place, turning)
    if (this.ahead > 0) return at
    const tail = this.tail(this.nextRow - 1)
    const { rows } = this
    rows[tail + RATE] = rows[tail + RELAX_RATE] = -speed
    rows[tail + RIGID_ROW] = 0
    rows[tail + LOW] = -most
    rows[tail + HIGH] = most
    return at
  }

  protected hasMotor(joint: number): boolean {
    return this.book.settings.data[SETTINGS * joint + STRENGTH] > 0
  }

  private tail(row: number): number {
    return this.width * row + 4 * this.form.speeds
  }

  // How soft.

  /**
   * How soft the rows of a joint with a frequency are. A spring that a substep can follow decays exactly and hangs where it should; a stiff one is
   * worked out so that it stays stable, whatever else it is joined to; between them the two go over into each other.
   */
  private writeSpring(joint: number): void {
    const { softness, h } = this
    const at = SETTINGS * joint
    const { data } = this.book.settings
    const frequency = data[at + FREQUENCY]
    softness[0] = -1
    if (!(frequency > 0)) return
    const turned = 2 * Math.PI * h * (frequency * h < STIFFEST ? frequency : STIFFEST / h)
    const beyond = (turned - EXACT) / (STABLE - EXACT)
    const part = beyond <= 0 ? 0 : beyond >= 1 ? 1 : beyond
    const damped = 2 * data[at + DAMPING] * turned
    const exact = exp(damped < 20 ? damped : 20) - 1
    const stable = damped + turned * turned
    const slows = Math.max(LEAST_DAMPING, exact + (stable - exact) * part)
    softness[0] = 1 / slows
    softness[1] = (turned * turned) / (h * slows)
  }

  // How the rows are solved.

  /** Writes what impulses change, and the factors of the matrix of a block. */
  private factorise(block: number): void {
    const { rows, blocks, width, matrix, factors, bodyRows } = this
    const { speeds } = this.form
    const at = BLOCK * block
    const first = blocks[at + FIRST]
    const count = blocks[at + COUNT]
    const rowA = blocks[at + BODY_A]
    const rowB = blocks[at + BODY_B]
    for (let i = 0; i < count; i++) {
      const row = width * (first + i)
      this.writeAnswer(rowA, row, row + 2 * speeds)
      this.writeAnswer(rowB, row + speeds, row + 3 * speeds)
    }
    bodyRows.held[0] = 0
    for (let i = 0; i < count; i++) {
      for (let k = 0; k <= i; k++) {
        const one = width * (first + i)
        const other = width * (first + k) + 2 * speeds
        let sum = 0
        for (let n = 0; n < 2 * speeds; n++) sum += rows[one + n] * rows[other + n]
        matrix[speeds * i + k] = sum
      }
      rows[this.tail(first + i) + ANSWER] = matrix[speeds * i + i]
    }
    for (let i = 0; i < count; i++) matrix[speeds * i + i] *= 1 + rows[this.tail(first + i) + GIVE]
    for (let i = 0; i < count; i++) {
      for (let k = 0; k <= i; k++) factors[speeds * speeds * block + speeds * i + k] = matrix[speeds * i + k]
    }
    factor(factors, speeds * speeds * block, count, speeds)
  }

  /** Gives a block the impulses with which it begins. */
  private giveAll(block: number): void {
    const { rows, blocks } = this
    const first = blocks[BLOCK * block + FIRST]
    const count = blocks[BLOCK * block + COUNT]
    for (let i = 0; i < count; i++) {
      const tail = this.tail(first + i)
      const impulse = rows[tail + IMPULSE]
      if (impulse < rows[tail + LOW]) rows[tail + IMPULSE] = rows[tail + LOW]
      else if (impulse > rows[tail + HIGH]) rows[tail + IMPULSE] = rows[tail + HIGH]
      this.x[i] = rows[tail + IMPULSE]
    }
    this.apply(block, count)
  }

  solve(time: Float64Array, soft: boolean): void {
    const { blockCount, tree } = this
    // There and back, so that along a chain what is pulled at either end is felt at the other.
    this.backwards = !soft && !this.backwards
    for (let i = 0; i < blockCount; i++) {
      const block = this.backwards ? blockCount - 1 - i : i
      if (tree.inTree[block] === 0) this.solveBlock(block, time, soft)
    }
    if (this.hasTree) this.solveTree(soft)
  }

  private solveTree(soft: boolean): void {
    const { tree, wanted, x, blockCount, blocks, rows, speeds } = this
    for (let block = 0; block < blockCount; block++) {
      if (tree.inTree[block] === 0) continue
      this.readWanted(block, soft)
      for (let i = 0; i < blocks[BLOCK * block + COUNT]; i++) wanted[speeds * block + i] = x[i]
    }
    tree.solve(this, wanted)
    for (let block = 0; block < blockCount; block++) {
      if (tree.inTree[block] === 0) continue
      const first = blocks[BLOCK * block + FIRST]
      const count = blocks[BLOCK * block + COUNT]
      for (let i = 0; i < count; i++) {
        const tail = this.tail(first + i)
        x[i] = wanted[speeds * block + i]
        rows[tail + IMPULSE] += x[i]
      }
      this.apply(block, count)
    }
  }

  /** Writes by how much the rows of a block are to change, in a pass, to `x`. */
  private readWanted(block: number, soft: boolean): void {
    const { rows, blocks, width, x } = this
    const { data: bodies } = this.bodyRows
    const { speeds, body } = this.form
    const at = BLOCK * block
    const first = blocks[at + FIRST]
    const count = blocks[at + COUNT]
    const a = body * blocks[at + BODY_A]
    const b = body * blocks[at + BODY_B]
    const rate = soft ? RATE : RELAX_RATE
    for (let i = 0; i < count; i++) {
      const row = width * (first + i)
      const tail = row + 4 * speeds
      let speed = rows[tail + rate] + rows[tail + GIVE] * rows[tail + ANSWER] * rows[tail + IMPULSE]
      for (let n = 0; n < speeds; n++) {
        speed += rows[row + n] * bodies[a + n] + rows[row + speeds + n] * bodies[b + n]
      }
      x[i] = -speed
    }
  }

  private solveBlock(block: number, time: Float64Array, soft: boolean): void {
    const { rows, blocks, x, factors, most, speeds } = this
    const first = blocks[BLOCK * block + FIRST]
    const count = blocks[BLOCK * block + COUNT]
    this.readWanted(block, soft)
    backSubstitute(factors, speeds * speeds * block, x, 0, count, speeds)
    if (count === 1) {
      const tail = this.tail(first)
      const before = rows[tail + IMPULSE]
      let after = before + x[0]
      if (after < rows[tail + LOW]) after = rows[tail + LOW]
      else if (after > rows[tail + HIGH]) after = rows[tail + HIGH]
      x[0] = after - before
    }
    if (most[block] < Infinity) this.bound(block, first, count)
    for (let i = 0; i < count; i++) {
      const tail = this.tail(first + i)
      rows[tail + IMPULSE] += x[i]
      const change = Math.abs(x[i]) * rows[tail + ANSWER]
      if (change > time[CHANGE]) time[CHANGE] = change
    }
    this.apply(block, count)
  }

  /** Holds the impulse of a block within the most that it can be. */
  private bound(block: number, first: number, count: number): void {
    const { rows, x, most } = this
    let square = 0
    for (let i = 0; i < count; i++) {
      const sum = rows[this.tail(first + i) + IMPULSE] + x[i]
      square += sum * sum
    }
    if (square <= most[block] * most[block]) return
    const part = most[block] / Math.sqrt(square)
    for (let i = 0; i < count; i++) {
      const before = rows[this.tail(first + i) + IMPULSE]
      x[i] = (before + x[i]) * part - before
    }
  }

  /** Gives the two bodies of a block the impulses in `x`. */
  private apply(block: number, count: number): void {
    const { rows, blocks, width, x } = this
    const { data: bodies } = this.bodyRows
    const { speeds, body } = this.form
    const at = BLOCK * block
    const a = body * blocks[at + BODY_A]
    const b = body * blocks[at + BODY_B]
    for (let i = 0; i < count; i++) {
      const row = width * (blocks[at + FIRST] + i) + 2 * speeds
      const impulse = x[i]
      if (impulse === 0) continue
      for (let n = 0; n < speeds; n++) {
        bodies[a + n] += rows[row + n] * impulse
        bodies[b + n] += rows[row + speeds + n] * impulse
      }
    }
  }

  sum(): void {
    const { rows, blocks, width, loads } = this
    const { speeds, axes } = this.form
    for (let block = 0; block < this.blockCount; block++) {
      const at = BLOCK * block
      const load = 2 * axes * blocks[at + JOINT]
      for (let i = 0; i < blocks[at + COUNT]; i++) {
        const row = width * (blocks[at + FIRST] + i)
        const tail = row + 4 * speeds
        const impulse = rows[tail + IMPULSE]
        if (rows[tail + TURNING] === 0)
          for (let k = 0; k < axes; k++) loads[load + k] += rows[row + speeds + k] * impulse
        else for (let k = axes; k < speeds; k++) loads[load + k] += rows[row + speeds + k] * impulse
      }
    }
    this.lookAhead()
  }

  finish(): void {}

  readBack(): void {
    const { rows, active, loads, book, dt } = this
    const { axes, speeds } = this.form
    const { impulses, load, settings, flags } = book
    for (let i = 0; i < this.rowCount; i++) {
      const tail = this.tail(i)
      impulses.data[rows[tail + PLACE]] = rows[tail + IMPULSE]
    }
    for (let i = 0; i < this.count; i++) {
      const joint = active[ACTIVE * i + SLOT]
      const from = 2 * axes * i
      const to = 2 * joint
      load.data[to + FORCE] = load.data[to + TORQUE] = 0
      for (let k = 0; k < speeds; k++) {
        load.data[to + (k < axes ? FORCE : TORQUE)] += loads[from + k] * loads[from + k]
      }
      load.data[to + FORCE] = Math.sqrt(load.data[to + FORCE]) / dt
      load.data[to + TORQUE] = Math.sqrt(load.data[to + TORQUE]) / dt
      const at = SETTINGS * joint
      const broken =
        load.data[to + FORCE] > settings.data[at + BREAK_FORCE] ||
        load.data[to + TORQUE] > settings.data[at + BREAK_TORQUE]
      if (broken) flags.data[joint] |= BROKEN
      this.measureAfter(joint)
    }
  }

  joinIslands(islands: Islands): void {
    const { active, book, population } = this
    for (let i = 0; i < this.count; i++) {
      const at = ACTIVE * i
      const joint = active[at + SLOT]
      const one = book.one.data[joint]
      const two = book.two.data[joint]
      if (one === WORLD || two === WORLD) continue
      joinBodies(islands, population.type, one, two, active[at + ROW_A] !== 0, active[at + ROW_B] !== 0)
    }
  }

  private makeRoom(): void {
    const { axes } = this.form
    if (ACTIVE * this.count > this.active.length) this.active = widerInts(this.active)
    if (2 * axes * this.count > this.loads.length) this.loads = wider(this.loads)
  }

  private widenBlocks(): void {
    this.blocks = widerInts(this.blocks)
    this.most = wider(this.most)
    this.factors = wider(this.factors)
  }
}

function wider(data: Float64Array): Float64Array<ArrayBuffer> {
  const twice = new Float64Array(2 * data.length)
  twice.set(data)
  return twice
}

function widerInts(data: Int32Array): Int32Array<ArrayBuffer> {
  const twice = new Int32Array(2 * data.length)
  twice.set(data)
  return twice
}
