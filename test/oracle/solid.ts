/**
 * Slow and plain references for shapes of 3D, from what a shape says of itself and not from its pieces: how far it reaches
 * in a direction, how far a point lies outside, and proofs that a distance or a depth is right.
 */
import type { Shape3 } from '../../src/3d/index.ts'

export interface P {
  readonly x: number
  readonly y: number
  readonly z: number
}
export interface Q extends P {
  readonly w: number
}

export interface Solid {
  readonly shape: Shape3
  readonly at: P
  readonly rotation: Q
}

export const add = (a: P, b: P, k = 1): P => ({ x: a.x + k * b.x, y: a.y + k * b.y, z: a.z + k * b.z })
export const sub = (a: P, b: P): P => add(a, b, -1)
export const scale = (a: P, k: number): P => ({ x: k * a.x, y: k * a.y, z: k * a.z })
export const dot = (a: P, b: P): number => a.x * b.x + a.y * b.y + a.z * b.z
export const cross = (a: P, b: P): P => ({
  x: a.y * b.z - a.z * b.y,
  y: a.z * b.x - a.x * b.z,
  z: a.x * b.y - a.y * b.x,
})
export const norm = (a: P): number => Math.hypot(a.x, a.y, a.z)
export const unit = (a: P): P => scale(a, 1 / norm(a))

/** A vector turned by a quaternion, by the product with it on both sides. */
export function turn(q: Q, v: P): P {
  const t = scale(cross(q, v), 2)
  return add(add(v, t, q.w), cross(q, t))
}

/** First the second turn, then the first. */
export const product = (p: Q, q: Q): Q => ({
  x: p.w * q.x + p.x * q.w + p.y * q.z - p.z * q.y,
  y: p.w * q.y - p.x * q.z + p.y * q.w + p.z * q.x,
  z: p.w * q.z + p.x * q.y - p.y * q.x + p.z * q.w,
  w: p.w * q.w - p.x * q.x - p.y * q.y - p.z * q.z,
})

const conjugate = (q: Q): Q => ({ x: -q.x, y: -q.y, z: -q.z, w: q.w })
const toOwn = (solid: Solid, p: P): P => turn(conjugate(solid.rotation), sub(p, solid.at))

/** How far a convex shape reaches along a unit direction, about its own origin. */
function ownReach(shape: Shape3, n: P): number {
  switch (shape.kind) {
    case 'sphere':
      return shape.radius
    case 'box': {
      const { size, radius: r } = shape
      const half = (length: number, part: number): number => (length / 2 - r) * Math.abs(part)
      return half(size.x, n.x) + half(size.y, n.y) + half(size.z, n.z) + r
    }
    case 'capsule':
      return Math.max(dot(shape.a, n), dot(shape.b, n)) + shape.radius
    case 'cylinder':
      return (shape.height / 2) * Math.abs(n.y) + shape.radius * Math.hypot(n.x, n.z)
    case 'cone':
      return Math.max((shape.height / 2) * n.y, (-shape.height / 2) * n.y + shape.radius * Math.hypot(n.x, n.z))
    case 'hull':
      return Math.max(...shape.points.map((p) => dot(p, n)))
    default:
      throw new Error(`no reach of a ${shape.kind}`)
  }
}

/** How far a placed convex shape reaches along a unit direction. */
const reach = (solid: Solid, n: P): number =>
  dot(solid.at, n) + ownReach(solid.shape, turn(conjugate(solid.rotation), n))

/** How far the second lies beyond the first along a direction; below 0 they overlap along it. */
export const apartAlong = (a: Solid, b: Solid, n: P): number => -reach(b, scale(n, -1)) - reach(a, n)

