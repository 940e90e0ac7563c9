/**
 * The words of a piece's block: what kind it is, how many points and planes it has, the radius by which its core is grown, and
 * then the core. Hot rooms keep typed copies (`const BODY: typeof layout.BODY = 4`): see tree/layout.ts.
 *
 * | kind | from `BODY` on |
 * |---|---|
 * | POINTS | x, y, z of each point; of a hull then nx, ny, nz, offset of each face; of one with more than {@link FEW} points then
 *   where the neighbours of each point stand (counted from here on, and where the last of them ends), and the neighbours |
 * | BOX | centre, three unit axes, three half sizes |
 * | CYLINDER, CONE | centre, unit axis (to the tip), half height, radius of the disc |
 * | TRIANGLE | three points; no inside |
 * | PLANE | offset, normal |
 * | SURFACE | place, then the rotation's matrix row by row: its triangles stand elsewhere |
 */
export const KIND = 0
export const POINT_COUNT = 1
export const FACE_COUNT = 2
export const RADIUS = 3
export const BODY = 4

/** Up to so many points are tried one by one for the farthest; among more, the way there leads from neighbour to neighbour. */
export const FEW = 32

export const POINTS = 0
export const BOX = 1
export const CYLINDER = 2
export const CONE = 3
export const TRIANGLE = 4
export const PLANE = 5
export const SURFACE = 6

export const TRIANGLE_BLOCK = 13
