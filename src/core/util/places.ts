/**
 * A mask that holds any place in a typed array. The sum of a masked place and a few words fits an engine's small integers, so it adds without
 * a check for overflow, which is an eighth of the time of a solver's pass. Hot rooms keep typed copies, as of a tree's words (2d/tree/layout.ts).
 */
export const PLACE = 0x3fffffff
