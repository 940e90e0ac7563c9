/** Travel in 2D: how the pieces of a body are cast and placed, and where a point of a moved platform has come to. */
import { SURFACE_SPEED } from '../core/solve/surfaces.ts'
import { BodyCaster } from '../core/travel/caster.ts'
import type { RiderSpace } from '../core/travel/riders.ts'
import { cosSin } from '../core/util/maths.ts'
import type { Kernel2 } from './kernel.ts'
import { CAST_DEPTH, CAST_POINT, CAST_SIZE, castAgainst } from './narrow/cast.ts'
import { isFlatAlong, SAME } from './narrow/flush.ts'
import { gapOfPieces } from './narrow/pair.ts'
import { INSIDE, RAY_NORMAL } from './narrow/records.ts'
import { writeWay } from './query/cast.ts'
import { CONVEX, COUNT, HEAD, KIND, PLANE } from './shapes/layout.ts'
import { WAY_SIZE } from './tiles/wayOut.ts'
import { LineWalk2 } from './tree/walk.ts'

/** Part of the coordinates by which what stops a body is kept away from it: two units in the last place. */
const ROUNDING = 4.5e-16

export class Caster2 extends BodyCaster {
  private readonly kernel: Kernel2
  /** The place of the piece that asks, and a way out of tiles. */
  private readonly asking = new Int32Array(1)
  private readonly way = new Float64Array(WAY_SIZE)

  constructor(kernel: Kernel2) {
    super(kernel, 2, 5, { size: CAST_SIZE, point: CAST_POINT, depth: CAST_DEPTH }, new LineWalk2(), ROUNDING)
    this.kernel = kernel
  }

  protected override readonly head = HEAD
  protected override readonly pointSize = HEAD + 3

  protected override readPose(body: number): void {
    const { pose, kernel } = this
    const { place, turn } = kernel.poses
    pose[0] = place.data[2 * body]
    pose[1] = place.data[2 * body + 1]
    for (let k = 0; k < 3; k++) pose[2 + k] = turn.data[3 * body + k]
  }

  protected override canCast(piece: number): boolean {
    return this.kernel.geometry.kindOf(piece) !== PLANE
  }

  protected override placePiece(piece: number, at: number): void {
    this.kernel.geometry.blockAt(piece, this.pose, this.placed, at)
  }

  protected override placePoint(point: Float64Array, at: number): void {
    const { placed } = this
    placed[at + KIND] = CONVEX
    placed[at + COUNT] = 1
    placed[at] = 0
    placed[at + 1] = point[0]
    placed[at + 2] = point[1]
  }

  protected override boundsOf(at: number, _piece: number, out: Float64Array): void {
    const { placed } = this
    const last = at + 2 * (placed[at + COUNT] | 0)
    const r = placed[at]
    out[0] = out[1] = Infinity
    out[2] = out[3] = -Infinity
    for (let i = at + 1; i < last; i += 2) {
      if (placed[i] - r < out[0]) out[0] = placed[i] - r
      if (placed[i + 1] - r < out[1]) out[1] = placed[i + 1] - r
      if (placed[i] + r > out[2]) out[2] = placed[i] + r
      if (placed[i + 1] + r > out[3]) out[3] = placed[i + 1] + r
    }
  }

  protected override castPiece(at: number, piece: number): number {
    const { geometry } = this.kernel
    const met = castAgainst(this.placed, at, geometry.world, geometry.offsetOf(piece), this.line, this.record)
    if (met !== INSIDE) return met
    this.asking[0] = at
    const { way } = this
    if (this.kernel.leadOut(geometry.ownerOf(piece), this.placed, this.asking, 1, way)) writeWay(way, this.record)
    return met
  }

  protected override gapPiece(at: number, piece: number): number {
    const { geometry } = this.kernel
    gapOfPieces(this.placed, at, geometry.world, geometry.offsetOf(piece), this.gap)
    return -1
  }

  protected override writeTriangle(): void {}

  override isFace(piece: number, hit: Float64Array): boolean {
    const { geometry } = this.kernel
    const at = geometry.offsetOf(piece)
    const { world } = geometry
    // What is round has a face everywhere.
    if (world[at + KIND] === PLANE || world[at + COUNT] === 1 || world[at] > 0) return true
    return isFlatAlong(world, at, hit, RAY_NORMAL, 1, SAME)
  }
}

/** What riders need to know of 2D. */
export function riderSpace(kernel: Kernel2): RiderSpace {
  const { population, poses, ways, surfaces, dt } = kernel
  const turn = new Float64Array(3)
  return {
    population,
    axes: 2,
    kept: poses.kept,
    keep: (body, out) => poses.keep(body, out),
    motionOf(from, body, point, _up, out) {
      // The turn of the body since, applied to where the point was about its origin.
      turn[0] = poses.turn.data[3 * body] - from[2]
      cosSin(turn, 0)
      const x = point[0] - from[0]
      const y = point[1] - from[1]
      out[0] = poses.place.data[2 * body] - from[0] + (turn[0] === 0 ? 0 : turn[1] * x - turn[2] * y - x)
      out[1] = poses.place.data[2 * body + 1] - from[1] + (turn[0] === 0 ? 0 : turn[2] * x + turn[1] * y - y)
    },
    addBelt(c, normal, out) {
      const far = surfaces.of.data[surfaces.size * c + SURFACE_SPEED] * dt
      out[0] += far * normal[1]
      out[1] -= far * normal[0]
    },
    poseBefore(body, out) {
      const way = ways.of(body)
      for (let k = 0; k < 3; k++) out[k] = way === null ? poses.previous.data[3 * body + k] : way.atStep[k]
    },
    movesItself(body) {
      const way = ways.of(body)
      const { place, previous } = poses
      const x = way === null ? previous.data[3 * body] : way.atStep[0]
      const y = way === null ? previous.data[3 * body + 1] : way.atStep[1]
      return place.data[2 * body] !== x || place.data[2 * body + 1] !== y
    },
  }
}
