/** Why a pair began or ended: a closed list. When several reasons meet, the first in this order is told. */

export const CAUSES = [
  'removed',
  'added',
  'disabled',
  'enabled',
  'refiltered',
  'reshaped',
  'ignored',
  'unignored',
  'decided',
  'teleported',
  'crossed',
  'bounced',
  'watched',
  'moved',
] as const

export type Cause = (typeof CAUSES)[number]

export const REMOVED = 0
export const ADDED = 1
export const DISABLED = 2
export const ENABLED_AGAIN = 3
export const REFILTERED = 4
export const RESHAPED = 5
export const IGNORED = 6
export const UNIGNORED = 7
export const DECIDED = 8
export const TELEPORTED_TO = 9
export const CROSSED = 10
export const BOUNCED = 11
export const WATCHED = 12
export const MOVED = 13
/** Later than every cause: the neutral start of a minimum. */
export const NO_CAUSE = 14
