/** A fan of sonar rays, all at once and without an object made: the way for many rays in every tick. */
import { box, circle, createWorld, defineLayers, rayResults } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'craft']) })
world.add({ type: 'static', name: 'pillar', at: { x: 6, y: 0 }, colliders: [{ shape: box(1, 2), layer: 'rock' }] })
world.add({ type: 'static', name: 'boulder', at: { x: 4, y: 4 }, colliders: [{ shape: circle(1), layer: 'rock' }] })

const COUNT = 9
const REACH = 10
// Made once and kept.
const rays = new Float64Array(4 * COUNT)
const out = rayResults(COUNT)

for (let i = 0; i < COUNT; i++) {
  const angle = -0.4 + (1.4 * i) / (COUNT - 1)
  rays.set([0, 0, REACH * Math.cos(angle), REACH * Math.sin(angle)], 4 * i)
}
const hits = world.raycast.batch(rays, out, { layers: 'rock' })
console.log(`${hits} of ${COUNT} rays come back`)
for (let i = 0; i < COUNT; i++) {
  const body = world.colliderAt(out.collider[i])?.body.name
  console.log(`${i}: ${body === undefined ? '-' : `${body}, ${(out.fraction[i] * REACH).toFixed(2)} m`}`)
}
