/** Aim from a muzzle: a ray along the forward of a lamp on a turned body, that leaves the body itself out. */
import { box, createWorld, defineLayers, mesh, rotated, rotationAbout, rotationTowards, sphere } from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['rock', 'crawler', 'pod']) })
const crawler = world.add({
  type: 'kinematic',
  name: 'crawler',
  at: { x: 0, y: 1, z: 0 },
  rotation: rotationAbout({ x: 0, y: 1, z: 0 }, -Math.PI / 4),
  colliders: [{ shape: box(2, 1, 3), layer: 'crawler' }],
})
world.add({
  type: 'static',
  name: 'pod',
  at: { x: 6, y: 1.4, z: -6 },
  colliders: [{ shape: sphere(0.5), layer: 'pod' }],
})
world.add({
  type: 'static',
  name: 'cliff',
  colliders: [{ shape: mesh({ positions: [0, -5, -14, 20, -5, -14, 10, 20, -14] }), layer: 'rock' }],
})

/** Where the lamp sits on the crawler: ahead is -z. */
const muzzle = { x: 0, y: 0.4, z: -1 }
function aim(): string {
  const { at, rotation } = crawler.pose
  const offset = rotated(rotation, muzzle)
  const from = { x: at.x + offset.x, y: at.y + offset.y, z: at.z + offset.z }
  const forward = rotated(rotation, { x: 0, y: 0, z: -1 })
  const hit = world.raycast.first({ from, direction: forward, reach: 30 }, { except: crawler })
  return hit === null ? 'nothing' : `${hit.body} at ${hit.distance.toFixed(2)} m`
}
console.log(`ahead: ${aim()}`)
crawler.teleport({ at: crawler.at, rotation: rotationTowards({ x: 10, y: 0, z: -14 }) })
console.log(`turned to the cliff: ${aim()}`)
crawler.teleport({ at: crawler.at, rotation: rotationTowards({ x: 0, y: 1, z: 1 }) })
console.log(`turned up and back: ${aim()}`)
