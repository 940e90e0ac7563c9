/** The reference for tiles: cell by cell. */
import { polygon, type Shape2, type TileKind } from '../../src/2d/index.ts'

type P = { readonly x: number; readonly y: number }

/** Kinds of every sort: full ones of two materials, slopes, halves, slivers, a zone, a ledge. */
export const KINDS = {
  '#': {},
  '=': { friction: 0.1 },
  F: { firm: true },
  '/': {
    shape: [
      { x: 0, y: 0 },
      { x: 1, y: 0 },
      { x: 1, y: 1 },
    ],
  },
  '\\': {
    shape: [
      { x: 0, y: 0 },
      { x: 1, y: 0 },
      { x: 0, y: 1 },
    ],
  },
  _: {
    shape: [
      { x: 0, y: 0 },
      { x: 1, y: 0 },
      { x: 1, y: 0.5 },
      { x: 0, y: 0.5 },
    ],
  },
  l: {
    shape: [
      { x: 0, y: 0.25 },
      { x: 0.5, y: 0.25 },
      { x: 0.5, y: 1 },
      { x: 0, y: 0.75 },
    ],
  },
  '~': { response: 'sense' },
  '-': { oneWay: { x: 0, y: 1 } },
} satisfies Record<string, TileKind>

export const SIGNS = ['.', ...Object.keys(KINDS)] as const

const FULL = [
  { x: 0, y: 0 },
  { x: 1, y: 0 },
  { x: 1, y: 1 },
  { x: 0, y: 1 },
]

/** The corners of the tile of a cell, about the lower left of the grid; null for none. */
export function cornersOf(rows: readonly string[], cell: number, column: number, row: number): P[] | null {
  const sign = rows[row]?.[column] ?? '.'
  if (sign === '.') return null
  const kind: TileKind = KINDS[sign as keyof typeof KINDS]
  const shape = kind.shape === undefined || kind.shape === 'full' ? FULL : kind.shape
  const y = rows.length - 1 - row
  return shape.map((p) => ({ x: (column + p.x) * cell, y: (y + p.y) * cell }))
}

/** Every tile that presses from all sides, as a polygon by itself. */
export function solidTiles(rows: readonly string[], cell: number): Shape2[] {
  const found: Shape2[] = []
  rows.forEach((line, row) => {
    ;[...line].forEach((sign, column) => {
      const corners = cornersOf(rows, cell, column, row)
      if (corners !== null && sign !== '~' && sign !== '-') found.push(polygon(corners))
    })
  })
  return found
}

/** Where a place lies about the tile of the cell that it is in: 1 within, 0 on its edge, -1 outside of it, by sides. */
export function within(rows: readonly string[], cell: number, p: P, counts: (sign: string) => boolean): number {
  let most = -1
  rows.forEach((line, row) => {
    ;[...line].forEach((sign, column) => {
      if (!counts(sign)) return
      const corners = cornersOf(rows, cell, column, row)
      if (corners === null) return
      const least = Math.min(
        ...corners.map((a, i) => {
          const b = corners[(i + 1) % corners.length]
          return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x)
        }),
      )
      most = Math.max(most, Math.sign(Math.abs(least) < 1e-6 * cell * cell ? 0 : least))
    })
  })
  return most
}

/** How often loops go round a place, counter-clockwise: 1 within a solid whose outline they are. */
export function turnsAbout(loops: readonly (readonly P[])[], p: P): number {
  let turns = 0
  for (const loop of loops) {
    loop.forEach((a, i) => {
      const b = loop[(i + 1) % loop.length]
      const side = (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x)
      if (a.y <= p.y && b.y > p.y && side > 0) turns++
      if (a.y > p.y && b.y <= p.y && side < 0) turns--
    })
  }
  return turns
}

/** Twice the area within loops. */
export function twiceArea(loops: readonly (readonly P[])[]): number {
  let sum = 0
  for (const loop of loops) {
    loop.forEach((a, i) => {
      const b = loop[(i + 1) % loop.length]
      sum += a.x * b.y - a.y * b.x
    })
  }
  return sum
}

/** The number of edges that an outline of full tiles must have: one for each stretch of free sides in line, and on the same side of the solid. */
export function fewestEdges(rows: readonly string[]): number {
  const is = (column: number, row: number): boolean => (rows[row]?.[column] ?? '.') === '#'
  let count = 0
  const columns = rows[0].length
  for (let row = 0; row <= rows.length; row++) {
    for (let column = 0; column <= columns; column++) {
      // A corner of the outline is where its two sides turn: one cell of the four about it, or three, or two across from each other.
      const four = [is(column - 1, row - 1), is(column, row - 1), is(column - 1, row), is(column, row)]
      const solid = four.filter((each) => each).length
      if (solid === 1 || solid === 3) count++
      else if (solid === 2 && four[0] === four[3]) count += 2
    }
  }
  // A loop has as many edges as corners.
  return count
}
