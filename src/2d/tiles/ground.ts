/**
 * The grid of a body: what its tiles are now, and the colliders that they belong to, one for each behaviour. A change is noted, and brought in
 * chunk by chunk before the next step or query.
 */

import type { StateVisitor } from '../../core/save/state.ts'
import { finite } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import type { Kernel2 } from '../kernel.ts'
import { writePose } from '../shapes/place.ts'
import type { Tile, Tiles } from '../shapes/shape.ts'
import type { Vec2 } from '../vector.ts'
import { type Carved, type CarveOptions, carve } from './carving.ts'
import { piecesOfChunk } from './chunks.ts'
import { shapeOf } from './form.ts'
import { CHUNK, Grid } from './grid.ts'
import type { Kind } from './kinds.ts'
import { type GroundParts, made } from './made.ts'
import { outlineOf } from './outline.ts'
import { WayOut } from './wayOut.ts'

/** A collider of a grid, as far as that knows it. */
export interface GroundCollider {
  readonly slot: number
  readonly alive: boolean
  readonly at: Vec2
  readonly angle: number
  readonly body: { readonly slot: number; readonly type: string }
}

/** What a hit says of the place where it is. */
export interface PlacedHit {
  part: number
  tile: Tile | null
  readonly point: Vec2 | null
  readonly normal: Vec2 | null
}

/** The world of a grid. */
interface GroundHost {
  readonly kernel: Kernel2
  weigh(body: number): void
}

/** Cosine of the angle within which a normal is that of an edge. */
const ON_EDGE = 0.9999

export class Ground {
  readonly grid: Grid
  /** The shapes that it begins with, by their behaviour. */
  readonly shapes: readonly Tiles[]
  private host: GroundHost | null = null
  private readonly colliders: (GroundCollider | null)[] = []
  /** x, y of each normal that an edge can have, about the grid: upwards first. */
  private readonly normals: readonly number[]
  private readonly dirty = new Set<number>()
  /** Counts the changes; the shapes of now, and the version that they are of. */
  private version = 0
  private readonly made: { shape: Tiles; version: number }[] = []
  private readonly outlines: { loops: readonly (readonly Vec2[])[]; version: number }[] = []
  /** Of all its colliders within their body. */
  private readonly pose = new Float64Array(5)
  private readonly local = new Float64Array(2)

  constructor(grid: Grid) {
    this.grid = grid
    this.normals = normalsOf(grid.kinds)
    // What is handed out stays as it is, whatever becomes of the tiles.
    const first = grid.copy()
    this.shapes = grid.groups.map((_, group) => shapeOf(first, group, this, grow))
  }

  /** What it is made from again. */
  parts(): GroundParts {
    const { cell, columns, rows, kinds, groups, cells } = this.grid
    return [cell, columns, rows, kinds, groups, cells]
  }

  /** A collider takes over the tiles of a behaviour. */
  attach(group: number, collider: GroundCollider, host: GroundHost): void {
    this.colliders[group] = collider
    this.host = host
    host.kernel.wayOut ??= new WayOut(host.kernel)
    writePose(collider.at, collider.angle, this.pose)
  }

  /** Its state, once no change waits. */
  visit(v: StateVisitor): void {
    v.numbers(this.grid.cells)
    this.version = v.number(this.version)
    // What was made of other tiles is not what these give.
    v.copy(
      () => null,
      () => {
        this.made.length = 0
        this.outlines.length = 0
      },
    )
  }

  /** A world that shows the past has taken in a grid of then. */
  showIn(kernel: Kernel2, collider: number, grid: Grid): void {
    kernel.wayOut ??= new WayOut(kernel)
    kernel.tilesThen ??= new Map()
    kernel.tilesThen.set(collider, grid)
  }

  /** Whether a collider is the first of those that there were from the start. */
  isFirst(collider: GroundCollider): boolean {
    return this.colliders.find((each) => each !== null && each !== undefined) === collider
  }

