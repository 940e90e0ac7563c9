/** What only worlds of 2D have to be saved: shapes, and grids of tiles. */
import type { Sort } from '../core/save/bytes.ts'
import { isShape, Saver, shapeSort } from '../core/save/save.ts'
import { KeenError } from '../core/util/errors.ts'
import type { MakeSaver } from '../core/world.ts'
import type { Tiles } from './shapes/shape.ts'
import type { Ground } from './tiles/ground.ts'
import { type GroundParts, made } from './tiles/made.ts'

const isTiles = (value: unknown): value is Tiles => isShape(value) && (value as Tiles).kind === 'tiles'

/** A shape of tiles, by the grid that it belongs to. */
const TILES: Sort<Tiles> = {
  plain: true,
  is: isTiles,
  take: ({ ground, group }) => [ground, group],
  make: ([ground, group]: [Ground, number]) => ground.shapes[group],
}

/** The grid of a body, shared by its colliders: with the tiles of now, which the state has once more. */
const GROUND: Sort<Ground> = {
  is: (value): value is Ground => typeof (value as Ground).parts === 'function',
  take: (ground) => ground.parts(),
  make: (parts: GroundParts) => {
    if (made.ground !== null) return made.ground(parts)
    throw new KeenError(
      'bad-save',
      'what is restored has tiles, and this program has none: call tiles() in it, for one grid at least',
    )
  },
}

export const makeSaver2: MakeSaver = (world) => new Saver(world, 2, [GROUND, TILES, shapeSort])
