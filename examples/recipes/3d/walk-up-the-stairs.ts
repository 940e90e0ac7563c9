/** A diver in 3D: it walks up stairs, along a wall that it runs into aslant, and rides a turning platform, which turns it as well. */
import { box, capsule, createWorld, defineLayers } from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['rock', 'diver']) })
const rock = (name: string, x: number, y: number, z: number, shape: ReturnType<typeof box>) =>
  world.add({ type: 'static', name, at: { x, y, z }, colliders: [{ shape, layer: 'rock' }] })
rock('floor', 0, -0.5, 0, box(40, 1, 40))
for (let i = 0; i < 4; i++) rock(`stair ${i + 1}`, 2.25 + 0.5 * i, 0.125 * (i + 1), 0, box(0.5, 0.25 * (i + 1), 6))
rock('landing', 6, 0.5, 0, box(4, 1, 6))
rock('wall', 4, 2, 3.5, box(12, 4, 1))
const table = world.add({
  type: 'kinematic',
  name: 'turntable',
  at: { x: 10, y: 0.5, z: 0 },
  spin: { x: 0, y: 0.5, z: 0 },
  colliders: [{ shape: box(3.9, 1, 3.9), layer: 'rock' }],
})
const body = capsule({ x: 0, y: -0.5, z: 0 }, { x: 0, y: 0.5, z: 0 }, 0.4)
const diver = world.add({
  type: 'kinematic',
  at: { x: 0, y: 0.9, z: 1.5 },
  colliders: [{ shape: body, layer: 'diver' }],
})

let stood = ''
for (let tick = 0; tick < 480; tick++) {
  const walks = tick < 300
  // Aslant into the wall for a while: what leads into it is lost, the rest is kept.
  const by = { x: walks ? 2 / 60 : 0, y: -0.05, z: walks && tick < 150 ? 1 / 60 : walks ? -1 / 60 : 0 }
  const { ground } = diver.travel(by, { onHit: 'slide', stepHeight: 0.3, snap: 0.3, ride: true })
  world.step()
  const name = String(ground?.body ?? 'nothing')
  if (name !== stood) console.log(`${world.time.toFixed(2)} s  on ${name}, ${diver.at.z.toFixed(2)} m to the side`)
  stood = name
}
console.log(
  `turned by the ${table}: ${(2 * Math.asin(diver.rotation.y)).toFixed(2)} of its ${(0.5 * 8).toFixed(0)} rad`,
)
