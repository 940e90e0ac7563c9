/** What every world of 2D has: all but the making of worlds. */

export * from '../core/index.ts'
export type { JointType } from '../core/joints/book.ts'
export type { JointCause, JointHandlers } from '../core/joints/joint.ts'
export type { JointWatch } from '../core/joints/joints.ts'
export type { Limits, Motor, OpenLimits } from '../core/joints/spec.ts'
export type { Sweep } from '../core/solve/dynamics.ts'
export { type BlastHit2, type BlastOptions2, blast } from './blast.ts'
export { Body2, type Overlap2, type Touch2 } from './body.ts'
export { type Boom2, type BoomOptions2, type BoomView2, boom } from './boom.ts'
export { Collider2 } from './collider.ts'
export {
  closestPoint,
  type Distance2,
  distance,
  distanceResult,
  type Manifold2,
  manifold,
  overlaps,
  type PlainHit2,
  raycast,
  shapecast,
} from './functions.ts'
export {
  type AxleSpec2,
  type CarrySpec2,
  type DistanceSpec2,
  type FixedSpec2,
  type HingeSpec2,
  Joint2,
  type JointEnd2,
  type JointSpec2,
  type SlideSpec2,
  type SpringSpec2,
} from './joints/joints.ts'
export { type CastHit2, castHit, Shapecast, type ShapeMotion2 } from './query/cast.ts'
export {
  Nearest,
  type NearestHit2,
  type NearestPlace2,
  nearestHit,
  nearestResults,
  Overlap,
  type OverlapHit2,
  overlapHit,
  type ShapePlace2,
} from './query/overlap.ts'
export type { AskingShape2 } from './query/queryShape.ts'
export { ENDLESS, type Ray2, Raycast, type RayHit2, type RayResults2, rayHit, rayResults } from './query/ray.ts'
export { box } from './shapes/box.ts'
export { capsule } from './shapes/capsule.ts'
export { circle } from './shapes/circle.ts'
export { compound } from './shapes/compound.ts'
export { halfspace, polyline, segment } from './shapes/lines.ts'
export { polygon } from './shapes/polygon.ts'
export type {
  Box,
  Capsule,
  Circle,
  Compound,
  CompoundPart,
  Halfspace,
  Polygon,
  Polyline,
  Segment,
  Shape2,
  ShapeFacts,
  Tile,
  Tiles,
} from './shapes/shape.ts'
export type { Locks } from './solve/dynamics.ts'
export type { Carved, CarvedTile, CarveOptions, CutOff } from './tiles/carving.ts'
export type { TileKind } from './tiles/kinds.ts'
export { type TilesSpec, tiles } from './tiles/tiles.ts'
export {
  type Crushed2,
  type Ground2,
  type TravelHit2,
  type TravelOptions2,
  type TravelResult2,
  travelResult,
} from './travelling.ts'
export type { MutablePose2, MutableVec2, Pose2, Vec2 } from './vector.ts'
export type { DecidedPair2, Hook2, Watch2, WatchEvent2, WatchHandlers2, WatchSide2 } from './watching.ts'
export {
  type BodySpec2,
  type ColliderSpec2,
  World2,
  type WorldOptions2,
} from './world.ts'
