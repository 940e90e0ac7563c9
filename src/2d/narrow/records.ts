/** Places in the records of the narrow phase, and its answers. Hot rooms keep typed copies: see tree/layout.ts. */

/** Answers of a ray and a cast. */
/** A miss by no more than rounding, or nearly: whoever cares may look for a graze. */
export const NEAR = -1
export const MISS = 0
export const HIT = 1
export const INSIDE = 2

/** A ray's record: fraction of the whole length, and the unit normal. */
export const FRACTION = 0
export const RAY_NORMAL = 1
export const RAY_SIZE = 3

/** A gap record: signed distance, unit normal from A to B, nearest points of A and of B. */
export const DISTANCE = 0
export const NORMAL = 1
export const POINT_A = 3
export const POINT_B = 5
export const GAP_SIZE = 7
