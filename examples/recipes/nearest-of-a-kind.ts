/** The nearest lamp: by tag, within reach, and how far to go to touch it. */
import { circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['craft', 'fauna', 'crate']), tags: ['lamp'] })
const lantern = world.add({
  type: 'kinematic',
  at: { x: 0, y: 0 },
  colliders: [{ shape: circle(0.5), layer: 'craft' }],
})
world.add({ type: 'kinematic', name: 'crate', at: { x: 2, y: 0 }, colliders: [{ shape: circle(0.5), layer: 'crate' }] })
world.add({
  type: 'kinematic',
  name: 'lampfish',
  at: { x: 3, y: 4 },
  colliders: [{ shape: circle(0.25), layer: 'fauna', tags: ['lamp'] }],
})
world.add({
  type: 'kinematic',
  name: 'lamp pod',
  at: { x: -6, y: 0 },
  colliders: [{ shape: circle(0.5), layer: 'crate', tags: ['lamp'] }],
})

const hit = world.nearest.first(
  { shape: circle(0.5), at: lantern.at, reach: 10 },
  { except: lantern, where: (collider) => collider.tags.includes('lamp') },
)
console.log(`nearest lamp: ${hit?.body}, ${hit?.distance.toFixed(2)} m between the hulls`)
