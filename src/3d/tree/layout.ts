/**
 * The words of a tree's node. Rooms that read them in a hot loop keep typed copies (`const NODE: typeof layout.NODE = 16`):
 * a module's own constant is part of the code, an imported one is read from memory and checked each time.
 */

/** Words a node: one line of a processor's cache. Child s: bounds from 6 s, link at 12 + s, bits at 14 + s. */
export const NODE = 16
export const LINK = 12
export const BITS = 14
