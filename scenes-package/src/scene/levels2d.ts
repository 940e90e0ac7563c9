/** Mistakes of levels: what only grids of tiles do wrong. */
import type { Tiles } from 'keen-sentry/2d'
import { gridOf, tileBehaviours } from 'keen-sentry/internal'

/** Cells of a grid: what is a wall, row by row from the top. */
interface Walls {
  readonly columns: number
  readonly rows: number
  readonly isWall: readonly boolean[]
}

/** A hole in a grid: the cell where it was found first, and how wide it is there. */
export interface Hole {
  readonly column: number
  readonly row: number
  readonly width: number
}

/** What a grid has of each kind. */
export function countKinds(tiles: Tiles): Map<string, number> {
  const counts = new Map<string, number>()
  const { columns, rows, kinds, cells } = gridOf(tiles)
  for (let i = 0; i < columns * rows; i++) {
    if (cells[i] === 0) continue
    const { sign } = kinds[cells[i] - 1]
    counts.set(sign, (counts.get(sign) ?? 0) + 1)
  }
  return counts
}

/**
 * Holes that lead from one open place to another, and are narrower than that. Full tiles that press are walls, all else is open; a notch that
 * leads nowhere is no hole. Cost: the cells.
 */
export function narrowHoles(tiles: Tiles, least: number): Hole[] {
  const walls = wallsOf(tiles)
  const { columns, rows } = walls
  const width = narrowness(walls)
  const isNarrow = (i: number): boolean => width[i] > 0 && width[i] * tiles.cell < least
  const holes: Hole[] = []
  const seen = new Uint8Array(columns * rows)
  for (let start = 0; start < width.length; start++) {
    if (seen[start] !== 0 || !isNarrow(start)) continue
    const mouths = new Set<number>()
    const cells = [start]
    seen[start] = 1
    for (let k = 0; k < cells.length; k++) {
      for (const next of neighbours(cells[k], columns, rows)) {
        if (walls.isWall[next] || seen[next] !== 0) continue
        if (!isNarrow(next)) mouths.add(next)
        else {
          seen[next] = 1
          cells.push(next)
        }
      }
    }
    if (countClusters(mouths, columns) < 2) continue
    holes.push({ column: start % columns, row: Math.floor(start / columns), width: width[start] * tiles.cell })
  }
  return holes
}

function wallsOf(tiles: Tiles): Walls {
  const { columns, rows, cells, kinds, groups } = gridOf(tiles)
  const isWall = Array.from({ length: columns * rows }, (_, i) => {
    const kind = cells[i] === 0 ? null : kinds[cells[i] - 1]
    return kind?.full === true && groups[kind.group].holds
  })
  return { columns, rows, isWall }
}

/** Of each open cell: how many open cells lie between two walls in its row or its column, the fewer; 0 where there are not two walls. */
function narrowness({ columns, rows, isWall }: Walls): Int32Array {
  const width = new Int32Array(columns * rows)
  const line = (first: number, step: number, count: number): void => {
    let wall = -1
    for (let k = 0; k < count; k++) {
      if (!isWall[first + k * step]) continue
      for (let j = wall + 1; j < k && wall >= 0; j++) {
        const at = first + j * step
        const open = k - wall - 1
        width[at] = width[at] === 0 ? open : Math.min(width[at], open)
      }
      wall = k
    }
  }
  for (let row = 0; row < rows; row++) line(row * columns, 1, columns)
  for (let column = 0; column < columns; column++) line(column, columns, rows)
  return width
}

function neighbours(cell: number, columns: number, rows: number): number[] {
  const column = cell % columns
  const found: number[] = []
  if (column > 0) found.push(cell - 1)
  if (column + 1 < columns) found.push(cell + 1)
  if (cell >= columns) found.push(cell - columns)
  if (cell + columns < columns * rows) found.push(cell + columns)
  return found
}

/** How many separate clusters cells make that touch, corners too. */
function countClusters(cells: ReadonlySet<number>, columns: number): number {
  const left = new Set(cells)
  let count = 0
  for (const start of cells) {
    if (!left.delete(start)) continue
    count++
    const queue = [start]
    for (const at of queue) {
      for (const next of [-columns - 1, -columns, 1 - columns, -1, 1, columns - 1, columns, columns + 1]) {
        if (left.delete(at + next)) queue.push(at + next)
      }
    }
  }
  return count
}

/** The fields of a collider, once for each collider that its tiles become. */
export function tileParts<S extends { readonly layer: string | readonly string[] }>(spec: S, tiles: Tiles): S[] {
  return tileBehaviours(tiles).map(({ layer, sensor }) => ({
    ...spec,
    ...(layer === undefined ? {} : { layer: layer as S['layer'] }),
    ...(sensor === undefined ? {} : { sensor }),
  }))
}
