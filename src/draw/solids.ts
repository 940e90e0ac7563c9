/** Shapes of 3D as triangles with the edges that are worth a line: what every picture of them is made from. */
import type { Shape3, Vec3 } from '../3d/index.ts'
import { rotationTowards } from '../3d/index.ts'
import { frameOf, placed } from './frame.ts'

/** A surface for drawing, about the shape's own origin. */
export interface Solid {
  /** Nine numbers a triangle, counter-clockwise seen from outside. */
  readonly corners: Float64Array
  /** The triangle across each edge, from corner i to i + 1; -1 where there is none. */
  readonly neighbours: Int32Array
  /** 1 for each edge that is always drawn: a crease, a border, or a line that shows how the surface runs. */
  readonly lines: Uint8Array
  /** Whether it has an inside: its back is never seen. */
  readonly closed: boolean
}

/** Edges between faces that turn by more than this are creases: cosine of 20 degrees. */
const CREASE = 0.94
/** Straight sides of a round outline. */
const SIDES = 24
/** Lines drawn across a field of heights, at most. */
const FIELD_LINES = 24

const kept = new WeakMap<object, readonly Solid[]>()

/** The solids of a shape, one for each of its parts; a halfspace has none. Kept with the shape. */
export function solidsOf(shape: Shape3): readonly Solid[] {
  let solids = kept.get(shape)
  if (solids === undefined) kept.set(shape, (solids = make(shape)))
  return solids
}

function make(shape: Shape3): Solid[] {
  switch (shape.kind) {
    case 'sphere':
      return [round(arc(shape.radius))]
    case 'box':
      return [boxSolid(shape.size)]
    case 'capsule':
      return [capsuleSolid(shape.a, shape.b, shape.radius)]
    case 'cylinder': {
      const { height, radius } = shape
      return [
        round([
          [0, -height / 2],
          [radius, -height / 2],
          [radius, height / 2],
          [0, height / 2],
        ]),
      ]
    }
    case 'cone': {
      const { height, radius } = shape
      return [
        round([
          [0, -height / 2],
          [radius, -height / 2],
          [0, height / 2],
        ]),
      ]
    }
    case 'hull':
      return [solidOf(shape.faces.map((face) => face.map((corner) => shape.points[corner])))]
    case 'mesh':
    case 'heightfield':
      return [surfaceSolid(shape)]
    case 'halfspace':
      return []
    case 'compound':
      return shape.parts.flatMap((part) => {
        const frame = frameOf(part.at ?? { x: 0, y: 0, z: 0 }, part.rotation)
        return solidsOf(part.shape).map((solid) => ({ ...solid, corners: placed(solid.corners, frame) }))
      })
  }
}

type Profile = readonly (readonly [number, number])[]

/** The profile of a ball: radius and height from the south pole to the north. */
function arc(radius: number): [number, number][] {
  const steps = SIDES / 2
  return Array.from({ length: steps + 1 }, (_, i) => {
    const angle = (Math.PI * i) / steps - Math.PI / 2
    const r = i === 0 || i === steps ? 0 : radius * Math.cos(angle)
    return [r, radius * Math.sin(angle)]
  })
}

/** A profile turned about y, from the bottom to the top. */
function round(profile: Profile): Solid {
  const at = (k: number, [r, y]: readonly [number, number]): Vec3 => {
    const angle = (2 * Math.PI * (k % SIDES)) / SIDES
    return { x: r * Math.cos(angle), y, z: r * Math.sin(angle) }
  }
  const faces: Vec3[][] = []
  for (let i = 1; i < profile.length; i++) {
    const low = profile[i - 1]
    const high = profile[i]
    for (let k = 0; k < SIDES; k++) {
      const face = [at(k, low), at(k, high), at(k + 1, high), at(k + 1, low)]
      if (low[0] === 0) face.splice(3, 1)
      else if (high[0] === 0) face.splice(1, 1)
      faces.push(face)
    }
  }
  // Besides the creases, lines where the axes cut it show that it is round.
  const most = Math.max(...profile.flat())
  const near = (value: number): boolean => Math.abs(value) < 1e-9 * most
  return solidOf(faces, (a, b) => (near(a.x) && near(b.x)) || (near(a.z) && near(b.z)) || (near(a.y) && near(b.y)))
}

function boxSolid({ x, y, z }: Vec3): Solid {
  const at = (i: number): Vec3 => ({
    x: (i & 1) === 0 ? -x / 2 : x / 2,
    y: (i & 2) === 0 ? -y / 2 : y / 2,
    z: (i & 4) === 0 ? -z / 2 : z / 2,
  })
  const faces = [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ]
  return solidOf(faces.map((face) => face.map(at)))
}

