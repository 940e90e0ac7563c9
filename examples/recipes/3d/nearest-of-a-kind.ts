/** The nearest lamp: by tag, within reach, and how far to go to touch it. */
import { createWorld, defineLayers, sphere } from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['craft', 'fauna', 'crate']), tags: ['lamp'] })
const lantern = world.add({
  type: 'kinematic',
  at: { x: 0, y: 0, z: 0 },
  colliders: [{ shape: sphere(0.5), layer: 'craft' }],
})
world.add({
  type: 'kinematic',
  name: 'crate',
  at: { x: 2, y: 0, z: 0 },
  colliders: [{ shape: sphere(0.5), layer: 'crate' }],
})
world.add({
  type: 'kinematic',
  name: 'lampfish',
  at: { x: 3, y: 4, z: 0 },
  colliders: [{ shape: sphere(0.25), layer: 'fauna', tags: ['lamp'] }],
})
world.add({
  type: 'kinematic',
  name: 'lamp pod',
  at: { x: -6, y: 0, z: 0 },
  colliders: [{ shape: sphere(0.5), layer: 'crate', tags: ['lamp'] }],
})

const hit = world.nearest.first(
  { shape: sphere(0.5), at: lantern.at, reach: 10 },
  { except: lantern, where: (collider) => collider.tags.includes('lamp') },
)
console.log(`nearest lamp: ${hit?.body}, ${hit?.distance.toFixed(2)} m between the hulls`)
