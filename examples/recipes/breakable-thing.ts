/** A crate that breaks into planks when it is struck hard enough. The handler removes it at once; the pieces take over its speed. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'crate', 'shot']), gravity: { x: 0, y: -4 } })
world.add({ type: 'static', name: 'floor', at: { x: 0, y: -1 }, colliders: [{ shape: box(60, 2), layer: 'rock' }] })
const crate = world.add({
  type: 'dynamic',
  name: 'crate',
  at: { x: 0, y: 0.5 },
  mass: 8,
  colliders: [{ shape: box(1, 1), layer: 'crate' }],
})
world.watch(
  crate,
  '*',
  {
    impact(e) {
      console.log(`${e.time.toFixed(2)} s  ${e.a} is struck with ${e.impulse.toFixed(0)} Ns and breaks`)
      const { at, velocity } = crate
      crate.remove()
      for (const x of [-0.36, -0.12, 0.12, 0.36]) {
        world.add({
          type: 'dynamic',
          at: { x: at.x + x, y: at.y },
          velocity,
          colliders: [{ shape: box(0.2, 0.9), layer: 'crate' }],
        })
      }
    },
    end: (e) => console.log(`${e.time.toFixed(2)} s  it lets go of ${e.b} (${e.cause})`),
  },
  { over: { impulse: 20 } },
)
for (let i = 0; i < 30; i++) world.step()
for (const [speed, height] of [
  [8, 0.5],
  [60, 0.7],
]) {
  world.add({
    type: 'dynamic',
    name: `shot at ${speed} m/s`,
    at: { x: -5, y: height },
    velocity: { x: speed, y: 1 },
    sweep: 'all',
    colliders: [{ shape: circle(0.15), layer: 'shot', density: 12 }],
  })
  for (let i = 0; i < 60; i++) world.step()
}
console.log(`${world.bodies().filter((body) => body.name === null).length} planks lie about`)
