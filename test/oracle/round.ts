/**
 * Slow and plain references for shapes of 2D, written without looking at the library's way: distances by trying
 * every feature against every other, depths by trying every direction that can be the least.
 */

export interface Round {
  /** Core points, counter-clockwise. */
  readonly points: readonly { x: number; y: number }[]
  readonly radius: number
}

type P = { readonly x: number; readonly y: number }

const sub = (a: P, b: P): P => ({ x: a.x - b.x, y: a.y - b.y })
const dot = (a: P, b: P): number => a.x * b.x + a.y * b.y
const cross = (a: P, b: P): number => a.x * b.y - a.y * b.x

/** The first piece of a shape of the library, put at a pose. */
export function placed(
  shape: { readonly pieces: readonly { readonly block: Float64Array }[] },
  at: P,
  angle: number,
): Round {
  return allPlaced(shape, at, angle)[0]
}

/** All pieces of a shape of the library, put at a pose. */
function allPlaced(
  shape: { readonly pieces: readonly { readonly block: Float64Array }[] },
  at: P,
  angle: number,
): Round[] {
  return shape.pieces.map(({ block }) => placedBlock(block, at, angle))
}

/** Of a block its radius and core points, behind the two numbers of its head. */
export function placedBlock(block: Float64Array, at: P, angle: number): Round {
  const points: P[] = []
  for (let i = 3; i < block.length; i += 2) {
    const x = block[i]
    const y = block[i + 1]
    points.push({
      x: at.x + Math.cos(angle) * x - Math.sin(angle) * y,
      y: at.y + Math.sin(angle) * x + Math.cos(angle) * y,
    })
  }
  return { points, radius: block[2] }
}

function pointToSegment(p: P, a: P, b: P): number {
  const e = sub(b, a)
  const square = dot(e, e)
  const t = square === 0 ? 0 : Math.max(0, Math.min(1, dot(sub(p, a), e) / square))
  return Math.hypot(p.x - a.x - t * e.x, p.y - a.y - t * e.y)
}

function edges(round: Round): [P, P][] {
  const { points } = round
  if (points.length === 1) return [[points[0], points[0]]]
  if (points.length === 2) return [[points[0], points[1]]]
  return points.map((point, index) => [point, points[(index + 1) % points.length]])
}

function contains(round: Round, p: P): boolean {
  if (round.points.length < 3) return false
  return edges(round).every(([a, b]) => cross(sub(b, a), sub(p, a)) >= 0)
}

function segmentsCross(a: P, b: P, c: P, d: P): boolean {
  const d1 = cross(sub(b, a), sub(c, a))
  const d2 = cross(sub(b, a), sub(d, a))
  const d3 = cross(sub(d, c), sub(a, c))
  const d4 = cross(sub(d, c), sub(b, c))
  return d1 * d2 < 0 && d3 * d4 < 0
}

/** Distance of the cores; 0 when they meet. */
function coreDistance(a: Round, b: Round): number {
  if (b.points.some((p) => contains(a, p)) || a.points.some((p) => contains(b, p))) return 0
  let least = Infinity
  for (const [p, q] of edges(a)) {
    for (const [r, s] of edges(b)) {
      if (segmentsCross(p, q, r, s)) return 0
      least = Math.min(
        least,
        pointToSegment(p, r, s),
        pointToSegment(q, r, s),
        pointToSegment(r, p, q),
        pointToSegment(s, p, q),
      )
    }
  }
  return least
}

/** Least move that parts two cores that meet: over all edge normals of both, which suffices in 2D. */
function coreDepth(a: Round, b: Round): number {
  const normals: P[] = []
  for (const round of [a, b]) {
    for (const [p, q] of edges(round)) {
      const length = Math.hypot(q.x - p.x, q.y - p.y)
      if (length === 0) continue
      const n = { x: (q.y - p.y) / length, y: (p.x - q.x) / length }
      normals.push(n, { x: -n.x, y: -n.y })
    }
  }
  if (normals.length === 0) return 0
  return Math.min(
    ...normals.map((n) => Math.max(...a.points.map((p) => dot(p, n))) - Math.min(...b.points.map((p) => dot(p, n)))),
  )
}

/** Signed gap: negative is the depth. */
export function gapOf(a: Round, b: Round): number {
  const distance = coreDistance(a, b)
  return (distance > 0 ? distance : -coreDepth(a, b)) - a.radius - b.radius
}

export function moved(round: Round, by: P): Round {
  return { points: round.points.map((p) => ({ x: p.x + by.x, y: p.y + by.y })), radius: round.radius }
}

/** Signed distance of a point from a shape. */
export function pointGap(round: Round, p: P): number {
  return gapOf(round, { points: [p], radius: 0 })
}
