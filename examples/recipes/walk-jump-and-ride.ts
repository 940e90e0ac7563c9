/**
 * A diver that walks by keys: up stairs, down slopes, onto a lift. The game adds gravity to the displacement itself, and takes its speed
 * away when the ground or a ceiling has used it up.
 */
import { box, capsule, createWorld, defineLayers, polygon, travelResult } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'diver']) })
const slope = polygon([
  { x: 4, y: 0 },
  { x: 8, y: 0 },
  { x: 4, y: 1 },
])
world.add({ type: 'static', name: 'floor', at: { x: 0, y: -0.5 }, colliders: [{ shape: box(40, 1), layer: 'rock' }] })
for (const [i, high] of [0.25, 0.5, 0.75, 1].entries()) {
  const width = i === 3 ? 2 : 0.5
  const at = { x: 0.5 * i + width / 2 + 0.5, y: high / 2 }
  world.add({ type: 'static', name: `stair ${i + 1}`, at, colliders: [{ shape: box(width, high), layer: 'rock' }] })
}
world.add({ type: 'static', name: 'slope', colliders: [{ shape: slope, layer: 'rock' }] })
const lift = world.add({
  type: 'kinematic',
  name: 'lift',
  at: { x: 11, y: 0.1 },
  colliders: [{ shape: box(3, 0.2), layer: 'rock' }],
})
const body = capsule({ x: 0, y: -0.4 }, { x: 0, y: 0.4 }, 0.35)
const diver = world.add({ type: 'kinematic', at: { x: -2, y: 0.75 }, colliders: [{ shape: body, layer: 'diver' }] })

const out = travelResult()
let rising = 0
let stood = ''
for (let tick = 0; tick < 420; tick++) {
  const move = tick < 315 ? 1 : 0
  if (tick === 330) lift.velocity = { x: 0, y: 2 }
  rising += world.gravity.y * world.dt
  const by = { x: move * 2.5 * world.dt, y: rising * world.dt }
  diver.travel(by, { onHit: 'slide', up: { x: 0, y: 1 }, stepHeight: 0.3, snap: 0.2, ride: true, out })
  if (out.ground !== null) rising = 0
  world.step()
  const ground = out.ground === null ? 'nothing' : `${out.ground.body}, slope ${out.ground.slope.toFixed(2)}`
  if (ground !== stood) console.log(`${world.time.toFixed(2)} s  at ${diver.at.x.toFixed(2)} m it stands on ${ground}`)
  stood = ground
}
const { x, y } = diver.velocity
console.log(`at the end ${diver.at.y.toFixed(2)} m high, going ${x.toFixed(1)}, ${y.toFixed(1)} m/s with the lift`)
