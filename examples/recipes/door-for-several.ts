/** A door that opens for the first visitor and closes behind the last, however many come and go, and even if one vanishes. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({
  layers: defineLayers(['craft', 'sensor'], { pairs: [['sensor', '*', 'sense']] }),
  rate: 10,
})
const threshold = world.add({ type: 'static', name: 'gate', colliders: [{ shape: box(4, 4), layer: 'sensor' }] })
const crafts = [-4, -6, -8].map((x, i) =>
  world.add({
    type: 'kinematic',
    name: ['lantern', 'tender', 'pod'][i],
    at: { x, y: 0 },
    velocity: { x: 2, y: 0 },
    colliders: [{ shape: circle(0.5), layer: 'craft' }],
  }),
)

const visitors = world.watch('craft', threshold, {
  begin(e) {
    if (visitors.count === 1) console.log(`${e.time.toFixed(1)} s  ${e.a} comes: the gate opens`)
    else console.log(`${e.time.toFixed(1)} s  ${e.a} comes too`)
  },
  end(e) {
    const how = e.cause === 'removed' ? 'vanishes' : 'goes'
    if (visitors.count === 0) console.log(`${e.time.toFixed(1)} s  ${e.a} ${how}: the gate closes`)
    else console.log(`${e.time.toFixed(1)} s  ${e.a} ${how}, ${visitors.count} still there`)
  },
})
for (let tick = 0; tick < 80; tick++) {
  // The last one is salvaged on the threshold: its end comes all the same.
  if (tick === 35) crafts[2].remove()
  world.step()
}
