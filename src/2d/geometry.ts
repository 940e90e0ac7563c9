/** The pieces of 2D: their blocks (see shapes/layout.ts) and bounds in the world. */
import { COULD_BE_UPRIGHT, PieceTable, UPRIGHT } from '../core/state/pieces.ts'
import type { Table } from '../core/state/table.ts'
import type { Poses } from './poses.ts'
import { COUNT, HEAD, KIND, PLANE } from './shapes/layout.ts'
import { placeInto } from './shapes/place.ts'
import type { Piece } from './shapes/shape.ts'

const NONE = -1

export class Geometry extends PieceTable<Piece> {
  private readonly poses: Poses
  private readonly pose = new Float64Array(5)

  constructor(colliders: Table, poses: Poses) {
    super(colliders, 2, HEAD, PLANE)
    this.poses = poses
  }

  /** The user's number of the edge of a piece; -1 for none. */
  override partOf(piece: number): number {
    return this.edgeOf(piece)
  }

  /** Number of the core points of a piece. */
  countOf(piece: number): number {
    return this.world[this.offsetOf(piece) + COUNT] | 0
  }

  override transform(piece: number, bodySlot: number): void {
    const { body, world, poses } = this
    const bounds = this.bounds.data
    const x = poses.place.data[2 * bodySlot]
    const y = poses.place.data[2 * bodySlot + 1]
    const cos = poses.turn.data[3 * bodySlot + 1]
    const sin = poses.turn.data[3 * bodySlot + 2]
    const offset = this.offsetOf(piece)
    world[offset - 1] = body[offset - 1]
    world[offset - 2] = body[offset - 2]
    if (this.kindOf(piece) === PLANE) {
      const { pose } = this
      pose[0] = x
      pose[1] = y
      pose[3] = cos
      pose[4] = sin
      placeInto(body, offset, pose, world, offset)
      bounds[4 * piece] = bounds[4 * piece + 1] = -Infinity
      bounds[4 * piece + 2] = bounds[4 * piece + 3] = Infinity
      return
    }
    const to = offset + 2 * (body[offset + COUNT] | 0)
    let minX = Infinity
    let minY = Infinity
    let maxX = -Infinity
    let maxY = -Infinity
    for (let i = offset + 1; i < to; i += 2) {
      const px = body[i]
      const py = body[i + 1]
      const wx = x + (cos * px - sin * py)
      const wy = y + (sin * px + cos * py)
      world[i] = wx
      world[i + 1] = wy
      if (wx < minX) minX = wx
      if (wx > maxX) maxX = wx
      if (wy < minY) minY = wy
      if (wy > maxY) maxY = wy
    }
    const r = body[offset]
    world[offset] = r
    const { data: upright } = this.upright
    if (upright[piece] !== 0) upright[piece] = sin === 0 || cos === 0 ? COULD_BE_UPRIGHT | UPRIGHT : COULD_BE_UPRIGHT
    bounds[4 * piece] = minX - r
    bounds[4 * piece + 1] = minY - r
    bounds[4 * piece + 2] = maxX + r
    bounds[4 * piece + 3] = maxY + r
  }

  override wideApart(p: number, q: number): boolean {
    const fat = this.wideBounds.data
    if (this.kindOf(q) === PLANE) return this.kindOf(p) !== PLANE && this.isOutside(fat, p, q)
    if (this.kindOf(p) === PLANE) return this.isOutside(fat, q, p)
    return (
      fat[4 * p] > fat[4 * q + 2] ||
      fat[4 * q] > fat[4 * p + 2] ||
      fat[4 * p + 1] > fat[4 * q + 3] ||
      fat[4 * q + 1] > fat[4 * p + 3]
    )
  }

  /** Whether a box lies wholly outside a plane: its corner that reaches farthest in does. */
  private isOutside(box: Float64Array, p: number, plane: number): boolean {
    const { world } = this
    const offset = this.offsetOf(plane)
    const nx = world[offset + 1]
    const ny = world[offset + 2]
    const x = nx > 0 ? box[4 * p] : box[4 * p + 2]
    const y = ny > 0 ? box[4 * p + 1] : box[4 * p + 3]
    return nx * x + ny * y > world[offset]
  }

  /** Writes the block of a piece, as it would be with its body at a pose (x, y, angle, cos, sin), to `out[at]`. */
  blockAt(piece: number, pose: Float64Array, out: Float64Array, at: number): void {
    placeInto(this.body, this.offsetOf(piece), pose, out, at)
  }

  /** Writes the bounds of a piece with its body at a pose (x, y, angle, cos, sin): min x, min y, max x, max y. */
  boundsAt(piece: number, pose: Float64Array, out: Float64Array): void {
    const { body } = this
    const offset = this.offsetOf(piece)
    const to = offset + 2 * (body[offset + COUNT] | 0)
    const r = body[offset]
    out[0] = out[1] = Infinity
    out[2] = out[3] = -Infinity
    for (let i = offset + 1; i < to; i += 2) {
      const x = pose[0] + pose[3] * body[i] - pose[4] * body[i + 1]
      const y = pose[1] + pose[4] * body[i] + pose[3] * body[i + 1]
      if (x - r < out[0]) out[0] = x - r
      if (y - r < out[1]) out[1] = y - r
      if (x + r > out[2]) out[2] = x + r
      if (y + r > out[3]) out[3] = y + r
    }
  }

  protected override put(piece: number, { block }: Piece, pose: Float64Array): void {
    const offset = this.offsetOf(piece)
    placeInto(block, HEAD, pose, this.body, offset)
    this.upright.data[piece] = isRectangle(this.body, offset) ? COULD_BE_UPRIGHT : 0
  }

  protected override measureReach(c: number): void {
    const { body, reach, turnReach } = this
    reach.data[c] = 0
    turnReach.data[c] = 0
    for (let piece = this.first.data[c]; piece !== NONE; piece = this.after(piece)) {
      const offset = this.offsetOf(piece)
      const to = offset + 2 * (body[offset + COUNT] | 0)
      let square = this.kindOf(piece) === PLANE ? Infinity : 0
      for (let i = offset + 1; i < to; i += 2) {
        const here = body[i] * body[i] + body[i + 1] * body[i + 1]
        if (here > square) square = here
      }
      const core = Math.sqrt(square)
      if (core > turnReach.data[c]) turnReach.data[c] = core
      if (core + body[offset] > reach.data[c]) reach.data[c] = core + body[offset]
    }
  }
}

/** Whether a block is a rectangle along the axes, without rounding. */
function isRectangle(world: Float64Array, at: number): boolean {
  if (world[at + COUNT] !== 4 || world[at] !== 0 || world[at + KIND] === PLANE) return false
  const x0 = world[at + 1]
  const y0 = world[at + 2]
  const x1 = world[at + 3]
  const y1 = world[at + 4]
  const x2 = world[at + 5]
  const y2 = world[at + 6]
  const x3 = world[at + 7]
  const y3 = world[at + 8]
  return (y0 === y1 && x1 === x2 && y2 === y3 && x3 === x0) || (x0 === x1 && y1 === y2 && x2 === x3 && y3 === y0)
}