/** How far a point lies outside of a convex shape; 0 or below inside (then no distance, only a sign, for some). */
export function outside(solid: Solid, point: P): number {
  const { shape } = solid
  const p = toOwn(solid, point)
  switch (shape.kind) {
    case 'sphere':
      return norm(p) - shape.radius
    case 'box': {
      const { size, radius: r } = shape
      const over = (value: number, length: number): number => Math.max(0, Math.abs(value) - (length / 2 - r))
      return Math.hypot(over(p.x, size.x), over(p.y, size.y), over(p.z, size.z)) - r
    }
    case 'capsule': {
      const e = sub(shape.b, shape.a)
      const square = dot(e, e)
      const t = square === 0 ? 0 : Math.max(0, Math.min(1, dot(sub(p, shape.a), e) / square))
      return norm(sub(p, add(shape.a, e, t))) - shape.radius
    }
    case 'cylinder':
      return Math.max(Math.abs(p.y) - shape.height / 2, Math.hypot(p.x, p.z) - shape.radius)
    case 'cone': {
      const { height: h, radius: r } = shape
      const side = ((Math.hypot(p.x, p.z) - r) * h + (p.y + h / 2) * r) / Math.hypot(h, r)
      return Math.max(side, -h / 2 - p.y)
    }
    case 'hull':
      return Math.max(
        ...shape.faces.map((face) => {
          const n = unit(newell(face.map((i) => shape.points[i])))
          return dot(n, sub(p, shape.points[face[0]]))
        }),
      )
    default:
      throw new Error(`no inside of a ${shape.kind}`)
  }
}

/** The normal of a polygon, as long as twice its area. */
function newell(points: readonly P[]): P {
  let sum = { x: 0, y: 0, z: 0 } as P
  for (let i = 1; i + 1 < points.length; i++) {
    sum = add(sum, cross(sub(points[i], points[0]), sub(points[i + 1], points[0])))
  }
  return sum
}

/** Face normals and edge directions of a polyhedron in the world, or null for what is round. */
function features(solid: Solid): { faces: P[]; edges: P[] } | null {
  const { shape, rotation } = solid
  const world = (list: P[]): P[] => list.map((v) => turn(rotation, v))
  if (shape.kind === 'box' && shape.radius === 0) {
    const axes = [
      { x: 1, y: 0, z: 0 },
      { x: 0, y: 1, z: 0 },
      { x: 0, y: 0, z: 1 },
    ]
    return { faces: world(axes), edges: world(axes) }
  }
  if (shape.kind !== 'hull') return null
  const edges: P[] = []
  for (const face of shape.faces) {
    face.forEach((i, k) => {
      const j = face[(k + 1) % face.length]
      if (i < j) edges.push(sub(shape.points[j], shape.points[i]))
    })
  }
  return { faces: world(shape.faces.map((face) => newell(face.map((i) => shape.points[i])))), edges: world(edges) }
}

/**
 * The signed distance of two convex shapes: of polyhedra by every direction in which they can part (where they overlap), of
 * others by climbing from many directions. When they are apart that is a lower bound, which a proof must meet from above.
 */
export function bestApart(a: Solid, b: Solid): number {
  let best = -Infinity
  let where: P = { x: 0, y: 1, z: 0 }
  const look = (v: P): void => {
    const length = norm(v)
    if (length < 1e-9) return
    for (const sign of [1, -1]) {
      const n = scale(v, sign / length)
      const here = apartAlong(a, b, n)
      if (here > best) {
        best = here
        where = n
      }
    }
  }
  const fa = features(a)
  const fb = features(b)
  if (fa !== null && fb !== null) {
    for (const n of [...fa.faces, ...fb.faces]) look(n)
    for (const e of fa.edges) for (const f of fb.edges) look(cross(e, f))
    return best
  }
  look(sub(b.at, a.at))
  for (let i = 0; i < 200; i++) {
    // Evenly over the sphere, by the golden angle.
    const y = 1 - (2 * i + 1) / 200
    const r = Math.sqrt(1 - y * y)
    look({ x: r * Math.cos(2.399963 * i), y, z: r * Math.sin(2.399963 * i) })
  }
  for (const each of [fa, fb]) for (const n of each?.faces ?? []) look(n)
  for (let step = 0.2; step > 1e-9; step *= 0.6) {
    for (let round = 0; round < 3; round++) {
      const u = unit(cross(where, Math.abs(where.x) < 0.6 ? { x: 1, y: 0, z: 0 } : { x: 0, y: 1, z: 0 }))
      const v = cross(where, u)
      for (let k = 0; k < 8; k++) {
        const [c, s] = [Math.cos((k * Math.PI) / 4), Math.sin((k * Math.PI) / 4)]
        look(add(add(where, u, step * c), v, step * s))
      }
    }
  }
  return best
}
