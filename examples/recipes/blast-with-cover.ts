/** A blast: who is within reach, how strong is it there, and who is behind cover? */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'craft', 'crate']) })
world.add({
  type: 'kinematic',
  name: 'tender',
  at: { x: 2, y: 0 },
  colliders: [{ shape: circle(0.5), layer: 'craft' }],
})
world.add({ type: 'kinematic', name: 'crate', at: { x: -3, y: 0 }, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
world.add({
  type: 'kinematic',
  name: 'lantern',
  at: { x: 0, y: 4 },
  colliders: [{ shape: circle(0.6), layer: 'craft' }],
})
world.add({ type: 'static', name: 'wall', at: { x: 0, y: 2 }, colliders: [{ shape: box(3, 0.4), layer: 'rock' }] })

const centre = { x: 0, y: 0 }
const REACH = 6
const told = new Set<unknown>()
for (const hit of world.nearest.all({ point: centre, reach: REACH }, { layers: ['craft', 'crate'] })) {
  // A body of several colliders is hit once, where it is nearest.
  if (told.has(hit.body)) continue
  told.add(hit.body)
  const covered = world.raycast.any({ from: centre, to: hit.point }, { layers: 'rock' })
  const force = 100 * (1 - hit.distance / REACH)
  console.log(`${hit.body}: ${covered ? 'behind cover' : `force ${force.toFixed(0)} at ${hit.distance.toFixed(1)} m`}`)
}