  /** Brings the tiles of a behaviour into the world. */
  bringIn(group: number, slot: number, pose: Float64Array, kernel: Kernel2): void {
    const { grid } = this
    const { broadPhase } = kernel
    broadPhase.addRuns(slot, grid.chunks, this.reachOf(pose))
    for (let chunk = 0; chunk < grid.chunks; chunk++) {
      const { pieces, keys } = piecesOfChunk(grid, chunk, group)
      if (pieces.length > 0) broadPhase.setRun(slot, chunk, pieces, keys, pose)
    }
  }

  /** How far the corners of the grid are from the origin of its body. */
  private reachOf(pose: Float64Array): number {
    const { cell, columns, rows } = this.grid
    let reach = 0
    for (const x of [0, columns * cell]) {
      for (const y of [0, rows * cell]) {
        const px = pose[0] + pose[3] * x - pose[4] * y
        const py = pose[1] + pose[4] * x + pose[3] * y
        reach = Math.max(reach, Math.sqrt(px * px + py * py))
      }
    }
    return reach
  }

  /** The shape of the tiles of a behaviour as they are now. */
  shapeOf(group: number): Tiles {
    if (this.version === 0) return this.shapes[group]
    const kept = this.made[group]
    if (kept?.version === this.version) return kept.shape
    // What is handed out stays as it is.
    const shape = shapeOf(this.grid.copy(), group, null, grow)
    this.made[group] = { shape, version: this.version }
    return shape
  }

  /** The loops of the tiles of a behaviour, as they are now. */
  outlineOf(group: number): readonly (readonly Vec2[])[] {
    const kept = this.outlines[group]
    if (kept?.version === this.version) return kept.loops
    const loops = Object.freeze(outlineOf(this.grid, group).map((loop) => Object.freeze(loop)))
    this.outlines[group] = { loops, version: this.version }
    return loops
  }

  /** The sign of a tile. Throws `bad-argument` outside of the grid. */
  tileAt(column: number, row: number): string {
    this.check(column, row)
    return this.grid.signOf(this.grid.at(column, row))
  }

  /** Makes a tile another one. Returns whether that changed anything. */
  setTile(column: number, row: number, sign: unknown): boolean {
    this.check(column, row)
    const changed = this.put(column, row, this.grid.numberOf(sign, 'setTile'))
    if (changed) this.settle()
    return changed
  }

  /** Writes a tile, and notes which chunks are to be made anew. */
  put(column: number, row: number, number: number): boolean {
    const { grid, dirty } = this
    const at = row * grid.columns + column
    if (grid.cells[at] === number) return false
    grid.cells[at] = number
    this.version++
    if (dirty.size === 0) this.host?.kernel.broadPhase.pending.push(this)
    dirty.add(grid.chunkOf(column, row))
    // The edges of its neighbours may become inner ones, or cease to be.
    const [x, y] = [column % CHUNK, row % CHUNK]
    if (x === 0 && column > 0) dirty.add(grid.chunkOf(column - 1, row))
    if (x === CHUNK - 1 && column + 1 < grid.columns) dirty.add(grid.chunkOf(column + 1, row))
    if (y === 0 && row > 0) dirty.add(grid.chunkOf(column, row - 1))
    if (y === CHUNK - 1 && row + 1 < grid.rows) dirty.add(grid.chunkOf(column, row + 1))
    return true
  }

  /** After changes: a dynamic body is weighed at once. */
  settle(): void {
    for (const collider of this.colliders) {
      if (collider?.alive !== true || collider.body.type !== 'dynamic') continue
      this.flush()
      this.host?.weigh(collider.body.slot)
      return
    }
  }

  /** Brings the changes into the world. */
  flush(): void {
    const { dirty, colliders, grid, pose, host } = this
    if (host === null || dirty.size === 0) return
    const { broadPhase } = host.kernel
    for (const chunk of [...dirty].sort((a, b) => a - b)) {
      colliders.forEach((collider, group) => {
        if (collider?.alive !== true) return
        const { pieces, keys } = piecesOfChunk(grid, chunk, group)
        broadPhase.setRun(collider.slot, chunk, pieces, keys, pose)
      })
    }
    dirty.clear()
    for (const collider of colliders) if (collider?.alive === true) host.kernel.population.reshaped(collider.slot)
  }