function capsuleSolid(a: Vec3, b: Vec3, radius: number): Solid {
  const along = { x: b.x - a.x, y: b.y - a.y, z: b.z - a.z }
  const half = Math.hypot(along.x, along.y, along.z) / 2
  const ball = arc(radius)
  const profile: [number, number][] = [
    ...ball.slice(0, 7).map(([r, y]): [number, number] => [r, y - half]),
    ...ball.slice(half > 0 ? 6 : 7).map(([r, y]): [number, number] => [r, y + half]),
  ]
  const solid = round(profile)
  // Its y is the way from a to b.
  const middle = { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, z: (a.z + b.z) / 2 }
  const frame = frameOf(middle, half > 0 ? rotationTowards(along) : undefined)
  const corners = Float64Array.from(solid.corners)
  // Towards turns -z to the axis: y first becomes -z.
  if (half > 0) {
    for (let i = 0; i < corners.length; i += 3) {
      const y = corners[i + 1]
      corners[i + 1] = corners[i + 2]
      corners[i + 2] = -y
    }
  }
  return { ...solid, corners: placed(corners, frame) }
}

/** Triangles from polygons; neighbours by equal corners. */
function solidOf(faces: readonly (readonly Vec3[])[], guide: (a: Vec3, b: Vec3) => boolean = () => false): Solid {
  const count = faces.reduce((sum, face) => sum + face.length - 2, 0)
  const corners = new Float64Array(9 * count)
  const neighbours = new Int32Array(3 * count).fill(-1)
  const lines = new Uint8Array(3 * count)
  const open = new Map<string, number>()
  const key = (a: Vec3, b: Vec3): string => `${a.x},${a.y},${a.z};${b.x},${b.y},${b.z}`
  let t = 0
  for (const face of faces) {
    for (let k = 2; k < face.length; k++) {
      const points = [face[0], face[k - 1], face[k]]
      for (let i = 0; i < 3; i++) {
        corners.set([points[i].x, points[i].y, points[i].z], 9 * t + 3 * i)
        const edge = 3 * t + i
        const a = points[i]
        const b = points[(i + 1) % 3]
        if (guide(a, b)) lines[edge] = 1
        const other = open.get(key(b, a))
        if (other === undefined) open.set(key(a, b), edge)
        else {
          neighbours[edge] = Math.floor(other / 3)
          neighbours[other] = t
        }
      }
      t++
    }
  }
  markCreases(corners, neighbours, lines)
  return { corners, neighbours, lines, closed: true }
}

/** Borders, and edges where the surface turns. */
function markCreases(corners: Float64Array, neighbours: Int32Array, lines: Uint8Array): void {
  const count = corners.length / 9
  const normals = new Float64Array(3 * count)
  for (let t = 0; t < count; t++) unitNormal(corners, 9 * t, normals, 3 * t)
  for (let edge = 0; edge < neighbours.length; edge++) {
    const one = 3 * Math.floor(edge / 3)
    const other = 3 * neighbours[edge]
    const same =
      other < 0
        ? -1
        : normals[one] * normals[other] + normals[one + 1] * normals[other + 1] + normals[one + 2] * normals[other + 2]
    if (same < CREASE) lines[edge] = 1
  }
}

/** The unit normal of a triangle; nothing where it has no area. */
export function unitNormal(c: Float64Array, at: number, out: Float64Array, to: number): void {
  const ex = c[at + 3] - c[at]
  const ey = c[at + 4] - c[at + 1]
  const ez = c[at + 5] - c[at + 2]
  const fx = c[at + 6] - c[at]
  const fy = c[at + 7] - c[at + 1]
  const fz = c[at + 8] - c[at + 2]
  const x = ey * fz - ez * fy
  const y = ez * fx - ex * fz
  const z = ex * fy - ey * fx
  const length = Math.sqrt(x * x + y * y + z * z)
  const unit = length === 0 ? 0 : 1 / length
  out[to] = x * unit
  out[to + 1] = y * unit
  out[to + 2] = z * unit
}

function surfaceSolid(shape: Extract<Shape3, { kind: 'mesh' | 'heightfield' }>): Solid {
  const surface = shape.pieces[0].surface!
  const { corners, neighbours } = surface
  const lines = new Uint8Array(neighbours.length)
  if (shape.kind === 'mesh') markCreases(corners, neighbours, lines)
  else fieldLines(shape, corners, neighbours, lines)
  return { corners, neighbours, lines, closed: shape.kind === 'mesh' && surface.closed }
}

/** The border of a field, its holes, and a net of lines over it. */
function fieldLines(
  { columns, rows, bounds }: Extract<Shape3, { kind: 'heightfield' }>,
  corners: Float64Array,
  neighbours: Int32Array,
  lines: Uint8Array,
): void {
  const step = Math.max(1, Math.ceil(Math.max(columns, rows) / FIELD_LINES))
  const width = bounds.max.x - bounds.min.x
  const depth = bounds.max.z - bounds.min.z
  for (let edge = 0; edge < neighbours.length; edge++) {
    const t = Math.floor(edge / 3)
    const a = 9 * t + 3 * (edge % 3)
    const b = 9 * t + 3 * ((edge + 1) % 3)
    const column = Math.round(((corners[a] - bounds.min.x) / width) * (columns - 1))
    const row = Math.round(((corners[a + 2] - bounds.min.z) / depth) * (rows - 1))
    const alongZ = corners[a] === corners[b] && column % step === 0
    const alongX = corners[a + 2] === corners[b + 2] && row % step === 0
    if (neighbours[edge] < 0 || alongX || alongZ) lines[edge] = 1
  }
}
