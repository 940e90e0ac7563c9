/** Damage by how hard the hull is struck: impacts over a threshold, in newton seconds; resting and scraping cost nothing. */
import { box, capsule, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'craft', 'crate']) })
world.add({ type: 'static', name: 'seabed', at: { x: 0, y: -1 }, colliders: [{ shape: box(60, 2), layer: 'rock' }] })
const craft = world.add({
  type: 'dynamic',
  name: 'craft',
  at: { x: 0, y: 0.6 },
  mass: 40,
  colliders: [{ shape: capsule({ x: -0.9, y: 0 }, { x: 0.9, y: 0 }, 0.6), layer: 'craft' }],
})
let hull = 100
world.watch(
  craft,
  'crate',
  {
    impact(e) {
      hull -= Math.round(e.impulse / 5)
      console.log(`${e.time.toFixed(2)} s  ${e.b} strikes at ${e.closingSpeed.toFixed(1)} m/s: hull at ${hull}`)
    },
  },
  { over: { impulse: 50 } },
)
const drop = (name: string, x: number, height: number, mass: number): void => {
  world.add({
    type: 'dynamic',
    name,
    at: { x, y: height },
    mass,
    colliders: [{ shape: box(0.8, 0.8), layer: 'crate' }],
  })
}
drop('a light crate', -0.8, 3, 2)
for (let i = 0; i < 90; i++) world.step()
drop('a heavy crate', 0.6, 6, 30)
for (let i = 0; i < 240; i++) world.step()
console.log(`after it has come to rest: hull at ${hull}, craft asleep: ${craft.asleep}`)
