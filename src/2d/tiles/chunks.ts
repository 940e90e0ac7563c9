/**
 * The pieces of a chunk: full tiles of one behaviour as few rectangles, each as wide as it goes and then as high; every other tile by
 * itself. Edges behind which the same solid goes on are marked as inner ones.
 */
import { CONVEX, HEAD, INNER } from '../shapes/layout.ts'
import type { Piece } from '../shapes/shape.ts'
import { CHUNK, type Grid } from './grid.ts'
import { BOTTOM, type Kind, LEFT, RIGHT, TOP } from './kinds.ts'

/** Pieces, and a number of each that is the same when the piece is. */
export interface Run {
  readonly pieces: Piece[]
  readonly keys: number[]
}

const taken = new Uint8Array(CHUNK * CHUNK)

/**
 * The pieces of the tiles of a behaviour in a chunk; of every solid one if it is left out. Cost: the tiles of a chunk.
 * @param group the number of the behaviour; -1 for all that hold
 */
export function piecesOfChunk(grid: Grid, chunk: number, group: number): Run {
  const run: Run = { pieces: [], keys: [] }
  const left = (chunk % grid.chunkColumns) * CHUNK
  const top = Math.floor(chunk / grid.chunkColumns) * CHUNK
  const columns = Math.min(CHUNK, grid.columns - left)
  const rows = Math.min(CHUNK, grid.rows - top)
  const { cells, kinds } = grid
  taken.fill(0)
  const isFree = (column: number, row: number, of: number): boolean => {
    if (taken[row * CHUNK + column] !== 0) return false
    const number = cells[(top + row) * grid.columns + left + column]
    return number !== 0 && kinds[number - 1].full && kinds[number - 1].group === of
  }
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const number = cells[(top + row) * grid.columns + left + column]
      if (taken[row * CHUNK + column] !== 0 || !grid.isOf(number, group)) continue
      const kind = kinds[number - 1]
      if (!kind.full) {
        addTile(grid, left + column, top + row, kind, chunk, run)
        continue
      }
      let width = 1
      while (column + width < columns && isFree(column + width, row, kind.group)) width++
      let height = 1
      for (; row + height < rows; height++) {
        let whole = true
        for (let k = 0; k < width && whole; k++) whole = isFree(column + k, row + height, kind.group)
        if (!whole) break
      }
      for (let down = 0; down < height; down++) {
        const at = (row + down) * CHUNK + column
        taken.fill(1, at, at + width)
      }
      addRectangle(grid, left + column, top + row, width, height, kind.group, chunk, run)
    }
  }
  return run
}

function addRectangle(
  grid: Grid,
  column: number,
  row: number,
  width: number,
  height: number,
  group: number,
  chunk: number,
  run: Run,
): void {
  const x0 = column * grid.cell
  const x1 = (column + width) * grid.cell
  const y0 = grid.floorOf(row + height - 1)
  const y1 = (grid.rows - row) * grid.cell
  let inner = 0
  if (isRowHidden(grid, column, row + height - 1, width, BOTTOM, group)) inner |= 1 << BOTTOM
  if (isColumnHidden(grid, column + width - 1, row, height, RIGHT, group)) inner |= 1 << RIGHT
  if (isRowHidden(grid, column, row, width, TOP, group)) inner |= 1 << TOP
  if (isColumnHidden(grid, column, row, height, LEFT, group)) inner |= 1 << LEFT
  const block = Float64Array.of(CONVEX + INNER * inner, 4, 0, x0, y0, x1, y0, x1, y1, x0, y1)
  const tile = row * grid.columns + column
  run.pieces.push({ block, part: chunk, child: -1 })
  run.keys.push(((tile * (CHUNK + 1) + width) * (CHUNK + 1) + height) * 16 + inner)
}

function isRowHidden(grid: Grid, column: number, row: number, width: number, side: number, group: number): boolean {
  for (let k = 0; k < width; k++) if (!grid.isHidden(column + k, row, side, 0, 1, group)) return false
  return true
}

function isColumnHidden(grid: Grid, column: number, row: number, height: number, side: number, group: number): boolean {
  for (let k = 0; k < height; k++) if (!grid.isHidden(column, row + k, side, 0, 1, group)) return false
  return true
}

function addTile(grid: Grid, column: number, row: number, kind: Kind, chunk: number, run: Run): void {
  const { corners, sides, covered, group } = kind
  const x = column
  const y = grid.rows - 1 - row
  const block = new Float64Array(HEAD + 1 + corners.length)
  let inner = 0
  sides.forEach((side, edge) => {
    if (side >= 0 && grid.isHidden(column, row, side, covered[2 * side], covered[2 * side + 1], group))
      inner |= 1 << edge
  })
  block[0] = CONVEX + INNER * inner
  block[1] = corners.length / 2
  for (let k = 0; k < corners.length; k += 2) {
    // Corners on the lines of the grid are where those of full tiles are, to the last bit.
    block[HEAD + 1 + k] = (x + corners[k]) * grid.cell
    block[HEAD + 2 + k] = (y + corners[k + 1]) * grid.cell
  }
  run.pieces.push({ block, part: chunk, child: -1 })
  run.keys.push(-((row * grid.columns + column) * 256 + grid.kinds.indexOf(kind)) * 65536 - inner - 1)
}
