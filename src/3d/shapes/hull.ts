import { KeenError, show } from '../../core/util/errors.ts'
import { checkVec, type Vec3 } from '../vector.ts'
import { factsOf, Moments, onePiece, pointsBlock } from './facts.ts'
import { hullOf } from './hulling.ts'
import { FACE_COUNT, FEW } from './layout.ts'
import type { Hull } from './shape.ts'

/**
 * The convex hull of points. Repeated points (to a part in 1e8 of the size of all), and those inside, on faces or on edges, are dropped; triangles in one plane
 * become one face.
 * @param points at least four that are not in one plane; nearly flat sets (below a part in 1e9) are refused
 * @throws KeenError `bad-shape` where there is no volume, saying whether the points are too few, in a line, or flat;
 *   `bad-argument`, `bad-number`
 */
export function hull(points: readonly Vec3[]): Hull {
  if (!Array.isArray(points)) throw new KeenError('bad-argument', `a hull takes a list of points, got ${show(points)}`)
  const given = (points as readonly Vec3[]).map((each, index) => {
    const { x, y, z } = checkVec(each, `points[${index}] of a hull`)
    return { x, y, z }
  })
  const { points: corners, faces, normals, offsets } = hullOf(given)
  const block = pointsBlock(0, corners)
  block[FACE_COUNT] = faces.length
  normals.forEach((normal, index) => {
    block.push(normal.x, normal.y, normal.z, offsets[index])
  })
  if (corners.length > FEW) pushNeighbours(block, corners.length, faces)
  const moments = new Moments()
  for (const face of faces) {
    for (let i = 1; i + 1 < face.length; i++) {
      moments.addTetrahedron(corners[0], corners[face[0]], corners[face[i]], corners[face[i + 1]])
    }
  }
  return Object.freeze({
    kind: 'hull',
    points: Object.freeze(corners),
    faces: Object.freeze(faces.map((face) => Object.freeze(face))),
    ...factsOf(onePiece(block), moments, true),
  })
}

/** Adds the neighbours of each corner, over the edges of the faces. */
function pushNeighbours(block: number[], count: number, faces: readonly (readonly number[])[]): void {
  const neighbours: number[][] = Array.from({ length: count }, () => [])
  for (const face of faces) {
    face.forEach((corner, i) => {
      neighbours[corner].push(face[(i + 1) % face.length])
    })
  }
  let start = count + 1
  for (const each of neighbours) {
    block.push(start)
    start += each.length
  }
  block.push(start)
  for (const each of neighbours) block.push(...each)
}
