/**
 * The convex hull of points: Quickhull (Barber, Dobkin and Huhdanpaa, 1996). Triangles that lie in one plane are joined to
 * faces, and what lies on a face or an edge is no corner. Cost: about n log n for n points, once a shape.
 */
import { KeenError } from '../../core/util/errors.ts'
import { cross, dot, type Vec3 } from '../vector.ts'

/** Part of the greatest extent up to which points count as in one plane, line or place. */
const SAME_PLANE = 1e-11
/** Part of the greatest extent below which two points are one: an edge between them would have no direction to match. */
const SAME_PLACE = 1e-8
/** Part of the greatest extent below which a set of points has no volume. */
const FLAT = 1e-9

export interface Hulled {
  readonly points: readonly Vec3[]
  /** Indexes into `points`, counter-clockwise seen from outside. */
  readonly faces: readonly (readonly number[])[]
  /** Unit normal out of each face. */
  readonly normals: readonly Vec3[]
  readonly offsets: readonly number[]
}

interface Facet {
  readonly corners: readonly [number, number, number]
  readonly normal: Vec3
  readonly offset: number
  /** The facet across the edge from corner i to corner i + 1. */
  readonly across: (Facet | null)[]
  outside: number[]
  gone: boolean
  /** The visit that came to it last. */
  mark: number
}

const minus = (a: Vec3, b: Vec3): Vec3 => ({ x: a.x - b.x, y: a.y - b.y, z: a.z - b.z })
const lengthOf = (v: Vec3): number => Math.sqrt(dot(v, v))

/** @throws KeenError `bad-shape` for points without volume */
export function hullOf(given: readonly Vec3[]): Hulled {
  const extent = extentOf(given)
  const points = different(given, SAME_PLACE * extent)
  const first = firstFour(points, given.length, extent)
  const tolerance = SAME_PLANE * extent
  const facets = grow(points, first, tolerance)
  return joined(points, facets, tolerance)
}

/** The greatest size of points along an axis. */
function extentOf(points: readonly Vec3[]): number {
  let extent = 0
  for (const axis of ['x', 'y', 'z'] as const) {
    let low = Infinity
    let high = -Infinity
    for (const point of points) {
      low = Math.min(low, point[axis])
      high = Math.max(high, point[axis])
    }
    extent = Math.max(extent, high - low)
  }
  return extent
}

/** Without points that repeat an earlier one, or are nearer to it than `reach`: found over a grid of cells of that size. */
function different(points: readonly Vec3[], reach: number): Vec3[] {
  const cells = new Map<string, Vec3[]>()
  const cellOf = (value: number): number => (reach > 0 ? Math.floor(value / reach) : value + 0)
  const around = reach > 0 ? [-1, 0, 1] : [0]
  return points.filter((point) => {
    const [x, y, z] = [cellOf(point.x), cellOf(point.y), cellOf(point.z)]
    for (const i of around) {
      for (const j of around) {
        for (const k of around) {
          for (const other of cells.get(`${x + i},${y + j},${z + k}`) ?? []) {
            const apart = minus(point, other)
            if (dot(apart, apart) <= reach * reach) return false
          }
        }
      }
    }
    const key = `${x},${y},${z}`
    const list = cells.get(key)
    if (list === undefined) cells.set(key, [point])
    else list.push(point)
    return true
  })
}

function refuse(given: number, count: number, why: string): KeenError {
  const same = count < given ? `, of which ${count} are different` : ''
  return new KeenError(
    'bad-shape',
    `a hull needs at least four points that are not in one plane, got ${given}${same}: ${why}`,
  )
}

