/** The first example of the README. */
import { box, capsule, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const layers = defineLayers(['rock', 'craft', 'zone'], {
  pairs: [['zone', '*', 'sense']], // zones let bodies through and report them; all else is solid
})
const world = createWorld({ layers, rate: 60 })

const sub = world.add({
  type: 'kinematic',
  name: 'lantern',
  at: { x: -6, y: 0 },
  velocity: { x: 3, y: 0 },
  colliders: [{ shape: capsule({ x: -0.6, y: 0 }, { x: 0.6, y: 0 }, 0.5), layer: 'craft' }],
})
world.add({ type: 'static', name: 'air pocket', colliders: [{ shape: circle(2), layer: 'zone' }] })
world.add({ type: 'static', name: 'wall', at: { x: 9, y: 0 }, colliders: [{ shape: box(1, 8), layer: 'rock' }] })

world.watch('craft', 'zone', {
  begin: (e) => console.log(`${e.time.toFixed(2)} s: ${e.a} enters ${e.b}`),
  end: (e) => console.log(`${e.time.toFixed(2)} s: ${e.a} leaves ${e.b} after ${e.dwell.toFixed(2)} s (${e.cause})`),
})
for (let tick = 0; tick < 240; tick++) world.step()

const hit = world.raycast.first({ from: sub.at, direction: { x: 1, y: 0 } }, { except: sub })
console.log(`sonar: ${hit?.body}, ${hit?.distance.toFixed(2)} m ahead`)
