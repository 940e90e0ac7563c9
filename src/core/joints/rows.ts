/** Where the numbers of the rows of joints stand: see `kind.ts`. */

/** Of a block: the rows of its two bodies, its first row, how many rows it has, and the joint by its place in this tick. */
export const BLOCK = 5
export const BODY_A = 0
export const BODY_B = 1
export const FIRST = 2
export const COUNT = 3
export const JOINT = 4

/**
 * Of a row, behind its Jacobian and that times the inverse masses: at what rate it is drawn back, how much it gives, and its rate in a pass that takes
 * back what pushed; its impulse, and what bounds that.
 */
export const RATE = 0
export const GIVE = 1
export const RELAX_RATE = 2
export const IMPULSE = 3
export const LOW = 4
export const HIGH = 5
/** By how much one unit of impulse changes its speed. */
export const ANSWER = 6
/** By which its impulse is known from tick to tick. */
export const PLACE = 7
/** 1 where it holds a turn and not a place. */
export const TURNING = 8
/** By how much it is off, and by how much it would be after this substep; 1 where it is rigid. */
export const OFF = 9
export const OFF_AHEAD = 10
export const RIGID_ROW = 11
/** The rate as it was before the bodies moved. */
export const LAST_RATE = 12
export const TAIL = 13
