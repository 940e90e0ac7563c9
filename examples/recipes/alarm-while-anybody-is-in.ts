/** An alarm that stays on while anybody is in, over a zone of two shapes: the handover from one to the other is no gap. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['craft', 'alarm'], { pairs: [['alarm', '*', 'sense']] }), rate: 10 })
// One body of two shapes: the watch counts bodies, so it enters once and leaves once.
const vault = world.add({
  type: 'static',
  name: 'vault',
  colliders: [
    { shape: box(4, 2), layer: 'alarm' },
    { shape: box(4, 2), layer: 'alarm', at: { x: 3, y: 0 } },
  ],
})
world.add({
  type: 'kinematic',
  name: 'intruder',
  at: { x: -4, y: 0 },
  velocity: { x: 2, y: 0 },
  colliders: [{ shape: circle(0.3), layer: 'craft' }],
})
world.watch('craft', vault, {
  begin: (e) => console.log(`${e.time.toFixed(1)} s  alarm on: ${e.a}`),
  during(e) {
    if (Math.round(e.dwell * 10) % 10 === 0) console.log(`${e.time.toFixed(1)} s  still in, ${e.dwell.toFixed(0)} s`)
  },
  end: (e) => console.log(`${e.time.toFixed(1)} s  alarm off after ${e.dwell.toFixed(1)} s`),
})
for (let tick = 0; tick < 60; tick++) world.step()
