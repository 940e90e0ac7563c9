/** A conveyor: the surface of a static body carries what lies on it, and friction decides how soon. */
import { box, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'crate', 'bin'], { pairs: [['bin', '*', 'sense']] }) })
const belt = world.add({
  type: 'static',
  name: 'belt',
  colliders: [{ shape: box(12, 0.4), layer: 'rock', surfaceSpeed: 1.5, friction: 0.8 }],
})
const bin = world.add({
  type: 'static',
  name: 'bin',
  at: { x: 7.8, y: -2 },
  colliders: [
    { shape: box(3.4, 1), layer: 'bin' },
    { shape: box(4, 0.2), layer: 'rock', at: { x: 0, y: -0.6 } },
  ],
})
world.watch(
  'crate',
  bin,
  { begin: (e) => console.log(`${e.time.toFixed(1)} s  ${e.a} drops into the bin`) },
  { response: 'sense' },
)
for (let i = 0; i < 3; i++) {
  world.add({
    type: 'dynamic',
    name: `crate ${i + 1}`,
    at: { x: -5 + 2 * i, y: 0.6 },
    colliders: [{ shape: box(0.8, 0.8), layer: 'crate' }],
  })
}
for (let i = 0; i < 600; i++) {
  if (i === 150) {
    belt.colliders[0].surfaceSpeed = 3
    console.log('2.5 s  the belt goes twice as fast')
  }
  world.step()
}
