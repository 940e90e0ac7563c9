/** Hit boxes of one body with different worth: the shot is a ray, the worth stands with the tag of what it met. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['craft', 'rock']), tags: ['hull', 'dome', 'lamp'] })
world.add({
  type: 'kinematic',
  name: 'tender',
  at: { x: 8, y: 0 },
  colliders: [
    { shape: box(3, 1), layer: 'craft', tags: ['hull'] },
    { shape: circle(0.5), layer: 'craft', at: { x: 0, y: 0.7 }, tags: ['dome'] },
    { shape: circle(0.15), layer: 'craft', at: { x: -1.6, y: 0 }, tags: ['lamp'] },
  ],
})
const WORTH = { hull: 10, dome: 50, lamp: 100 }
for (const y of [-0.4, 0, 0.9, 2]) {
  const hit = world.raycast.first({ from: { x: 0, y }, direction: { x: 1, y: 0 }, reach: 20 }, { layers: 'craft' })
  const [part] = hit?.collider.tags ?? []
  console.log(`at height ${y}: ${part === undefined ? 'a miss' : `${hit!.body}'s ${part}, worth ${WORTH[part]}`}`)
}