/** Four points that span as much as can be, so turned that the fourth lies below the first three. */
function firstFour(points: readonly Vec3[], given: number, extent: number): [number, number, number, number] {
  const n = points.length
  if (n < 4) throw refuse(given, n, 'too few')
  const farthest = (measure: (p: Vec3) => number): number => {
    let best = 0
    let most = -Infinity
    for (let i = 0; i < n; i++) {
      const here = measure(points[i])
      if (here > most) {
        most = here
        best = i
      }
    }
    return best
  }
  const a = farthest((p) => -p.x - 1e-3 * p.y)
  const b = farthest((p) => lengthOf(minus(p, points[a])))
  const ab = minus(points[b], points[a])
  const length = lengthOf(ab)
  const offLine = (p: Vec3): number => lengthOf(cross(ab, minus(p, points[a]))) / length
  const c = farthest(offLine)
  if (!(offLine(points[c]) > FLAT * extent)) throw refuse(given, n, 'they lie in one line')
  const normal = cross(ab, minus(points[c], points[a]))
  const area = lengthOf(normal)
  const height = (p: Vec3): number => dot(normal, minus(p, points[a])) / area
  const d = farthest((p) => Math.abs(height(p)))
  const thick = Math.abs(height(points[d]))
  if (!(thick > FLAT * extent)) {
    const why = thick === 0 ? 'they lie in one plane' : `they are flat, ${thick} thick over ${extent}`
    throw refuse(given, n, `${why}; a thin box or a mesh can stand for it`)
  }
  return height(points[d]) > 0 ? [a, c, b, d] : [a, b, c, d]
}

function facet(points: readonly Vec3[], i: number, j: number, k: number): Facet {
  const normal = cross(minus(points[j], points[i]), minus(points[k], points[i]))
  const length = lengthOf(normal)
  const unit = length > 0 ? { x: normal.x / length, y: normal.y / length, z: normal.z / length } : { x: 0, y: 0, z: 0 }
  const offset = Math.max(dot(unit, points[i]), dot(unit, points[j]), dot(unit, points[k]))
  return { corners: [i, j, k], normal: unit, offset, across: [null, null, null], outside: [], gone: false, mark: 0 }
}

/** Puts each point outside into the list of the facet that it is farthest above. */
function sort(points: readonly Vec3[], which: readonly number[], facets: readonly Facet[], tolerance: number): void {
  for (const i of which) {
    let best: Facet | null = null
    let most = tolerance
    for (const each of facets) {
      const height = dot(each.normal, points[i]) - each.offset
      if (height > most) {
        most = height
        best = each
      }
    }
    best?.outside.push(i)
  }
}

function grow(points: readonly Vec3[], [a, b, c, d]: readonly number[], tolerance: number): Facet[] {
  const start = [facet(points, a, b, c), facet(points, a, d, b), facet(points, b, d, c), facet(points, c, d, a)]
  link(start)
  sort(
    points,
    points.map((_, i) => i),
    start,
    tolerance,
  )
  const all = [...start]
  let visit = 0
  for (let at = 0; at < all.length; at++) {
    const from = all[at]
    if (from.gone || from.outside.length === 0) continue
    let tip = from.outside[0]
    let most = -Infinity
    for (const i of from.outside) {
      const height = dot(from.normal, points[i])
      if (height > most) {
        most = height
        tip = i
      }
    }
    visit++
    const visible: Facet[] = [from]
    from.mark = visit
    for (let i = 0; i < visible.length; i++) {
      for (const other of visible[i].across) {
        if (other === null || other.mark === visit) continue
        if (dot(other.normal, points[tip]) - other.offset <= tolerance) continue
        other.mark = visit
        visible.push(other)
      }
    }
    const made: Facet[] = []
    for (const each of visible) {
      each.gone = true
      for (let edge = 0; edge < 3; edge++) {
        const other = each.across[edge]
        if (other === null || other.mark === visit) continue
        const fresh = facet(points, each.corners[edge], each.corners[(edge + 1) % 3], tip)
        fresh.across[0] = other
        const back = other.across.indexOf(each)
        other.across[back] = fresh
        made.push(fresh)
      }
    }
    link(made)
    const left = visible.flatMap((each) => each.outside.filter((i) => i !== tip))
    sort(points, left, made, tolerance)
    for (const each of made) all.push(each)
  }
  return all.filter((each) => !each.gone)
}

