/** Picking with the pointer: a place on the screen becomes a ray of the camera, and the first thing under it is picked. */
import {
  box,
  createWorld,
  defineLayers,
  halfspace,
  type Pose3,
  type Ray3,
  rotated,
  rotationTowards,
  sphere,
} from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['floor', 'pod', 'zone']) })
world.add({ type: 'static', name: 'floor', colliders: [{ shape: halfspace({ x: 0, y: 1, z: 0 }, 0), layer: 'floor' }] })
world.add({
  type: 'kinematic',
  name: 'pod',
  at: { x: -2, y: 0.5, z: 0 },
  colliders: [{ shape: sphere(0.5), layer: 'pod' }],
})
world.add({
  type: 'kinematic',
  name: 'crate',
  at: { x: 2, y: 0.5, z: 0 },
  colliders: [{ shape: box(1, 1, 1), layer: 'pod' }],
})
world.add({
  type: 'static',
  name: 'beacon zone',
  at: { x: -2, y: 0, z: 0 },
  colliders: [{ shape: sphere(2), layer: 'zone', sensor: true }],
})

/** The ray through a pixel of a camera that looks along its -z, with this full angle of view from top to bottom. */
function rayThrough(px: number, py: number, width: number, height: number, camera: Pose3, angle: number): Ray3 {
  const up = Math.tan(angle / 2)
  const x = ((2 * px) / width - 1) * up * (width / height)
  const y = (1 - (2 * py) / height) * up
  return { from: camera.at, direction: rotated(camera.rotation, { x, y, z: -1 }), reach: 100 }
}

const at = { x: 0, y: 4, z: 8 }
const camera = { at, rotation: rotationTowards({ x: -at.x, y: 0.5 - at.y, z: -at.z }) }
for (const [px, py] of [
  [640, 400],
  [456, 400],
  [824, 400],
  [640, 20],
]) {
  // Sensors are left out unless they are asked for: the zone around the pod is no obstacle.
  const hit = world.raycast.first(rayThrough(px, py, 1280, 800, camera, 0.9))
  const where =
    hit === null ? '' : ` at ${hit.point.x.toFixed(2)}, ${hit.point.y.toFixed(2)}, ${hit.point.z.toFixed(2)}`
  console.log(`${px}, ${py}: ${hit?.body ?? 'nothing'}${where}`)
}
