/**
 * Both dimensions under one set of names, for what is true of either: a test is written once, in the plane z = 0, where a box is
 * tall along z and turns are about z. The 3D calls go by the types of the 2D ones.
 */
import type { AskingShape2 } from '../../src/2d/index.ts'
import * as two from '../../src/2d/index.ts'
import type { Vec3 } from '../../src/3d/index.ts'
import * as three from '../../src/3d/index.ts'

export interface Dimension {
  readonly name: '2D' | '3D'
  readonly createWorld: typeof two.createWorld
  readonly blast: typeof two.blast
  readonly boom: typeof two.boom
  readonly travelResult: typeof two.travelResult
  /** A sphere in 3D. */
  readonly circle: (radius: number) => AskingShape2
  /** In 3D as deep as the height of a house. */
  readonly box: (width: number, height: number) => AskingShape2
  /** How many points a contact of a flat side has. */
  readonly pointsOfFace: number
  /** A segment; in 3D a capsule too thin to see. */
  readonly line: (a: two.Vec2, b: two.Vec2) => two.Shape2
  readonly at: (x: number, y: number) => two.Vec2
  /** A pose: at a place, turned by an angle; in 3D less than half a turn either way. */
  readonly turned: (x: number, y: number, angle: number) => two.Pose2
  /** A spin in radians a second. */
  readonly spin: (speed: number) => number
  /** What a hinge has besides in 3D, and the axle of a wheel: both turn in the plane. */
  readonly about: object
  readonly wheel: object
  /** What a collider has that carries along x what lies on it. */
  readonly belt: (speed: number) => object
}

const DEEP = 8
const HAIR = 1e-9

const flat: Dimension = {
  name: '2D',
  createWorld: two.createWorld,
  blast: two.blast,
  boom: two.boom,
  travelResult: two.travelResult,
  circle: two.circle,
  box: (width, height) => two.box(width, height),
  pointsOfFace: 2,
  line: two.segment,
  at: (x, y) => ({ x, y }),
  turned: (x, y, angle) => ({ at: { x, y }, angle }),
  spin: (speed) => speed,
  about: {},
  wheel: {},
  belt: (speed) => ({ surfaceSpeed: speed }),
}

const space = {
  name: '3D',
  createWorld: three.createWorld,
  blast: three.blast,
  boom: three.boom,
  travelResult: three.travelResult,
  circle: three.sphere,
  box: (width: number, height: number) => three.box(width, height, DEEP),
  pointsOfFace: 4,
  line: (a: Vec3, b: Vec3) => three.capsule(a, b, HAIR),
  at: (x: number, y: number) => ({ x, y, z: 0 }),
  turned: (x: number, y: number, angle: number) => ({
    at: { x, y, z: 0 },
    rotation: three.rotationAbout({ x: 0, y: 0, z: 1 }, angle),
  }),
  spin: (speed: number) => ({ x: 0, y: 0, z: speed }),
  about: { axis: { x: 0, y: 0, z: 1 } },
  wheel: { turn: { x: 0, y: 0, z: 1 } },
  belt: (speed: number) => ({ surfaceVelocity: { x: speed, y: 0, z: 0 } }),
} as unknown as Dimension

export const DIMENSIONS: readonly Dimension[] = [flat, space]
