/**
 * A ledge that is passed from below and holds from above. For bodies that fall and jump the collider option `oneWay` does it; where
 * it depends on more, a decide hook has the last word: here a diver who holds "down" drops through.
 */
import { box, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'ledge', 'diver']) })
world.add({ type: 'static', name: 'floor', at: { x: 0, y: -1 }, colliders: [{ shape: box(40, 2), layer: 'rock' }] })
const ledge = world.add({
  type: 'static',
  name: 'ledge',
  at: { x: 0, y: 2.5 },
  colliders: [{ shape: box(4, 0.3), layer: 'ledge', oneWay: { x: 0, y: 1 } }],
})
const diver = world.add({
  type: 'dynamic',
  name: 'diver',
  at: { x: 0, y: 0.5 },
  locks: { turn: true },
  colliders: [{ shape: box(0.6, 1), layer: 'diver' }],
})
let down = false
world.decide('diver', 'ledge', () => (down ? 'pass' : 'solid'), { ask: 'tick' })
world.watch(diver, ['rock', 'ledge'], {
  begin: (e) => console.log(`${e.time.toFixed(2)} s  ${e.a} stands on the ${e.b} (${e.cause})`),
  end: (e) => console.log(`${e.time.toFixed(2)} s  ${e.a} leaves the ${e.b} (${e.cause})`),
})
for (let tick = 0; tick < 330; tick++) {
  if (tick === 30) diver.velocity = { x: 0, y: 8 }
  down = tick >= 200
  world.step()
  if (tick === 60) console.log(`1.02 s  on its way up, at ${diver.at.y.toFixed(1)} m`)
}
console.log(String(world.explain(diver, ledge)).split('\n')[0])
