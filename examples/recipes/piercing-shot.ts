/** A shot that goes through several targets and loses half of its force in each; rock stops it. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'fauna', 'shot'], { pairs: [['shot', 'shot', 'pass']] }) })
for (const x of [3, 5, 9]) {
  world.add({
    type: 'kinematic',
    name: `jelly ${x}`,
    at: { x, y: 0 },
    colliders: [{ shape: circle(0.4), layer: 'fauna' }],
  })
}
world.add({ type: 'static', name: 'pillar', at: { x: 7, y: 0 }, colliders: [{ shape: box(1, 4), layer: 'rock' }] })

let force = 80
for (const hit of world.raycast.all({ from: { x: 0, y: 0 }, direction: { x: 1, y: 0 }, reach: 20 }, { as: 'shot' })) {
  console.log(`${hit.body} at ${hit.distance.toFixed(1)} m takes ${force}`)
  if (hit.collider.layer === 'rock') break
  force /= 2
}
