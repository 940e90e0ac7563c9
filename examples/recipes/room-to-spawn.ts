/** Is there room to put a crate here, and if not, where is the nearest free place? */
import { box, circle, createWorld, defineLayers, type Vec2 } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'crate']) })
world.add({ type: 'static', at: { x: 0, y: 0 }, colliders: [{ shape: circle(1), layer: 'rock' }] })
world.add({ type: 'static', at: { x: 2, y: 0.2 }, colliders: [{ shape: box(1.5, 1.5), layer: 'rock' }] })

const crate = box(1, 1)
/** Kept between the crate and what it is moved away from, so that rounding cannot make them touch. */
const GAP = 1e-6

/** Moves out of the deepest overlap until nothing is left of it: a few steps suffice in the open. */
function freePlace(wanted: Vec2): Vec2 | null {
  let { x, y } = wanted
  for (let step = 0; step < 32; step++) {
    const hits = world.overlap.all({ shape: crate, at: { x, y }, depth: true }, { as: 'crate' })
    if (hits.length === 0) return { x, y }
    const deepest = hits.reduce((a, b) => (b.depth > a.depth ? b : a))
    x += deepest.normal!.x * (deepest.depth + GAP)
    y += deepest.normal!.y * (deepest.depth + GAP)
  }
  return null
}

for (const at of [
  { x: -3, y: 0 },
  { x: 0.5, y: 0.6 },
]) {
  const free = freePlace(at)
  console.log(
    `wanted ${at.x}, ${at.y}: ${free === null ? 'no room' : `put at ${free.x.toFixed(2)}, ${free.y.toFixed(2)}`}`,
  )
}
