/** Places in the records of the narrow phase, and its answers. Hot rooms keep typed copies: see tree/layout.ts. */

/** Answers of a ray and a cast. */
/** A miss by no more than rounding, or nearly: whoever cares may look for a graze. */
export const NEAR = -1
export const MISS = 0
export const HIT = 1
export const INSIDE = 2

/** A ray's record: fraction of the whole length, unit normal, triangle of a surface (or -1), weights of its corners, back. */
export const FRACTION = 0
export const RAY_NORMAL = 1
export const RAY_TRIANGLE = 4
export const RAY_WEIGHTS = 5
export const RAY_BACK = 8
export const RAY_SIZE = 9

/** A gap record: signed distance, unit normal from A to B, nearest points of A and of B. */
export const DISTANCE = 0
export const NORMAL = 1
export const POINT_A = 4
export const POINT_B = 7
export const GAP_SIZE = 10

/** Places in a cast record, behind those of a ray: point on the target, depth at a start inside. */
export const CAST_POINT = 9
export const CAST_DEPTH = 12
export const CAST_SIZE = 13

/** Places in a turning motion: start, motion, start quaternion, whole turn as a vector. */
export const TURN_START = 0
export const TURN_MOTION = 3
export const TURN_FROM = 6
export const TURN_BY = 10
export const TURN_SIZE = 13
