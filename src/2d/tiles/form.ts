/** The shape that a grid makes, and its facts. */
import { Moments } from '../shapes/facts.ts'
import { CONVEX, HEAD } from '../shapes/layout.ts'
import type { Piece, ShapeFacts, Tiles } from '../shapes/shape.ts'
import type { Vec2 } from '../vector.ts'
import { piecesOfChunk } from './chunks.ts'
import type { Grid } from './grid.ts'
import type { Ground } from './ground.ts'
import type { TileFields } from './kinds.ts'
import { outlineOf } from './outline.ts'

export type { TileFields }

/**
 * The shape of the tiles of a behaviour.
 * @param grow what makes the shapes of a grid of its own, by their behaviour
 */
export function shapeOf(
  grid: Grid,
  group: number,
  ground: Ground | null,
  grow: (grid: Grid) => readonly Tiles[],
): Tiles<never> {
  let outline: readonly (readonly Vec2[])[] | null = null
  let pieces: readonly Piece[] | null = null
  return Object.freeze({
    kind: 'tiles',
    cell: grid.cell,
    columns: grid.columns,
    rows: grid.rows,
    ...factsOf(grid, group),
    get pieces() {
      pieces ??= allPieces(grid, group)
      return pieces
    },
    get outline() {
      outline ??= Object.freeze(outlineOf(grid, group).map((loop) => Object.freeze(loop)))
      return outline
    },
    text: () => grid.text(),
    grid,
    group,
    grow: () => grow(grid.copy()),
    ground,
  })
}

function allPieces(grid: Grid, group: number): readonly Piece[] {
  const found: Piece[] = []
  for (let chunk = 0; chunk < grid.chunks; chunk++) {
    for (const piece of piecesOfChunk(grid, chunk, group).pieces) found.push(piece)
  }
  return Object.freeze(found)
}

/** Area, centroid, inertia and bounds of the tiles of a behaviour. */
function factsOf(grid: Grid, group: number): Omit<ShapeFacts, 'pieces'> & { readonly count: number } {
  const { cell, columns, rows, kinds, cells } = grid
  const ofKind = kinds.map(({ corners }) => {
    const moments = new Moments()
    const block = new Float64Array(HEAD + 1 + corners.length)
    block[0] = CONVEX
    block[1] = corners.length / 2
    corners.forEach((each, i) => {
      block[HEAD + 1 + i] = each
    })
    moments.addRound(block)
    const [x, y] = [moments.x / moments.area, moments.y / moments.area]
    return { area: moments.area, x, y, own: moments.second - moments.area * (x * x + y * y) }
  })
  const sum = new Moments()
  let count = 0
  const min = { x: Infinity, y: Infinity }
  const max = { x: -Infinity, y: -Infinity }
  for (let row = 0; row < rows; row++) {
    const y = rows - 1 - row
    for (let column = 0; column < columns; column++) {
      const number = cells[row * columns + column]
      if (!grid.isOf(number, group)) continue
      const kind = kinds[number - 1]
      const { area, x, y: up, own } = ofKind[number - 1]
      count++
      sum.add(area, column + x, y + up, own)
      for (let i = 0; i < kind.corners.length; i += 2) {
        min.x = Math.min(min.x, (column + kind.corners[i]) * cell)
        min.y = Math.min(min.y, (y + kind.corners[i + 1]) * cell)
        max.x = Math.max(max.x, (column + kind.corners[i]) * cell)
        max.y = Math.max(max.y, (y + kind.corners[i + 1]) * cell)
      }
    }
  }
  const [x, y] = sum.area > 0 ? [sum.x / sum.area, sum.y / sum.area] : [0, 0]
  const square = cell * cell
  return {
    dimension: 2,
    count,
    area: sum.area * square,
    centroid: Object.freeze({ x: x * cell, y: y * cell }),
    inertia: Math.max(0, (sum.second - sum.area * (x * x + y * y)) * square * square),
    bounds: Object.freeze({ min: Object.freeze(min), max: Object.freeze(max) }),
  }
}

/** The cells of tiles and what is in them. */
export function gridOf(shape: Tiles): Grid {
  return shape.grid
}

/** The colliders that a grid becomes, in their order: what each has of its own, beside the fields of the collider that it is given as. */
export function tileBehaviours(shape: Tiles): readonly Readonly<TileFields>[] {
  return shape.grid.groups.map(({ fields }) => fields)
}
