/**
 * The words of a tree's node. Rooms that read them in a hot loop keep typed copies (`const NODE: typeof words.NODE = 16`):
 * a module's own constant is part of the code, an imported one is read from memory and checked each time.
 */

/** Words a node: one line of a processor's cache. Child s: bounds from 6 s, link at 12 + s, bits at 14 + s. */
export const NODE = 16
export const LINK = 12
export const BITS = 14
/** A link that leads nowhere. Links from 0 are nodes; those below -1 are leaves of the proxy -2 - link. */
export const EMPTY = -1

/** More than the rounding of a double to a float, relative to the larger bound. */
export const OUTWARD = 1.2e-7
