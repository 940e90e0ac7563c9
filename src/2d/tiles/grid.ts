/** A grid of tiles as numbers: which kind is where. The first row is the top one; the lower left corner is the origin. */
import { KeenError, show } from '../../core/util/errors.ts'
import { hint } from '../../core/util/suggestions.ts'
import type { Behaviour, Kind } from './kinds.ts'

/** Columns and rows of a chunk: so many are merged, and built anew when one of them changes. */
export const CHUNK = 32
/** What stands for no tile. */
export const EMPTY = '.'

/** Which way a neighbour is, by the side it is at: columns to the right, rows down. */
const RIGHTWARDS = [0, 1, 0, -1]
const DOWNWARDS = [1, 0, -1, 0]

export class Grid {
  readonly cell: number
  readonly columns: number
  readonly rows: number
  readonly kinds: readonly Kind[]
  readonly groups: readonly Behaviour[]
  /** Of each cell, row by row from the top: the number of its kind, from 1; 0 for none. */
  readonly cells: Uint8Array
  readonly chunkColumns: number
  readonly chunks: number
  /** Of each kind: its place in {@link kinds}, from 1. */
  private readonly bySign = new Map<string, number>()

  constructor(
    cell: number,
    columns: number,
    rows: number,
    kinds: readonly Kind[],
    groups: readonly Behaviour[],
    cells: Uint8Array,
  ) {
    this.cell = cell
    this.columns = columns
    this.rows = rows
    this.kinds = kinds
    this.groups = groups
    this.cells = cells
    this.chunkColumns = Math.ceil(columns / CHUNK)
    this.chunks = this.chunkColumns * Math.ceil(rows / CHUNK)
    kinds.forEach(({ sign }, index) => {
      this.bySign.set(sign, index + 1)
    })
    for (const empty of [EMPTY, ' ']) if (!this.bySign.has(empty)) this.bySign.set(empty, 0)
  }

  /** The same grid, to be changed by itself. */
  copy(): Grid {
    return new Grid(this.cell, this.columns, this.rows, this.kinds, this.groups, this.cells.slice())
  }

  /** The number of a sign; throws `bad-argument` for one that is no kind. */
  numberOf(sign: unknown, what: string): number {
    const number = typeof sign === 'string' ? this.bySign.get(sign) : undefined
    if (number !== undefined) return number
    const known = [...this.bySign.keys()].filter((each) => each !== ' ')
    const like = typeof sign === 'string' ? hint(sign, known) : `there are ${known.map(show).join(', ')}`
    throw new KeenError('bad-argument', `${what}: ${show(sign)} is no kind of tile; ${like}`)
  }

  /** The sign of a number. */
  signOf(number: number): string {
    return number === 0 ? EMPTY : this.kinds[number - 1].sign
  }

  /** The number of the kind in a cell; 0 outside of the grid. */
  at(column: number, row: number): number {
    if (column < 0 || row < 0 || column >= this.columns || row >= this.rows) return 0
    return this.cells[row * this.columns + column]
  }

  /** Whether a number is of a kind of that behaviour; -1 for all that hold. */
  isOf(number: number, group: number): boolean {
    if (number === 0) return false
    const own = this.kinds[number - 1].group
    return group < 0 ? this.groups[own].holds : own === group
  }

  chunkOf(column: number, row: number): number {
    return Math.floor(row / CHUNK) * this.chunkColumns + Math.floor(column / CHUNK)
  }

  /** The height of the lower side of a row. */
  floorOf(row: number): number {
    return (this.rows - 1 - row) * this.cell
  }

  /** Whether a side of a cell, from a place on it to another (0 to 1, along x or y), is hidden behind its neighbour. */
  isHidden(column: number, row: number, side: number, from: number, to: number, group: number): boolean {
    const number = this.at(column + RIGHTWARDS[side], row + DOWNWARDS[side])
    if (number === 0) return false
    const kind = this.kinds[number - 1]
    if (kind.group !== group && !(this.groups[kind.group].holds && this.groups[group].holds)) return false
    const facing = 2 * ((side + 2) % 4)
    return kind.covered[facing] <= from && kind.covered[facing + 1] >= to
  }

  /** Which cell a place about the grid is in: the column, which may be out of the grid. */
  columnAt(x: number): number {
    return Math.floor(x / this.cell)
  }

  /** Which cell a place about the grid is in: the row, which may be out of the grid. */
  rowAt(y: number): number {
    return this.rows - 1 - Math.floor(y / this.cell)
  }

  /** The rows as text. */
  text(): string[] {
    const rows: string[] = []
    for (let row = 0; row < this.rows; row++) {
      let line = ''
      for (let column = 0; column < this.columns; column++) line += this.signOf(this.at(column, row))
      rows.push(line)
    }
    return rows
  }
}
