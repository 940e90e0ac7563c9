/**
 * Flats of a surface: triangles that are joined over their edges and lie in one plane. Found when the first body lies on the surface, by filling
 * from each triangle that has none yet: each is compared with the plane that the filling began with, so that nothing bends by and by.
 */
import { IntList } from '../../core/state/table.ts'
import type { Surface } from './surface.ts'

/** Cosine, and part of the greatest coordinate, within which two triangles lie in one plane. */
const SAME_PLANE = 1 - 1e-12
const SAME_OFFSET = 1e-12

const known = new WeakMap<Surface, Int32Array>()

/** Added where a triangle lies on the rim of its flat: over one of its edges lies none of the same. */
export const RIM = 1

/** The flat of each triangle: twice the number of its first triangle, and {@link RIM}. Time and memory: linear in the number of triangles, once. */
export function flatsOf(surface: Surface): Int32Array {
  const found = known.get(surface)
  if (found !== undefined) return found
  const flats = findFlats(surface)
  known.set(surface, flats)
  return flats
}

function findFlats(surface: Surface): Int32Array {
  const { count, neighbours, corners } = surface
  const flats = new Int32Array(count).fill(-1)
  const normals = normalsOf(surface)
  const slack = SAME_OFFSET * surface.scale
  const edge = new IntList()
  for (let first = 0; first < count; first++) {
    if (flats[first] >= 0) continue
    flats[first] = first
    edge.push(first)
    const nx = normals[3 * first]
    const ny = normals[3 * first + 1]
    const nz = normals[3 * first + 2]
    const offset = nx * corners[9 * first] + ny * corners[9 * first + 1] + nz * corners[9 * first + 2]
    while (edge.length > 0) {
      const at = edge.pop()
      for (let side = 0; side < 3; side++) {
        const other = neighbours[3 * at + side]
        if (other < 0 || flats[other] >= 0) continue
        const cosine = nx * normals[3 * other] + ny * normals[3 * other + 1] + nz * normals[3 * other + 2]
        if (!(cosine >= SAME_PLANE)) continue
        let lies = true
        for (let c = 9 * other; c < 9 * other + 9; c += 3) {
          const apart = nx * corners[c] + ny * corners[c + 1] + nz * corners[c + 2] - offset
          if (apart > slack || apart < -slack) lies = false
        }
        if (!lies) continue
        flats[other] = first
        edge.push(other)
      }
    }
  }
  const marked = new Int32Array(count)
  for (let i = 0; i < count; i++) {
    marked[i] = 2 * flats[i]
    for (let side = 3 * i; side < 3 * i + 3; side++) {
      if (neighbours[side] < 0 || flats[neighbours[side]] !== flats[i]) marked[i] |= RIM
    }
  }
  return marked
}

/** Unit normals by the way the corners run; NaN for what has no area, which lies in no plane but its own. */
function normalsOf({ count, corners }: Surface): Float64Array {
  const normals = new Float64Array(3 * count)
  for (let i = 0; i < count; i++) {
    const c = 9 * i
    const ux = corners[c + 3] - corners[c]
    const uy = corners[c + 4] - corners[c + 1]
    const uz = corners[c + 5] - corners[c + 2]
    const vx = corners[c + 6] - corners[c]
    const vy = corners[c + 7] - corners[c + 1]
    const vz = corners[c + 8] - corners[c + 2]
    const x = uy * vz - uz * vy
    const y = uz * vx - ux * vz
    const z = ux * vy - uy * vx
    const length = Math.sqrt(x * x + y * y + z * z)
    normals[3 * i] = x / length
    normals[3 * i + 1] = y / length
    normals[3 * i + 2] = z / length
  }
  return normals
}