/** Links facets over the edges that they share among each other. */
function link(facets: readonly Facet[]): void {
  const edges = new Map<string, [Facet, number]>()
  for (const each of facets) {
    for (let edge = 0; edge < 3; edge++) {
      if (each.across[edge] !== null) continue
      const from = each.corners[edge]
      const to = each.corners[(edge + 1) % 3]
      const back = edges.get(`${to},${from}`)
      if (back === undefined) edges.set(`${from},${to}`, [each, edge])
      else {
        each.across[edge] = back[0]
        back[0].across[back[1]] = each
      }
    }
  }
}

/** Joins triangles in one plane to faces, and keeps only the points that are corners. */
function joined(points: readonly Vec3[], facets: readonly Facet[], tolerance: number): Hulled {
  const groups: Facet[][] = []
  const seen = new Set<Facet>()
  // The largest first, so that the plane of a group is that of a well shaped triangle.
  const areaOf = ({ corners: [i, j, k] }: Facet): number =>
    lengthOf(cross(minus(points[j], points[i]), minus(points[k], points[i])))
  const sorted = facets.map((each) => ({ each, area: areaOf(each) })).sort((p, q) => q.area - p.area)
  for (const { each: from } of sorted) {
    if (seen.has(from)) continue
    seen.add(from)
    const group = [from]
    for (let i = 0; i < group.length; i++) {
      for (const other of group[i].across) {
        if (other === null || seen.has(other)) continue
        if (dot(other.normal, from.normal) < 0) continue
        if (!other.corners.every((k) => Math.abs(dot(from.normal, points[k]) - from.offset) <= 10 * tolerance)) continue
        seen.add(other)
        group.push(other)
      }
    }
    groups.push(group)
  }
  const loops = groups.map((group) => loopOf(group) ?? [...group[0].corners])
  // A corner joins at least three faces; what joins two lies on the edge between them.
  const uses = new Map<number, number>()
  for (const loop of loops) for (const i of loop) uses.set(i, (uses.get(i) ?? 0) + 1)
  const numbers = new Map<number, number>()
  const corners: Vec3[] = []
  for (let i = 0; i < points.length; i++) {
    if ((uses.get(i) ?? 0) < 3) continue
    numbers.set(i, corners.length)
    const { x, y, z } = points[i]
    corners.push(Object.freeze({ x, y, z }))
  }
  const faces: number[][] = []
  const normals: Vec3[] = []
  const offsets: number[] = []
  loops.forEach((loop, index) => {
    const face = loop.filter((i) => numbers.has(i)).map((i) => numbers.get(i)!)
    if (face.length < 3) return
    const { normal } = groups[index][0]
    faces.push(face)
    normals.push(normal)
    // No corner may lie above a face.
    offsets.push(corners.reduce((most, corner) => Math.max(most, dot(normal, corner)), -Infinity))
  })
  return { points: corners, faces, normals, offsets }
}

/** The outline of facets that hang together, or null where it is none. */
function loopOf(group: readonly Facet[]): number[] | null {
  if (group.length === 1) return [...group[0].corners]
  const within = new Set(group)
  const next = new Map<number, number>()
  for (const each of group) {
    for (let edge = 0; edge < 3; edge++) {
      const other = each.across[edge]
      if (other !== null && within.has(other)) continue
      if (next.has(each.corners[edge])) return null
      next.set(each.corners[edge], each.corners[(edge + 1) % 3])
    }
  }
  const [start] = next.keys()
  const loop = [start]
  for (let at = next.get(start); at !== start; at = next.get(at!)) {
    if (at === undefined || loop.length > next.size) return null
    loop.push(at)
  }
  return loop.length === next.size ? loop : null
}
