/** Surfaces of triangles: meshes, and fields of heights. */

import { finite, flag, notNegative, oneOf, onlyFields, size } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { COORDINATE, SIZE } from '../../core/util/limits.ts'
import { makeSurface, type Soup, Surface } from '../surface/surface.ts'
import { factsOf, Moments } from './facts.ts'
import { SURFACE } from './layout.ts'
import type { Heightfield, Mesh, ShapeFacts, Sides } from './shape.ts'

/** What a mesh is made from. */
export interface MeshSpec {
  /** x, y, z of each vertex. */
  readonly positions: ArrayLike<number>
  /** Three vertices a triangle, counter-clockwise seen from its front; left out, every three vertices are one. */
  readonly indices?: ArrayLike<number> | undefined
  /** Whether both sides are hit (default) or only the front. */
  readonly sides?: Sides | undefined
  /** Metres within which vertices become one, so that triangles know their neighbours. Default 0: equal ones. */
  readonly weld?: number | undefined
  /** How its tree is built: `'quality'` (default) for what is asked often, `'fast'` for what changes often. */
  readonly build?: Build | undefined
  /** In shared memory, so that workers can ask it without a copy: see `shareMesh`. Default false. */
  readonly shared?: boolean | undefined
}

/** How the tree of a surface is built: for fast questions, or fast to build. */
export type Build = 'quality' | 'fast'

/** What a heightfield is made from. */
export interface HeightfieldSpec {
  /** Heights along x. */
  readonly columns: number
  /** Heights along z. */
  readonly rows: number
  /** y at each place, row by row: `heights[row * columns + column]`. NaN is a hole: no triangle has that corner. */
  readonly heights: ArrayLike<number>
  /** Metres from one height to the next: along x and along z, or both. */
  readonly cell: number | { readonly x: number; readonly z: number }
  /** Whether it is hit from below too (default), or only from above. */
  readonly sides?: Sides | undefined
  /** How its tree is built. Default `'thorough'`. */
  readonly build?: Build | undefined
  /** Takes the array of heights over without a copy; it must not be changed then. Default false. */
  readonly shared?: boolean | undefined
}

const SIDES = ['both', 'front'] as const
const BUILDS = ['quality', 'fast'] as const

function numbers(value: unknown, what: string): ArrayLike<number> {
  if (Array.isArray(value) || (ArrayBuffer.isView(value) && !(value instanceof DataView))) {
    return value as unknown as ArrayLike<number>
  }
  throw new KeenError('bad-argument', `${what} must be an array of numbers, got ${show(value)}`)
}

/**
 * A surface of triangles, without an inside. `part` of a hit is the number of the triangle. Triangles without area are left out.
 * Cost: n log n for n triangles, once; a mesh can be the shape of many colliders.
 * @throws KeenError `bad-argument`, `bad-number`, `bad-shape` when an index leads nowhere or no triangle has an area
 * @example mesh({ positions: [0, 0, 0, 1, 0, 0, 0, 0, 1], indices: [0, 2, 1] })
 */
export function mesh(spec: MeshSpec): Mesh {
  onlyFields(spec, ['positions', 'indices', 'sides', 'weld', 'build', 'shared'], 'a mesh')
  const positions = numbers(spec.positions, "'positions' of a mesh")
  const indices = spec.indices === undefined ? null : numbers(spec.indices, "'indices' of a mesh")
  const vertices = positions.length / 3
  const corners = indices === null ? vertices : indices.length
  if (!Number.isInteger(vertices)) {
    throw new KeenError('bad-shape', `'positions' of a mesh must be three numbers a vertex, got ${positions.length}`)
  }
  if (corners % 3 !== 0) {
    const what = indices === null ? 'a mesh without indices takes three vertices' : "'indices' of a mesh must be three"
    throw new KeenError('bad-shape', `${what} a triangle, got ${corners}`)
  }
  for (let i = 0; i < positions.length; i++) {
    const value: unknown = positions[i]
    const fits = typeof value === 'number' && value <= COORDINATE && value >= -COORDINATE
    if (!fits) finite(value, `positions[${i}] of a mesh`, COORDINATE)
  }
  const weld = notNegative(spec.weld ?? 0, "'weld' of a mesh", SIZE)
  const welded = weldVertices(positions, weld)
  const soup = gather(
    corners / 3,
    (corner) => {
      if (indices === null) return welded[corner]
      const vertex = indices[corner]
      if (Number.isInteger(vertex) && vertex >= 0 && vertex < vertices) return welded[vertex]
      throw new KeenError(
        'bad-shape',
        `indices[${corner}] of a mesh must be a vertex from 0 to ${vertices - 1}, got ${show(vertex)}`,
      )
    },
    positions,
  )
  if (soup.parts.length === 0) throw new KeenError('bad-shape', 'a mesh needs at least one triangle that has an area')
  return meshOf(surfaceOf(soup, spec, 'a mesh'))
}

