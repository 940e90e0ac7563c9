/**
 * The outline of the tiles of a behaviour: each edge of a tile runs with the solid on its left; where two run against each other they cancel,
 * also in part; what is left in line is joined, and traced to loops. Where two tiles meet at a corner only, loops turn so that they stay apart.
 */
import type { Vec2 } from '../vector.ts'
import type { Grid } from './grid.ts'

/** A part of a tile's edge that is free, in cells from the lower left: from, to. */
interface Edge {
  readonly ax: number
  readonly ay: number
  readonly bx: number
  readonly by: number
  used: boolean
}

/** Sine of the bend below which two edges are in line. */
const STRAIGHT = 1e-12

/**
 * The loops of a grid, each a list of corners, the solid on the left; outer ones run counter-clockwise, holes clockwise. Cost: the tiles
 * of the grid, and the edges of the outline.
 * @param group the number of a behaviour; -1 for all that hold, as one
 */
export function outlineOf(grid: Grid, group: number): Vec2[][] {
  const edges = freeEdges(grid, group)
  const starts = new Map<number, Edge[]>()
  for (const edge of edges) {
    const key = keyOf(edge.ax, edge.ay, grid)
    const there = starts.get(key)
    if (there === undefined) starts.set(key, [edge])
    else there.push(edge)
  }
  const loops: Vec2[][] = []
  for (const first of edges) {
    if (first.used) continue
    const loop: Edge[] = []
    for (let edge: Edge | undefined = first; edge !== undefined && !edge.used; ) {
      edge.used = true
      loop.push(edge)
      edge = nextOf(edge, starts.get(keyOf(edge.bx, edge.by, grid)) ?? [])
    }
    loops.push(cornersOf(loop, grid.cell))
  }
  return loops
}

/** A place in the grid as one number: corners of tiles may lie anywhere in a cell. */
function keyOf(x: number, y: number, grid: Grid): number {
  return Math.round(y * FINE) * (Math.round(grid.columns * FINE) + 1) + Math.round(x * FINE)
}

/** Parts of a cell that are told apart. */
const FINE = 65536

/** Of the free edges that begin where one ends, the one that turns most to the left: so corners of two tiles that only touch stay apart. */
function nextOf(edge: Edge, there: readonly Edge[]): Edge | undefined {
  let best: Edge | undefined
  let most = -Infinity
  for (const next of there) {
    if (next.used) continue
    const turn = turnOf(edge, next)
    if (turn > most) {
      most = turn
      best = next
    }
  }
  return best
}

/** How far left one edge turns from another: grows with the angle, from -2 to 2. */
function turnOf(one: Edge, other: Edge): number {
  const [ux, uy] = [one.bx - one.ax, one.by - one.ay]
  const [vx, vy] = [other.bx - other.ax, other.by - other.ay]
  const size = Math.sqrt((ux * ux + uy * uy) * (vx * vx + vy * vy))
  const cosine = (ux * vx + uy * vy) / size
  return ux * vy - uy * vx >= 0 ? 1 - cosine : cosine - 1
}

/** The corners of a loop of edges, those in line left out. */
function cornersOf(loop: readonly Edge[], cell: number): Vec2[] {
  const corners: Vec2[] = []
  loop.forEach((edge, i) => {
    const before = loop[(i + loop.length - 1) % loop.length]
    const [ux, uy] = [before.bx - before.ax, before.by - before.ay]
    const [vx, vy] = [edge.bx - edge.ax, edge.by - edge.ay]
    const bend = ux * vy - uy * vx
    if (Math.abs(bend) <= STRAIGHT * Math.sqrt((ux * ux + uy * uy) * (vx * vx + vy * vy))) return
    corners.push(Object.freeze({ x: edge.ax * cell, y: edge.ay * cell }))
  })
  return corners
}

/** The edges of all tiles of a behaviour, less what is hidden behind its own. */
function freeEdges(grid: Grid, group: number): Edge[] {
  const edges: Edge[] = []
  const add = (ax: number, ay: number, bx: number, by: number): void => {
    edges.push({ ax, ay, bx, by, used: false })
  }
  for (let row = 0; row < grid.rows; row++) {
    const y = grid.rows - 1 - row
    for (let column = 0; column < grid.columns; column++) {
      const number = grid.cells[row * grid.columns + column]
      if (!grid.isOf(number, group)) continue
      const { corners, sides } = grid.kinds[number - 1]
      for (let i = 0; i < corners.length; i += 2) {
        const j = (i + 2) % corners.length
        const side = sides[i / 2]
        const [ax, ay, bx, by] = [column + corners[i], y + corners[i + 1], column + corners[j], y + corners[j + 1]]
        if (side < 0) {
          add(ax, ay, bx, by)
          continue
        }
        const beside = grid.at(
          column + (side === 1 ? 1 : side === 3 ? -1 : 0),
          row + (side === 0 ? 1 : side === 2 ? -1 : 0),
        )
        if (!grid.isOf(beside, group)) {
          add(ax, ay, bx, by)
          continue
        }
        // What is left of it before and behind what the neighbour covers.
        const { covered } = grid.kinds[beside - 1]
        const facing = 2 * ((side + 2) % 4)
        const level = side === 0 || side === 2
        const origin = level ? column : y
        const low = origin + covered[facing]
        const high = origin + covered[facing + 1]
        const from = level ? ax : ay
        const to = level ? bx : by
        const rising = to > from
        const [least, most] = rising ? [from, to] : [to, from]
        if (!(high > low) || high <= least || low >= most) {
          add(ax, ay, bx, by)
          continue
        }
        const put = (p: number, q: number): void => {
          if (!(q > p)) return
          const [s, e] = rising ? [p, q] : [q, p]
          if (level) add(s, ay, e, by)
          else add(ax, s, bx, e)
        }
        put(least, Math.min(low, most))
        put(Math.max(high, least), most)
      }
    }
  }
  return edges
}
