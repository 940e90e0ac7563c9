/**
 * What the numbers of a world stay within, so that no product of them leaves what a double can hold. What is passed in beyond them is
 * refused; a speed or a place that would grow beyond them is clamped, and counted in `world.stats.held`.
 */

/** Lengths from the origin. */
export const COORDINATE = 1e12
/** Lengths of a shape, and the least that a size can be. */
export const SIZE = 1e12
export const LEAST_SIZE = 1e-100
/** Lengths a second (times the unit). */
export const SPEED = 1e8
/** Radians a second, and radians. */
export const SPIN = 1e6
export const ANGLE = 1e9
/** Lengths a second squared (times the unit), and by how much it can be scaled. */
export const ACCELERATION = 1e9
export const SCALE = 1e6
/** Kilograms: at least, and at most. */
export const LEAST_MASS = 1e-9
export const MASS = 1e15
/** Kilograms times length squared: at least, and at most. */
export const LEAST_INERTIA = 1e-24
export const INERTIA = 1e33
/** Newtons, newton seconds, and both times a length. */
export const FORCE = 1e21
/** Kilograms a square (or cubic) length. */
export const DENSITY = 1e15
/** Friction, restitution, damping a second. */
export const FRICTION = 1e6
export const RESTITUTION = 1e3
export const DAMPING = 1e6
/** Ticks a second, and lengths to a metre: at least, and at most. */
export const LEAST_RATE = 1e-3
export const RATE = 1e6
export const LEAST_UNIT = 1e-9
export const UNIT = 1e9