function surfaceOf(soup: Soup, spec: MeshSpec | HeightfieldSpec, what: string): Surface {
  const sides = oneOf(spec.sides ?? 'both', SIDES, `'sides' of ${what}`)
  const build = oneOf(spec.build ?? 'quality', BUILDS, `'build' of ${what}`)
  return makeSurface(soup, sides === 'front', build === 'quality', flag(spec.shared, false, `'shared' of ${what}`))
}

function meshOf(surface: Surface): Mesh {
  return Object.freeze({
    kind: 'mesh',
    triangles: surface.count,
    sides: surface.front ? 'front' : 'both',
    closed: surface.closed,
    ...surfaceFacts(surface),
  })
}

/**
 * The memory of a mesh that was made with `shared: true`, to be posted to a worker, where {@link sharedMesh} makes the same
 * mesh of it without a copy.
 * @throws KeenError `bad-argument` for a mesh that is not in shared memory
 */
export function shareMesh(shape: Mesh): SharedArrayBuffer {
  const buffer = shape?.kind === 'mesh' ? shape.pieces[0].surface?.buffer : undefined
  if (typeof SharedArrayBuffer !== 'undefined' && buffer instanceof SharedArrayBuffer) return buffer
  throw new KeenError('bad-argument', `shareMesh takes a mesh made with 'shared: true', got ${show(shape)}`)
}

/** The mesh behind memory from {@link shareMesh}. @throws KeenError `bad-argument` for any other memory */
export function sharedMesh(memory: SharedArrayBuffer): Mesh {
  if (typeof memory !== 'object' || memory === null || !('byteLength' in memory)) {
    throw new KeenError('bad-argument', `sharedMesh takes memory from shareMesh, got ${show(memory)}`)
  }
  return meshOf(new Surface(memory))
}

/**
 * Heights over a grid, about its middle: along x the columns, along z the rows. No inside; `part` of a hit is twice the
 * cell's number (`row * (columns - 1) + column`), plus 1 for the triangle towards greater x and z.
 * @throws KeenError `bad-argument`, `bad-number`, `bad-shape`
 * @example heightfield({ columns: 3, rows: 2, heights: [0, 1, 0, 0, 2, NaN], cell: 0.5 })
 */
export function heightfield(spec: HeightfieldSpec): Heightfield {
  onlyFields(spec, ['columns', 'rows', 'heights', 'cell', 'sides', 'build', 'shared'], 'a heightfield')
  const { columns, rows } = spec
  for (const [name, value] of Object.entries({ columns, rows })) {
    if (Number.isInteger(value) && value >= 2) continue
    throw new KeenError('bad-number', `'${name}' of a heightfield must be a whole number from 2 on, got ${show(value)}`)
  }
  const heights = numbers(spec.heights, "'heights' of a heightfield")
  if (heights.length !== columns * rows) {
    throw new KeenError(
      'bad-shape',
      `'heights' of a heightfield must be ${columns} x ${rows} = ${columns * rows} numbers, got ${heights.length}`,
    )
  }
  const { cell } = spec
  const cellX = size(typeof cell === 'object' ? cell?.x : cell, "'cell' of a heightfield")
  const cellZ = size(typeof cell === 'object' ? cell?.z : cell, "'cell' of a heightfield")
  const positions = new Float64Array(3 * columns * rows)
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const at = row * columns + column
      const height = heights[at]
      if (typeof height !== 'number' || Math.abs(height) > COORDINATE) {
        const what = `heights[${at}] of a heightfield must be from -${COORDINATE} to ${COORDINATE}, or NaN for a hole`
        throw new KeenError('bad-number', `${what}, got ${show(height)}`)
      }
      positions[3 * at] = (column - (columns - 1) / 2) * cellX
      positions[3 * at + 1] = height
      positions[3 * at + 2] = (row - (rows - 1) / 2) * cellZ
    }
  }
  const cells = (columns - 1) * (rows - 1)
  const soup = gather(
    2 * cells,
    (corner) => {
      const triangle = Math.floor(corner / 3)
      const at = triangle >> 1
      const first = Math.floor(at / (columns - 1)) * columns + (at % (columns - 1))
      const far = first + columns + 1
      // Counter-clockwise seen from above, both along the diagonal from `first` to `far`.
      const own = (triangle & 1) === 0 ? [first, first + columns, far] : [first, far, first + 1]
      return own[corner % 3]
    },
    positions,
  )
  if (soup.parts.length === 0) throw new KeenError('bad-shape', 'a heightfield needs a cell that is no hole')
  const surface = surfaceOf(soup, spec, 'a heightfield')
  return Object.freeze({
    kind: 'heightfield',
    columns,
    rows,
    sides: surface.front ? 'front' : 'both',
    ...surfaceFacts(surface),
  })
}

