/** Line of sight: can the lantern see the pod? Only what is solid to light is asked for, and the cheapest mode answers. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'craft', 'crate']) })
const lantern = world.add({
  type: 'kinematic',
  at: { x: 0, y: 0 },
  colliders: [{ shape: circle(0.5), layer: 'craft' }],
})
const pod = world.add({ type: 'kinematic', at: { x: 10, y: 0 }, colliders: [{ shape: circle(0.4), layer: 'crate' }] })
world.add({ type: 'static', at: { x: 5, y: 2 }, colliders: [{ shape: box(1, 3), layer: 'rock' }] })

const sees = (): boolean => !world.raycast.any({ from: lantern.at, to: pod.at }, { layers: 'rock' })

console.log(`pod at ${pod.at.y} m: ${sees() ? 'seen' : 'hidden'}`)
pod.teleport({ x: 10, y: 3 })
console.log(`pod at ${pod.at.y} m: ${sees() ? 'seen' : 'hidden'}`)
