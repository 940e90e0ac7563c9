/** Why a pair began or ended: a closed list. When several reasons meet, the first in this order is told. */

export const CAUSES = [
  'removed',
  'added',
  'disabled',
  'enabled',
  'refiltered',
  'reshaped',
  'retyped',
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
export const RETYPED = 6
export const IGNORED = 7
export const UNIGNORED = 8
export const DECIDED = 9
export const TELEPORTED_TO = 10
export const CROSSED = 11
export const BOUNCED = 12
export const WATCHED = 13
export const MOVED = 14
/** Later than every cause: the neutral start of a minimum. */
export const NO_CAUSE = 15
