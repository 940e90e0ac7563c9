/** A safe place to spawn on a slope: probe the floor, stand the pod upright on it, and take the first place that is free. */
import { box, capsule, createWorld, defineLayers, heightfield, sphere } from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['floor', 'rock', 'pod']) })
const columns = 11
const heights = Array.from({ length: columns * columns }, (_, i) => 0.4 * (i % columns))
world.add({
  type: 'static',
  name: 'slope',
  colliders: [{ shape: heightfield({ columns, rows: columns, heights, cell: 1 }), layer: 'floor' }],
})
world.add({
  type: 'static',
  name: 'boulder',
  at: { x: 0.5, y: 2.3, z: 0 },
  colliders: [{ shape: sphere(0.9), layer: 'rock' }],
})
world.add({
  type: 'static',
  name: 'hut',
  at: { x: 1.8, y: 3, z: 0.8 },
  colliders: [{ shape: box(1, 2, 1), layer: 'rock' }],
})

const radius = 0.4
const pod = capsule({ x: 0, y: -0.5, z: 0 }, { x: 0, y: 0.5, z: 0 }, radius)
const foot = sphere(radius)
for (const [x, z] of [
  [0, 0],
  [1, 0.6],
  [9, 0],
  [0.5, -1.6],
]) {
  // Where the round foot comes to rest: a cast, for a ray would put it into the slope.
  const down = { shape: foot, from: { x, y: 9, z }, to: { x, y: -9, z } }
  const ground = world.shapecast.first(down, { layers: 'floor' })
  if (ground === null) {
    console.log(`${x}, ${z}: no floor`)
    continue
  }
  const at = { x, y: 9 - ground.distance + 0.5 + 0.001, z }
  const blocked = world.overlap.first({ shape: pod, at }, { layers: ['floor', 'rock'] })
  if (blocked !== null) console.log(`${x}, ${z}: taken by ${blocked.body}`)
  else console.log(`${x}, ${z}: free, the pod stands at ${at.y.toFixed(2)} m`)
}
