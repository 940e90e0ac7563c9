/** Who makes grids of tiles again, when a world is loaded: known where tiles are used at all, so that they are not bundled for others. */
import type { Ground } from './ground.ts'
import type { Behaviour, Kind } from './kinds.ts'

/** What the grid of a body is made from. */
export type GroundParts = [number, number, number, readonly Kind[], readonly Behaviour[], Uint8Array]

export const made: { ground: ((parts: GroundParts) => Ground) | null } = { ground: null }