/** The vertex that replaces each one: the first in the same place, or within `reach`. */
function weldVertices(positions: ArrayLike<number>, reach: number): Int32Array {
  return reach > 0 ? weldNear(positions, reach) : weldEqual(positions)
}

/** Equal vertices are one: a table of places, by a hash of their numbers' bits. */
function weldEqual(positions: ArrayLike<number>): Int32Array {
  const count = positions.length / 3
  const stands = new Int32Array(count)
  let size = 64
  while (size < 2 * count) size *= 2
  const table = new Int32Array(size).fill(-1)
  const place = new Float64Array(3)
  const bits = new Int32Array(place.buffer)
  for (let i = 0; i < count; i++) {
    let hash = 0
    // Adding 0 turns -0 into 0.
    for (let k = 0; k < 3; k++) place[k] = positions[3 * i + k] + 0
    for (let k = 0; k < 6; k++) hash = Math.imul(hash ^ bits[k], 0x9e3779b1) ^ (hash >>> 15)
    let cell = (hash ^ (hash >>> 13)) & (size - 1)
    for (; table[cell] >= 0; cell = (cell + 1) & (size - 1)) {
      const other = 3 * table[cell]
      if (positions[other] !== place[0] || positions[other + 1] !== place[1]) continue
      if (positions[other + 2] === place[2]) break
    }
    if (table[cell] < 0) table[cell] = i
    stands[i] = table[cell]
  }
  return stands
}

/** Vertices within reach of each other are one, found over a grid of cells of that size. */
function weldNear(positions: ArrayLike<number>, reach: number): Int32Array {
  const count = positions.length / 3
  const stands = new Int32Array(count)
  const cells = new Map<string, number[]>()
  const cellOf = (value: number): number => Math.floor(value / reach)
  const offsets = [-1, 0, 1]
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [positions[3 * i], positions[3 * i + 1], positions[3 * i + 2]]
    const [cx, cy, cz] = [cellOf(x), cellOf(y), cellOf(z)]
    stands[i] = i
    let best = -1
    for (const dx of offsets) {
      for (const dy of offsets) {
        for (const dz of offsets) {
          for (const other of cells.get(`${cx + dx},${cy + dy},${cz + dz}`) ?? []) {
            const dx = positions[3 * other] - x
            const dy = positions[3 * other + 1] - y
            const dz = positions[3 * other + 2] - z
            if (dx * dx + dy * dy + dz * dz <= reach * reach && (best < 0 || other < best)) best = other
          }
        }
      }
    }
    if (best >= 0) {
      stands[i] = best
      continue
    }
    const key = `${cx},${cy},${cz}`
    const list = cells.get(key)
    if (list === undefined) cells.set(key, [i])
    else list.push(i)
  }
  return stands
}

/** The triangles that have an area. @param vertexOf the vertex of a corner */
function gather(count: number, vertexOf: (corner: number) => number, positions: ArrayLike<number>): Soup {
  const corners = new Float64Array(9 * count)
  const parts = new Int32Array(count)
  const vertices = new Int32Array(3 * count)
  let kept = 0
  for (let part = 0; part < count; part++) {
    for (let k = 0; k < 3; k++) {
      const vertex = vertexOf(3 * part + k)
      vertices[3 * kept + k] = vertex
      for (let axis = 0; axis < 3; axis++) corners[9 * kept + 3 * k + axis] = positions[3 * vertex + axis]
    }
    if (!hasArea(corners, 9 * kept)) continue
    parts[kept++] = part
  }
  return {
    corners: corners.subarray(0, 9 * kept),
    parts: parts.subarray(0, kept),
    vertices: vertices.subarray(0, 3 * kept),
  }
}

/** Twice the area of a triangle as a vector. */
function areaOf(p: ArrayLike<number>, at: number): [number, number, number] {
  const e = [p[at + 3] - p[at], p[at + 4] - p[at + 1], p[at + 5] - p[at + 2]]
  const f = [p[at + 6] - p[at], p[at + 7] - p[at + 1], p[at + 8] - p[at + 2]]
  return [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]]
}

function hasArea(p: ArrayLike<number>, at: number): boolean {
  const [x, y, z] = areaOf(p, at)
  return x * x + y * y + z * z > 0
}

function surfaceFacts(surface: Surface): ShapeFacts {
  const moments = new Moments()
  const { corners } = surface
  for (let at = 0; at < corners.length; at += 9) {
    const [x, y, z] = areaOf(corners, at)
    const middle = (axis: number): number => (corners[at + axis] + corners[at + 3 + axis] + corners[at + 6 + axis]) / 3
    moments.add(Math.sqrt(x * x + y * y + z * z) / 2, middle(0), middle(1), middle(2), [0, 0, 0, 0, 0, 0])
  }
  const block = Float64Array.of(SURFACE, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1)
  return factsOf([{ block, surface, child: -1 }], moments, false)
}
