/** Who sees whom: near enough, within the angle of the lamp, and not hidden behind rock. */
import { createWorld, cylinder, defineLayers, rotated, rotationTowards, sphere, type Vec3 } from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['rock', 'pod']) })
world.add({
  type: 'static',
  name: 'pillar',
  at: { x: 4, y: 0, z: -4 },
  colliders: [{ shape: cylinder(6, 0.8), layer: 'rock' }],
})
const pods: [string, Vec3][] = [
  ['near', { x: 1, y: 0.5, z: -5 }],
  ['behind the pillar', { x: 7, y: 0, z: -7 }],
  ['over the pillar', { x: 7, y: 6, z: -7 }],
  ['aside', { x: -6, y: 0, z: -1 }],
  ['far', { x: 2, y: 0, z: -40 }],
]
for (const [name, at] of pods) {
  world.add({ type: 'kinematic', name, at, colliders: [{ shape: sphere(0.4), layer: 'pod' }] })
}

const eye = { x: 0, y: 1, z: 0 }
const forward = rotated(rotationTowards({ x: 1, y: 0.2, z: -2 }), { x: 0, y: 0, z: -1 })
const reach = 15
const halfAngle = Math.PI / 5
// First all that are near, then the angle, and only for the rest a ray.
const seen = new Set<string | null>()
for (const { body } of world.nearest.all({ point: eye, reach }, { layers: 'pod' })) {
  const to = body.at
  const way = { x: to.x - eye.x, y: to.y - eye.y, z: to.z - eye.z }
  const length = Math.hypot(way.x, way.y, way.z)
  const cosine = (way.x * forward.x + way.y * forward.y + way.z * forward.z) / length
  if (cosine < Math.cos(halfAngle)) continue
  if (!world.raycast.any({ from: eye, to }, { layers: 'rock' })) seen.add(body.name)
}
for (const [name] of pods) console.log(`${name}: ${seen.has(name) ? 'seen' : 'not seen'}`)