  /** Takes tiles away where a shape is. */
  carve(collider: GroundCollider, options: CarveOptions): Carved {
    return carve(this, collider, options)
  }

  /** The shape of tiles that were taken out. */
  pieceOf(grid: Grid): Tiles<never> {
    return shapeOfGrid(grid)
  }

  /** Says of a hit which tile of a behaviour it is on, and on which of its edges. */
  describe(
    group: number,
    collider: GroundCollider,
    hit: PlacedHit,
    around: Float64Array | null,
    kernel: Kernel2,
  ): void {
    const { local } = this
    const grid = kernel.tilesThen?.get(collider.slot) ?? this.grid
    let [nx, ny] = [0, 0]
    if (hit.point !== null && hit.normal !== null) {
      this.toLocal(collider, hit.point.x, hit.point.y, kernel)
      const [cos, sin] = this.turnOf(collider, kernel)
      nx = cos * hit.normal.x + sin * hit.normal.y
      ny = cos * hit.normal.y - sin * hit.normal.x
    } else if (around !== null) this.toLocal(collider, (around[0] + around[2]) / 2, (around[1] + around[3]) / 2, kernel)
    const at = this.nearest(grid, group, local[0], local[1], nx, ny)
    hit.part = at
    if (at < 0) {
      hit.tile = null
      return
    }
    const number = grid.cells[at]
    hit.tile ??= { column: 0, row: 0, kind: '', edge: -1 }
    hit.tile.column = at % grid.columns
    hit.tile.row = Math.floor(at / grid.columns)
    hit.tile.kind = grid.signOf(number)
    hit.tile.edge = edgeAlong(grid.kinds[number - 1].corners, nx, ny)
  }

  /** The tile of a behaviour that is nearest to a place about the grid, a little behind it; -1 for none near by. */
  nearest(grid: Grid, group: number, x: number, y: number, nx: number, ny: number): number {
    const { cell } = grid
    const px = x - nx * cell * BEHIND
    const py = y - ny * cell * BEHIND
    const column = Math.min(Math.max(grid.columnAt(px), 0), grid.columns - 1)
    const row = Math.min(Math.max(grid.rowAt(py), 0), grid.rows - 1)
    // Mostly it is the cell itself; else one around it, ring by ring.
    if (grid.isOf(grid.at(column, row), group)) return row * grid.columns + column
    let best = -1
    let least = Infinity
    const most = Math.max(grid.columns, grid.rows)
    for (let ring = 1; ring <= most && best < 0; ring++) {
      for (let r = row - ring; r <= row + ring; r++) {
        const step = r === row - ring || r === row + ring ? 1 : 2 * ring
        for (let c = column - ring; c <= column + ring; c += step) {
          if (!grid.isOf(grid.at(c, r), group)) continue
          const dx = Math.max(c * cell - px, px - (c + 1) * cell, 0)
          const low = grid.floorOf(r)
          const dy = Math.max(low - py, py - low - cell, 0)
          const square = dx * dx + dy * dy
          if (square >= least) continue
          least = square
          best = r * grid.columns + c
        }
      }
    }
    return best
  }

  /** Writes a place of the world, seen from the grid of a collider, to `local`. */
  toLocal(collider: GroundCollider, x: number, y: number, kernel = this.host!.kernel): Float64Array {
    const { local } = this
    const { place, turn } = kernel.poses
    const body = collider.body.slot
    const [cos, sin] = [turn.data[3 * body + 1], turn.data[3 * body + 2]]
    const dx = x - place.data[2 * body]
    const dy = y - place.data[2 * body + 1]
    const bx = cos * dx + sin * dy - this.pose[0]
    const by = cos * dy - sin * dx - this.pose[1]
    local[0] = this.pose[3] * bx + this.pose[4] * by
    local[1] = this.pose[3] * by - this.pose[4] * bx
    return local
  }

