/**
 * The next level, exactly once: a watch with `once` is over after its first begin and end, however many shapes the craft
 * has, however often it comes back, and even when it is so fast that it crosses the dock within one tick.
 */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({
  layers: defineLayers(['craft', 'dock'], { pairs: [['dock', '*', 'sense']] }),
  tags: ['player'],
})
const dock = world.add({ type: 'static', name: 'dock', colliders: [{ shape: box(1, 4), layer: 'dock' }] })
const lantern = world.add({
  type: 'kinematic',
  name: 'lantern',
  at: { x: -20, y: 0 },
  colliders: [
    { shape: circle(0.6), layer: 'craft', tags: ['player'] },
    { shape: box(0.6, 0.4), layer: 'craft', at: { x: 0.6, y: 0 }, tags: ['player'] },
  ],
})
let level = 1
world.watch(
  { tag: 'player' },
  dock,
  {
    begin: (e) => console.log(`level ${++level}: ${e.a} reached ${e.b} (${e.cause}, ${e.when.toFixed(3)} of the tick)`),
  },
  { once: true },
)
for (const x of [20, 0, -20, 20]) {
  lantern.arriveAt({ x, y: 0 })
  world.step()
}
console.log(`level ${level} in the end, ${world.stats.watches} watches left`)
