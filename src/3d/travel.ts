/** Travel in 3D: how the pieces of a body are cast and placed, and where a point of a moved platform has come to. */
import { SURFACE_SPEED } from '../core/solve/surfaces.ts'
import { BodyCaster } from '../core/travel/caster.ts'
import type { RiderSpace } from '../core/travel/riders.ts'
import { atan2 } from '../core/util/maths.ts'
import type { Kernel3 } from './kernel.ts'
import { castAgainst } from './narrow/cast.ts'
import { faceCosine, SAME } from './narrow/flush.ts'
import { CAST_DEPTH, CAST_POINT, CAST_SIZE, RAY_NORMAL, RAY_TRIANGLE } from './narrow/records.ts'
import { gapToPiece } from './narrow/surfaceGap.ts'
import { BODY, FACE_COUNT, KIND, PLANE, POINT_COUNT, POINTS, RADIUS, SURFACE } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import { triangleInto } from './surface/search.ts'
import { LineWalk3 } from './tree/walk.ts'
import { FRAME, multiply, POSE_SIZE, writeFrame } from './vector.ts'

/** Part of the coordinates by which what stops a body is kept away from it: distances of 3D are found by a search. */
const ROUNDING = 1e-14
const NO_BOUNDS = new Float64Array(6)

export class Caster3 extends BodyCaster {
  private readonly kernel: Kernel3
  private readonly triangle = new Float64Array(13)

  constructor(kernel: Kernel3) {
    const layout = { size: CAST_SIZE, point: CAST_POINT, depth: CAST_DEPTH }
    super(kernel, 3, POSE_SIZE, layout, new LineWalk3(), ROUNDING)
    this.kernel = kernel
  }

  protected override readonly head = 0
  protected override readonly pointSize = BODY + 3

  protected override readPose(body: number): void {
    const { pose, kernel } = this
    const { place, matrix } = kernel.poses
    for (let k = 0; k < 3; k++) pose[k] = place.data[3 * body + k]
    for (let k = 0; k < 9; k++) pose[FRAME + k] = matrix.data[9 * body + k]
  }

  protected override canCast(piece: number): boolean {
    const kind = this.kernel.geometry.kindOf(piece)
    return kind !== PLANE && kind !== SURFACE
  }

  protected override placePiece(piece: number, at: number): void {
    this.kernel.geometry.blockAt(piece, this.pose, this.placed, at)
  }

  protected override placePoint(point: Float64Array, at: number): void {
    const { placed } = this
    placed[at + KIND] = POINTS
    placed[at + POINT_COUNT] = 1
    placed[at + FACE_COUNT] = 0
    placed[at + RADIUS] = 0
    for (let k = 0; k < 3; k++) placed[at + BODY + k] = point[k]
  }

  protected override boundsOf(at: number, _piece: number, out: Float64Array): void {
    boundsOf(this.placed, at, NO_BOUNDS, 0, out, 0)
  }

  protected override castPiece(at: number, piece: number): number {
    const { geometry } = this.kernel
    const { world, surfaces } = geometry
    const surface = surfaces[piece]
    return castAgainst(this.placed, at, world, geometry.offsetOf(piece), surface, this.line, this, this.record)
  }

  protected override gapPiece(at: number, piece: number, within: Float64Array): number {
    const { geometry } = this.kernel
    const { world, surfaces } = geometry
    const surface = surfaces[piece]
    return gapToPiece(this.placed, at, this.box, 0, world, geometry.offsetOf(piece), surface, within, this.gap)
  }

  protected override writeTriangle(triangle: number): void {
    this.hit[RAY_TRIANGLE] = triangle
  }

  override isFace(piece: number, hit: Float64Array): boolean {
    const { geometry } = this.kernel
    const { world, surfaces } = geometry
    const at = geometry.offsetOf(piece)
    const kind = world[at + KIND]
    if (kind === PLANE || (kind !== SURFACE && world[at + RADIUS] > 0)) return true
    if (kind !== SURFACE) return faceCosine(world, at, hit, RAY_NORMAL, 1) >= SAME
    const { triangle } = this
    triangleInto(surfaces[piece]!, hit[RAY_TRIANGLE], world, at, triangle)
    return Math.abs(faceCosine(triangle, 0, hit, RAY_NORMAL, 1)) >= SAME
  }
}

/** What riders need to know of 3D. */
export function riderSpace(kernel: Kernel3): RiderSpace {
  const { population, poses, ways, surfaces, dt } = kernel
  const frame = new Float64Array(9)
  const about = new Float64Array(3)
  const turned = new Float64Array(4)
  return {
    population,
    axes: 3,
    kept: poses.kept,
    keep: (body, out) => poses.keep(body, out),
    motionOf(from, body, point, up, out, turn) {
      const { place, rotation } = poses
      out.fill(0)
      turn.fill(0)
      let same = true
      for (let k = 0; k < 7; k++) {
        if (from[k] !== (k < 3 ? place.data[3 * body + k] : rotation.data[4 * body + k - 3])) same = false
      }
      if (same) return
      // The turn of the body since, as a quaternion.
      for (let k = 0; k < 4; k++) turned[k] = k < 3 ? -from[3 + k] : from[3 + k]
      multiply(rotation.data, 4 * body, turned, 0, turned, 0)
      const still = turned[0] === 0 && turned[1] === 0 && turned[2] === 0
      writeFrame(turned, 0, frame, 0)
      for (let k = 0; k < 3; k++) about[k] = point[k] - from[k]
      for (let k = 0; k < 3; k++) {
        out[k] = place.data[3 * body + k] - from[k]
        if (still) continue
        out[k] += frame[3 * k] * about[0] + frame[3 * k + 1] * about[1] + frame[3 * k + 2] * about[2] - about[k]
      }
      // Of that turn what is about the up: the twist of the quaternion.
      const twist = turned[0] * up[0] + turned[1] * up[1] + turned[2] * up[2]
      const sign = turned[3] < 0 ? -1 : 1
      const angle = twist === 0 ? 0 : 2 * atan2(sign * twist, sign * turned[3])
      for (let k = 0; k < 3; k++) turn[k] = angle * up[k]
    },
    addBelt(c, normal, out) {
      const { matrix } = poses
      const { data } = surfaces.of
      const at = surfaces.size * c + SURFACE_SPEED
      if (data[at] === 0 && data[at + 1] === 0 && data[at + 2] === 0) return
      let along = 0
      for (let k = 0; k < 3; k++) {
        const m = 9 * population.filter.body.data[c] + 3 * k
        about[k] =
          dt * (matrix.data[m] * data[at] + matrix.data[m + 1] * data[at + 1] + matrix.data[m + 2] * data[at + 2])
        along += about[k] * normal[k]
      }
      for (let k = 0; k < 3; k++) out[k] += about[k] - along * normal[k]
    },
    poseBefore(body, out) {
      const way = ways.of(body)
      for (let k = 0; k < 7; k++) out[k] = way === null ? poses.previous.data[7 * body + k] : way.atStep[k]
    },
    movesItself(body) {
      const way = ways.of(body)
      for (let k = 0; k < 3; k++) {
        const before = way === null ? poses.previous.data[7 * body + k] : way.atStep[k]
        if (poses.place.data[3 * body + k] !== before) return true
      }
      return false
    },
  }
}
