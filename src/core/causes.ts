/** Why a pair began or ended: a closed list. When several reasons meet, the first in this order is told. */

export const CAUSES = [
  'removed',
  'added',
  'disabled',
  'enabled',
  'refiltered',
  'teleported',
  'watched',
  'moved',
] as const

export type Cause = (typeof CAUSES)[number]

export const REMOVED = 0
export const ADDED = 1
export const DISABLED = 2
export const ENABLED_AGAIN = 3
export const REFILTERED = 4
export const TELEPORTED_TO = 5
export const WATCHED = 6
export const MOVED = 7
/** Later than every cause: the neutral start of a minimum. */
export const NO_CAUSE = 8
