/**
 * A piece as flat numbers. A block begins with a head: what kind it is, and how many core points it has. Then comes the radius by which
 * the core is grown, then x, y of each core point. Of a plane there stand its offset and its normal instead. A block is addressed by
 * the place of its radius, so that the head lies before it; a block on its own begins at {@link HEAD}.
 */

/** A convex core: a point, two points, or a polygon, counter-clockwise. */
export const CONVEX = 0
/**
 * Of a convex core: by how much its kind is greater for its first edge, if that is an inner one, behind which the same solid goes on; twice as
 * much for the second, and so on. So the kind of a core whose edges are all free is {@link CONVEX}.
 */
export const INNER = 16
/** Two points without radius and without an inside. */
export const LINE = 1
/** A halfspace: offset, then the unit normal out of the solid side. */
export const PLANE = 2

/** Where the words of the head stand, seen from the radius. */
export const KIND = -2
export const COUNT = -1
/** Words of a head: where the radius of a block on its own stands. */
export const HEAD = 2
