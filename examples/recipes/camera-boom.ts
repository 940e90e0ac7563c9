/**
 * A camera on a boom behind the craft that must not enter rock. It ignores the craft itself, sensors (by default) and what
 * drifts about: a crate in the way should not make the picture jump.
 */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const layers = defineLayers(['rock', 'craft', 'crate', 'zone', 'camera'], {
  otherwise: 'solid',
  pairs: [
    ['camera', '*', 'pass'],
    ['camera', 'rock', 'solid'],
    ['zone', '*', 'sense'],
  ],
})
const world = createWorld({ layers })
const craft = world.add({ type: 'kinematic', at: { x: 0, y: 0 }, colliders: [{ shape: circle(0.5), layer: 'craft' }] })
world.add({ type: 'kinematic', at: { x: -2, y: 0 }, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
world.add({ type: 'static', at: { x: -6, y: 0 }, colliders: [{ shape: box(2, 6), layer: 'rock' }] })

const BOOM = 8
const lens = circle(0.3)
for (const heading of [
  { x: -1, y: 0 },
  { x: 0, y: 1 },
]) {
  const to = { x: craft.at.x + heading.x * BOOM, y: craft.at.y + heading.y * BOOM }
  const hit = world.shapecast.first({ shape: lens, from: craft.at, to }, { as: 'camera' })
  console.log(`boom towards ${heading.x}, ${heading.y}: ${(hit?.distance ?? BOOM).toFixed(2)} m long`)
}
