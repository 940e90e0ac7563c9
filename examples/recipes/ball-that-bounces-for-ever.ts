/**
 * A ball that bounces for ever, at any speed: it is swept, what is left of a tick after a hit goes on in the same tick, and the direction for the
 * next tick is the heading of this one.
 */
import { box, circle, createWorld, defineLayers, travelResult } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['wall', 'brick', 'ball']) })
for (let i = 0; i < 6; i++) {
  const angle = (i * Math.PI) / 3 + 0.2
  const at = { x: 6 * Math.cos(angle), y: 6 * Math.sin(angle) }
  world.add({ type: 'static', at, angle, colliders: [{ shape: box(1, 12), layer: 'wall' }] })
}
world.add({ type: 'static', name: 'brick', at: { x: 2, y: 1 }, colliders: [{ shape: box(1, 0.5), layer: 'brick' }] })
const ball = world.add({ type: 'kinematic', name: 'ball', colliders: [{ shape: circle(0.2), layer: 'ball' }] })

const SPEED = 900
const out = travelResult()
let heading = { x: 0.6, y: 0.8 }
let hits = 0
world.watch(
  ball,
  'brick',
  {
    begin: (e) => console.log(`${e.time.toFixed(2)} s  ${e.a} hits the ${e.b} at ${e.closingSpeed.toFixed(0)} m/s`),
  },
  { once: true },
)
for (let tick = 0; tick < 600; tick++) {
  const far = SPEED * world.dt
  ball.travel({ x: heading.x * far, y: heading.y * far }, { onHit: 'bounce', maxHits: 100, out })
  heading = { ...out.heading }
  hits += out.hits.length
  world.step()
}
const { x, y } = ball.at
console.log(`after ${world.time} s and ${hits} hits it is ${Math.hypot(x, y) < 6 ? 'still inside' : 'out'}`)
