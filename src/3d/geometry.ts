/** The pieces of 3D: their blocks (see shapes/layout.ts) and bounds in the world. The triangles of a surface stay with their shape. */
import type { StateVisitor } from '../core/save/state.ts'
import { COULD_BE_UPRIGHT, PieceTable, UPRIGHT } from '../core/state/pieces.ts'
import type { Table } from '../core/state/table.ts'
import { RAY_TRIANGLE } from './narrow/records.ts'
import type { Poses } from './poses.ts'
import { BODY, BOX, CONE, CYLINDER, PLANE, POINT_COUNT, POINTS, RADIUS, SURFACE, TRIANGLE } from './shapes/layout.ts'
import { boundsOf, placed, placeInto } from './shapes/place.ts'
import type { Piece } from './shapes/shape.ts'
import type { Surface } from './surface/surface.ts'

const NONE = -1
const NO_BOUNDS = new Float64Array(6)

export class Geometry extends PieceTable<Piece> {
  /** The triangles of each piece; null for what is no surface. */
  readonly surfaces: (Surface | null)[] = []
  private readonly poses: Poses

  constructor(colliders: Table, poses: Poses) {
    super(colliders, 3, 0, PLANE)
    this.poses = poses
  }

  override visit(v: StateVisitor): void {
    super.visit(v)
    const kept = v.objects(this.surfaces)
    if (kept === this.surfaces) return
    this.surfaces.length = 0
    this.surfaces.push(...kept)
  }

  /** The user's number of a triangle of a piece; -1 where there is none. */
  override partOf(piece: number, values: Float64Array, at: number): number {
    const surface = this.surfaces[piece]
    if (surface === null) return -1
    const triangle = values[at + RAY_TRIANGLE]
    return triangle < 0 ? -1 : surface.parts[triangle]
  }

  override transform(piece: number, body: number): void {
    const { place, matrix } = this.poses
    const offset = this.offsetOf(piece)
    placeInto(this.body, offset, place.data, 3 * body, matrix.data, 9 * body, this.world, offset)
    const own = this.kindOf(piece) === SURFACE ? this.surfaces[piece]!.bounds : NO_BOUNDS
    boundsOf(this.world, offset, own, 0, this.bounds.data, 6 * piece)
    const { data: upright } = this.upright
    if (upright[piece] !== 0) {
      const still = hasWorldAxes(matrix.data, 9 * body)
      upright[piece] = still ? COULD_BE_UPRIGHT | UPRIGHT : COULD_BE_UPRIGHT
    }
  }

  override wideApart(p: number, q: number): boolean {
    const fat = this.wideBounds.data
    if (this.kindOf(q) === PLANE) return this.kindOf(p) !== PLANE && this.isOutside(fat, p, q)
    if (this.kindOf(p) === PLANE) return this.isOutside(fat, q, p)
    return (
      fat[6 * p] > fat[6 * q + 3] ||
      fat[6 * q] > fat[6 * p + 3] ||
      fat[6 * p + 1] > fat[6 * q + 4] ||
      fat[6 * q + 1] > fat[6 * p + 4] ||
      fat[6 * p + 2] > fat[6 * q + 5] ||
      fat[6 * q + 2] > fat[6 * p + 5]
    )
  }

  /** Whether a box lies wholly outside a plane: its corner that reaches farthest in does. */
  private isOutside(box: Float64Array, p: number, plane: number): boolean {
    const { world } = this
    const at = this.offsetOf(plane) + BODY
    let least = 0
    for (let i = 0; i < 3; i++) {
      const along = world[at + 1 + i]
      least += along * (along > 0 ? box[6 * p + i] : box[6 * p + 3 + i])
    }
    return least > world[at]
  }

  /** Writes the block of a piece, as it would be with its body at a pose of numbers, to `out[at]`. */
  blockAt(piece: number, pose: Float64Array, out: Float64Array, at: number): void {
    placeInto(this.body, this.offsetOf(piece), pose, 0, pose, 3, out, at)
  }

  protected override put(piece: number, { block, surface }: Piece, pose: Float64Array): void {
    this.surfaces[piece] = surface
    const at = this.offsetOf(piece)
    this.body.set(placed(block, pose), at)
    const isBox = this.body[at] === BOX && this.body[at + RADIUS] === 0
    this.upright.data[piece] = isBox && hasWorldAxes(this.body, at + BODY + 3) ? COULD_BE_UPRIGHT : 0
  }

  protected override measureReach(c: number): void {
    let reach = 0
    for (let piece = this.first.data[c]; piece !== NONE; piece = this.after(piece)) {
      reach = Math.max(reach, reachOf(this.body, this.offsetOf(piece), this.surfaces[piece]))
    }
    this.reach.data[c] = reach
    this.turnReach.data[c] = reach
  }

  protected override released(piece: number): void {
    this.surfaces[piece] = null
  }

  protected override permuted(order: Int32Array, numbers: Int32Array): void {
    const surfaces = this.surfaces.slice()
    for (let i = 0; i < order.length; i++) this.surfaces[numbers[i]] = surfaces[order[i]]
  }
}

/** Whether three unit vectors are the axes of the world, in their order. */
function hasWorldAxes(from: Float64Array, at: number): boolean {
  return from[at] === 1 && from[at + 4] === 1 && from[at + 8] === 1
}

/** How far a block reaches from the origin it is placed about, at most. */
export function reachOf(block: Float64Array, at: number, surface: Surface | null): number {
  const kind = block[at]
  const b = at + BODY
  if (kind === PLANE) return Infinity
  if (kind === POINTS || kind === TRIANGLE) {
    let square = 0
    for (let i = b; i < b + 3 * block[at + POINT_COUNT]; i += 3) {
      square = Math.max(square, block[i] * block[i] + block[i + 1] * block[i + 1] + block[i + 2] * block[i + 2])
    }
    return Math.sqrt(square) + block[at + RADIUS]
  }
  const away = length(block[b], block[b + 1], block[b + 2])
  if (kind === CYLINDER || kind === CONE) return away + length(block[b + 6], block[b + 7], 0) + block[at + RADIUS]
  if (kind === SURFACE) {
    const { bounds } = surface!
    const most = (i: number): number => Math.max(Math.abs(bounds[i]), Math.abs(bounds[3 + i]))
    return away + length(most(0), most(1), most(2))
  }
  return away + length(block[b + 12], block[b + 13], block[b + 14]) + block[at + RADIUS]
}

function length(x: number, y: number, z: number): number {
  return Math.sqrt(x * x + y * y + z * z)
}
