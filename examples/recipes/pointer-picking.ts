/** Picking with the pointer: what lies under a point of the screen, topmost first, zones last. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['craft', 'crate', 'zone'], { pairs: [['zone', '*', 'sense']] }) })
world.add({
  type: 'static',
  name: 'dock',
  at: { x: 5, y: 5 },
  colliders: [{ shape: box(6, 4), layer: 'zone', sensor: true }],
})
world.add({ type: 'kinematic', name: 'lantern', at: { x: 5, y: 5 }, colliders: [{ shape: circle(1), layer: 'craft' }] })
world.add({ type: 'kinematic', name: 'crate', at: { x: 5.8, y: 5 }, colliders: [{ shape: box(1, 1), layer: 'crate' }] })

/** 40 pixels to a metre, 800 by 600 of them, y down. */
const toWorld = (x: number, y: number) => ({ x: x / 40, y: (600 - y) / 40 })

function pick(x: number, y: number): string {
  const at = toWorld(x, y)
  // A very small circle, so that thin lines can be picked too: 3 pixels.
  const finger = circle(3 / 40)
  const hits = world.overlap.all({ shape: finger, at }, { sensors: true })
  const solid = hits.filter((hit) => !hit.collider.sensor)
  return (solid.at(-1) ?? hits.at(-1))?.body.name ?? 'nothing'
}

for (const [x, y] of [
  [200, 400],
  [222, 400],
  [300, 340],
  [700, 100],
])
  console.log(`${x}, ${y}: ${pick(x, y)}`)
