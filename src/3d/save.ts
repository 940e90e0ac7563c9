/** What only worlds of 3D have to be saved: shapes, and the triangles of surfaces. */
import type { Sort } from '../core/save/bytes.ts'
import { Saver, shapeSort } from '../core/save/save.ts'
import type { MakeSaver } from '../core/world.ts'
import { Surface, surfaceOf, wordsOf } from './surface/surface.ts'

const SURFACE: Sort<Surface> = {
  is: (value) => value instanceof Surface,
  take: wordsOf,
  make: surfaceOf,
}

export const makeSaver3: MakeSaver = (world) => new Saver(world, 3, [SURFACE, shapeSort])
