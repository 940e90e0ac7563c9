/** A ground probe under each of six legs: how far down the sea floor is, how steep it is there, and a hole that has none. */
import { createWorld, defineLayers, heightfield, rotated, rotationAbout } from 'keen-sentry/3d'

const world = createWorld({ layers: defineLayers(['rock', 'crawler']) })
const columns = 17
// Gentle dunes, and a pit without a floor.
const heights = Array.from({ length: columns * columns }, (_, i) => {
  const x = (i % columns) - 8
  const z = Math.floor(i / columns) - 8
  return x > 0 && x < 3 && z > 0 && z < 3 ? Number.NaN : 0.25 * (((x * x + z * z) % 7) / 7)
})
const floor = heightfield({ columns, rows: columns, heights, cell: 1 })
world.add({ type: 'static', name: 'floor', colliders: [{ shape: floor, layer: 'rock' }] })

const pose = { at: { x: 0.4, y: 1.2, z: 0.3 }, rotation: rotationAbout({ x: 0, y: 1, z: 0 }, 0.3) }
const legs = [-1.6, 0, 1.6].flatMap((z) => [-1, 1].map((x) => ({ x, y: 0, z })))
legs.forEach((leg, number) => {
  const offset = rotated(pose.rotation, leg)
  const from = { x: pose.at.x + offset.x, y: pose.at.y + offset.y, z: pose.at.z + offset.z }
  const hit = world.raycast.first({ from, by: { x: 0, y: -2, z: 0 } }, { layers: 'rock' })
  if (hit === null) console.log(`leg ${number}: no ground within 2 m`)
  else {
    const slope = (Math.acos(hit.normal.y) * 180) / Math.PI
    console.log(
      `leg ${number}: ground ${hit.distance.toFixed(2)} m down, triangle ${hit.part}, slope ${slope.toFixed(0)} degrees`,
    )
  }
})
