/** A camera boom that never enters rock: the lens is a ball that is cast back from the crawler, and stops where it would touch. */
import { boom, box, createWorld, defineLayers, hull, sphere } from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['rock', 'crawler', 'weed']) })
const crawler = world.add({
  type: 'kinematic',
  at: { x: 0, y: 1, z: 0 },
  colliders: [{ shape: box(2, 1, 3), layer: 'crawler' }],
})
const stone = hull([-1, 1].flatMap((x) => [0, 4].flatMap((y) => [-1, 1].map((z) => ({ x: x * (2 - y / 4), y, z })))))
world.add({ type: 'static', name: 'stone', at: { x: 0, y: 0, z: 6 }, colliders: [{ shape: stone, layer: 'rock' }] })
world.add({
  type: 'static',
  name: 'weed',
  at: { x: 0, y: 2, z: 3 },
  colliders: [{ shape: sphere(0.6), layer: 'weed' }],
})

// Weed may hide the view for a moment; rock may not.
const arm = boom(world, { radius: 0.3, halfLife: 0, filter: { layers: 'rock' } })
for (const back of [
  { x: 0, y: 2, z: 8 },
  { x: 6, y: 2, z: 6 },
]) {
  const { at } = crawler
  const { length, heldBy } = arm.aim(at, { x: at.x + back.x, y: at.y + back.y, z: at.z + back.z }, 1 / 60)
  const held = heldBy === null ? '' : `, held by ${heldBy.body}`
  console.log(`boom towards ${back.x}, ${back.y}, ${back.z}: ${length.toFixed(2)} m long${held}`)
}
