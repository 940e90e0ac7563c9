/** Grids of tiles as shapes. */
import { finite, list, onlyFields, positive } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { LEAST_SIZE, SIZE } from '../../core/util/limits.ts'
import type { Tiles } from '../shapes/shape.ts'
import { EMPTY, Grid } from './grid.ts'
import { shapeOfGrid } from './ground.ts'
import { checkKinds, type TileKind } from './kinds.ts'

/** What a grid is made from: rows of text, or numbers row by row. */
export interface TilesSpec<L extends string = string> {
  /** Full size of a cell. Default 1. */
  readonly cell?: number | undefined
  /** One string a row, the first on top, one character a tile. `.` and the space are empty unless they are kinds. */
  readonly rows?: readonly string[] | undefined
  /** Instead of `rows`: the kinds as numbers, row by row from the top; 0 is empty, and the signs of kinds are the numbers. */
  readonly data?: ArrayLike<number> | undefined
  /** With `data`: how many columns there are. */
  readonly columns?: number | undefined
  /** What a sign, or a number, stands for. */
  readonly kinds: Readonly<Record<string, TileKind<L>>>
}

const FIELDS = ['cell', 'rows', 'data', 'columns', 'kinds'] as const
/** Columns and rows at most. */
const MOST = 16384

/**
 * A grid of tiles as one shape: solid inside, without edges between neighbours. The lower left corner is the origin. What is put on a body
 * has a grid of its own, changed by `collider.setTile` and `carve`; the shape itself stays as it is. Kinds that differ in layer, response or
 * material become further colliders of the same body. Cost: linear in the number of cells.
 * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`; the world says `unknown-layer` when it is added
 * @example tiles({ rows: ['..##', '.###', '####'], kinds: { '#': {} } })
 */
export function tiles<const L extends string = never>(spec: TilesSpec<L>): Tiles<L> {
  onlyFields(spec, FIELDS, 'tiles')
  const cell = positive(spec.cell ?? 1, "'cell' of tiles", SIZE, LEAST_SIZE)
  const { kinds, groups } = checkKinds(spec.kinds, 'tiles')
  if ((spec.rows === undefined) === (spec.data === undefined)) {
    throw new KeenError('bad-argument', "tiles take either 'rows' of text or 'data' with 'columns'")
  }
  if (spec.rows !== undefined && spec.columns !== undefined) {
    throw new KeenError('bad-argument', "'columns' of tiles belongs to 'data'; 'rows' are as long as they are")
  }
  const long = kinds.find(({ sign }) => [...sign].length !== 1)
  if (spec.rows !== undefined && long !== undefined) {
    throw new KeenError('bad-argument', `a sign of tiles in rows is one character, got ${show(long.sign)} in 'kinds'`)
  }
  const signs = spec.rows !== undefined ? readRows(spec.rows) : readData(spec)
  const columns = signs[0].length
  const cells = new Uint8Array(columns * signs.length)
  const grid = new Grid(cell, columns, signs.length, kinds, groups, cells)
  const numbers = new Map<string, number>()
  signs.forEach((row, y) => {
    for (let x = 0; x < columns; x++) {
      const sign = row[x]
      let number = numbers.get(sign)
      if (number === undefined) {
        number = grid.numberOf(sign, `row ${y}, column ${x} of tiles`)
        numbers.set(sign, number)
      }
      cells[y * columns + x] = number
    }
  })
  return shapeOfGrid(grid)
}

function readRows(rows: unknown): readonly (readonly string[])[] {
  const lines = list(rows, "'rows' of tiles").map((row, y) => {
    if (typeof row !== 'string')
      throw new KeenError('bad-argument', `rows[${y}] of tiles must be text, got ${show(row)}`)
    return [...row]
  })
  const columns = lines[0]?.length ?? 0
  lines.forEach((line, y) => {
    if (line.length === columns) return
    throw new KeenError(
      'bad-argument',
      `the rows of tiles must be equally long: rows[0] has ${columns} tiles, rows[${y}] has ${line.length}; fill up with '${EMPTY}'`,
    )
  })
  checkExtent(columns, lines.length)
  return lines
}

function readData({ data, columns }: TilesSpec): readonly (readonly string[])[] {
  const width = columns as number
  const count = (data as ArrayLike<number> | null)?.length ?? -1
  if (!Number.isInteger(width) || width < 1 || !Number.isInteger(count) || count < 0 || count % width !== 0) {
    throw new KeenError(
      'bad-argument',
      `'data' of tiles needs 'columns' that divide its length, got ${show(columns)} columns and ${count < 0 ? show(data) : count} numbers`,
    )
  }
  checkExtent(width, count / width)
  const numbers = Array.from(data as ArrayLike<number>, (each, i) =>
    each === 0 ? EMPTY : String(finite(each, `data[${i}] of tiles`)),
  )
  return Array.from({ length: count / width }, (_, y) => numbers.slice(y * width, (y + 1) * width))
}

function checkExtent(columns: number, rows: number): void {
  if (columns >= 1 && rows >= 1 && columns <= MOST && rows <= MOST) return
  throw new KeenError('bad-argument', `tiles have 1 to ${MOST} columns and rows, got ${columns} and ${rows}`)
}
