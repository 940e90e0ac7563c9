/** What every world of 3D has: all but the making of worlds. */
export * from '../core/index.ts'
export type { JointType } from '../core/joints/book.ts'
export type { JointCause, JointHandlers } from '../core/joints/joint.ts'
export type { JointWatch } from '../core/joints/joints.ts'
export type { Limits, Motor, OpenLimits } from '../core/joints/spec.ts'
export type { Sweep } from '../core/solve/dynamics.ts'
export { type BlastHit3, type BlastOptions3, blast } from './blast.ts'
export { Body3, type Overlap3, type Touch3 } from './body.ts'
export { type Boom3, type BoomOptions3, type BoomView3, boom } from './boom.ts'
export { Collider3 } from './collider.ts'
export {
  closestPoint,
  type Distance3,
  distance,
  distanceResult,
  type Manifold3,
  manifold,
  overlaps,
  type PlainHit3,
  raycast,
  shapecast,
} from './functions.ts'
export {
  type AxleSpec3,
  type BallSpec3,
  type CarrySpec3,
  type DistanceSpec3,
  type FixedSpec3,
  type HingeSpec3,
  Joint3,
  type JointEnd3,
  type JointSpec3,
  type SlideSpec3,
  type SpringSpec3,
} from './joints/joints.ts'
export { type CastHit3, castHit, Shapecast, type ShapeMotion3 } from './query/cast.ts'
export {
  Nearest,
  type NearestHit3,
  type NearestPlace3,
  nearestHit,
  nearestResults,
  Overlap,
  type OverlapHit3,
  overlapHit,
  type ShapePlace3,
} from './query/overlap.ts'
export type { AskingShape3 } from './query/queryShape.ts'
export { ENDLESS, type Ray3, Raycast, type RayHit3, type RayResults3, rayHit, rayResults } from './query/ray.ts'
export { box } from './shapes/box.ts'
export { compound } from './shapes/compound.ts'
export { halfspace } from './shapes/halfspace.ts'
export { hull } from './shapes/hull.ts'
export {
  type Build,
  type HeightfieldSpec,
  heightfield,
  type MeshSpec,
  mesh,
  sharedMesh,
  shareMesh,
} from './shapes/mesh.ts'
export { capsule, cone, cylinder, sphere } from './shapes/round.ts'
export type {
  Box,
  Capsule,
  Compound,
  CompoundPart,
  Cone,
  Cylinder,
  Halfspace,
  Heightfield,
  Hull,
  Inertia,
  Mesh,
  Shape3,
  ShapeFacts,
  Sides,
  Sphere,
} from './shapes/shape.ts'
export type { Locks, TurnLocks } from './solve/dynamics.ts'
export {
  type Crushed3,
  type Ground3,
  type TravelHit3,
  type TravelOptions3,
  type TravelResult3,
  travelResult,
} from './travelling.ts'
export {
  type MutablePose3,
  type MutableRotation,
  type MutableVec3,
  type Pose3,
  type Rotation,
  rotated,
  rotationAbout,
  rotationTowards,
  type Vec3,
} from './vector.ts'
export type { DecidedPair3, Hook3, Watch3, WatchEvent3, WatchHandlers3, WatchSide3 } from './watching.ts'
export { type BodySpec3, type ColliderSpec3, World3, type WorldOptions3 } from './world.ts'
