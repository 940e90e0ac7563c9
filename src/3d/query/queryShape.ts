/** The shape that a question is asked with, placed where the question starts: its pieces as flat numbers. */
import { PlacedShape } from '../../core/query/queryShape.ts'
import { KeenError } from '../../core/util/errors.ts'
import { reachOf } from '../geometry.ts'
import { BODY, BOX, FACE_COUNT, POINT_COUNT, POINTS, RADIUS } from '../shapes/layout.ts'
import { boundsOf, identityPose, placeInto } from '../shapes/place.ts'
import { refuseNoShape, type Shape3 } from '../shapes/shape.ts'
import { checkRotation, FRAME, type Rotation, type Vec3, writeFrame } from '../vector.ts'

/** Shapes that can ask: all that are convex, and compounds of these. */
export type AskingShape3 = Exclude<Shape3, { kind: 'mesh' } | { kind: 'heightfield' } | { kind: 'halfspace' }>

const POINT = [Float64Array.of(POINTS, 1, 0, 0, 0, 0, 0)]

export class QueryShape extends PlacedShape {
  /** The start pose of the shape: its unit quaternion. */
  readonly quaternion = Float64Array.of(0, 0, 0, 1)
  private readonly pose = identityPose()
  private readonly box = new Float64Array(6)

  constructor() {
    super(3)
  }

  /** A shape at a point, turned. Throws `bad-shape` for one that cannot ask. */
  set(shape: unknown, at: Vec3, rotation: Rotation | undefined, what: string): void {
    if (shape !== this.shape) this.know(shape, what)
    this.turn(rotation, what)
    this.reach = this.ownReach
    this.put(at, this.own)
    this.fills = this.pieces === 1 && this.fillsItsBounds()
  }

  /** A point. */
  setPoint(point: Vec3): void {
    this.reach = 0
    this.fills = false
    this.turn(undefined, '')
    this.put(point, POINT)
  }

  override setPointAt(from: Float64Array, at: number): void {
    const { bounds } = this
    this.begin(POINTS, 1)
    for (let k = 0; k < 3; k++) this.placed[BODY + k] = bounds[k] = bounds[3 + k] = from[at + k]
  }

  override setBox(from: Float64Array, at: number): void {
    const { placed, bounds } = this
    this.begin(BOX, 0)
    for (let k = 0; k < 3; k++) {
      const least = from[at + k]
      const most = from[at + 3 + k]
      bounds[k] = least
      bounds[3 + k] = most
      placed[BODY + k] = (least + most) / 2
      for (let j = 0; j < 3; j++) placed[BODY + 3 + 3 * k + j] = j === k ? 1 : 0
      placed[BODY + 12 + k] = (most - least) / 2
    }
    this.fills = true
  }

  /** One piece without a radius that stands where it is. */
  private begin(kind: number, points: number): void {
    const { placed } = this
    this.reach = 0
    this.fills = false
    this.pieces = 1
    this.offset[0] = 0
    placed[0] = kind
    placed[POINT_COUNT] = points
    placed[FACE_COUNT] = 0
    placed[RADIUS] = 0
  }

  private turn(rotation: Rotation | undefined, what: string): void {
    const { quaternion, pose } = this
    if (rotation === undefined) {
      quaternion[0] = quaternion[1] = quaternion[2] = 0
      quaternion[3] = 1
    } else checkRotation(rotation, `'rotation' of ${what}`, quaternion, 0)
    writeFrame(quaternion, 0, pose, FRAME)
  }

  /** Takes a shape in: what does not depend on its place. */
  private know(shape: unknown, what: string): void {
    refuseNoShape(shape, `'shape' of ${what}`)
    const { own } = this
    const { kind, pieces } = shape as Shape3
    own.length = 0
    this.shape = null
    this.ownReach = 0
    for (let i = 0; i < pieces.length; i++) {
      const { block, surface } = pieces[i]
      if (kind === 'halfspace' || surface !== null) {
        const held = kind === 'compound' ? 'compound that holds a surface' : kind
        throw new KeenError(
          'bad-shape',
          `'shape' of ${what} cannot be a ${held}: ask with a convex shape or a compound of such`,
        )
      }
      own.push(block)
      const reach = reachOf(block, 0, null)
      if (reach > this.ownReach) this.ownReach = reach
    }
    this.shape = shape
  }

  private put(at: Vec3, blocks: readonly Float64Array[]): void {
    const { pose, bounds, box } = this
    pose[0] = at.x
    pose[1] = at.y
    pose[2] = at.z
    this.clear()
    let used = 0
    for (let k = 0; k < blocks.length; k++) {
      const block = blocks[k]
      this.addPiece(used, used + block.length)
      placeInto(block, 0, pose, 0, pose, FRAME, this.placed, used)
      boundsOf(this.placed, used, box, 0, box, 0)
      for (let i = 0; i < 3; i++) {
        if (box[i] < bounds[i]) bounds[i] = box[i]
        if (box[3 + i] > bounds[3 + i]) bounds[3 + i] = box[3 + i]
      }
      used += block.length
    }
  }

  private fillsItsBounds(): boolean {
    const { placed } = this
    if (placed[0] !== BOX || placed[RADIUS] !== 0) return false
    for (let k = 0; k < 9; k++) {
      const part = Math.abs(placed[BODY + 3 + k])
      if (part !== 0 && part !== 1) return false
    }
    return true
  }
}