  /** A place of the grid of a collider in the world. */
  toWorld(collider: GroundCollider, x: number, y: number): Vec2 {
    const { place, turn } = this.host!.kernel.poses
    const body = collider.body.slot
    const bx = this.pose[0] + this.pose[3] * x - this.pose[4] * y
    const by = this.pose[1] + this.pose[4] * x + this.pose[3] * y
    const [cos, sin] = [turn.data[3 * body + 1], turn.data[3 * body + 2]]
    return {
      x: place.data[2 * body] + cos * bx - sin * by,
      y: place.data[2 * body + 1] + sin * bx + cos * by,
    }
  }

  /** Radians by which the grid of a collider is turned in the world. */
  angleOf(collider: GroundCollider): number {
    return this.host!.kernel.poses.turn.data[3 * collider.body.slot] + collider.angle
  }

  /** x, y of each normal that edges of tiles have, in the world. */
  edgeNormals(collider: GroundCollider, kernel: Kernel2): readonly number[] {
    const [cos, sin] = this.turnOf(collider, kernel)
    const { normals } = this
    const turned: number[] = []
    for (let k = 0; k < normals.length; k += 2) {
      turned.push(cos * normals[k] - sin * normals[k + 1], sin * normals[k] + cos * normals[k + 1])
    }
    return turned
  }

  /** Cosine and sine of `angleOf`. */
  private turnOf({ body }: GroundCollider, kernel: Kernel2): readonly [number, number] {
    const { turn } = kernel.poses
    const [cos, sin] = [turn.data[3 * body.slot + 1], turn.data[3 * body.slot + 2]]
    const { pose } = this
    return [cos * pose[3] - sin * pose[4], sin * pose[3] + cos * pose[4]]
  }

  private check(column: unknown, row: unknown): void {
    const { columns, rows } = this.grid
    const x = finite(column, "'column' of a tile")
    const y = finite(row, "'row' of a tile")
    if (Number.isInteger(x) && Number.isInteger(y) && x >= 0 && y >= 0 && x < columns && y < rows) return
    throw new KeenError(
      'bad-argument',
      `there is no tile in column ${show(column)}, row ${show(row)}: the grid has columns 0 to ${columns - 1} and rows 0 to ${rows - 1}, the first on top`,
    )
  }
}

function normalsOf(kinds: readonly Kind[]): number[] {
  const normals = [0, 1, 1, 0, -1, 0, 0, -1]
  for (const { corners, sides } of kinds) {
    sides.forEach((side, edge) => {
      if (side >= 0) return
      const i = 2 * edge
      const j = (i + 2) % corners.length
      const ex = corners[j] - corners[i]
      const ey = corners[j + 1] - corners[i + 1]
      const size = Math.sqrt(ex * ex + ey * ey)
      for (let k = 0; k < normals.length; k += 2) {
        if (ey * normals[k] - ex * normals[k + 1] > ON_EDGE * size) return
      }
      normals.push(ey / size, -ex / size)
    })
  }
  return normals
}

/** Part of a cell by which a place on an edge is taken to be within its tile. */
const BEHIND = 1e-6

/** The edge of a shape whose outward normal is that; -1 for none. */
function edgeAlong(corners: readonly number[], nx: number, ny: number): number {
  for (let i = 0; i < corners.length; i += 2) {
    const j = (i + 2) % corners.length
    const ex = corners[j] - corners[i]
    const ey = corners[j + 1] - corners[i + 1]
    if (ey * nx - ex * ny > ON_EDGE * Math.sqrt(ex * ex + ey * ey)) return i / 2
  }
  return -1
}

function grow(grid: Grid): readonly Tiles[] {
  return new Ground(grid).shapes
}

/** A grid as a shape of all that holds. */
export function shapeOfGrid(grid: Grid): Tiles<never> {
  return shapeOf(grid, -1, null, grow)
}

made.ground = (parts) => new Ground(new Grid(...parts))
