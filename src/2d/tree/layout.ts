/**
 * The words of a tree's node. Rooms that read them in a hot loop keep typed copies (`const NODE: typeof layout.NODE = 12`):
 * a module's own constant is part of the code, an imported one is read from memory and checked each time.
 */

/** Words a node. Child s: bounds from 4 s, link at 8 + s, bits at 10 + s. */
export const NODE = 12
export const LINK = 8
export const BITS = 10
