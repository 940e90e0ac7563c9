/** A pile that comes to rest and sleeps: it costs next to nothing, its pairs last, and a touch wakes it. */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'crate']) })
world.add({ type: 'static', name: 'floor', at: { x: 0, y: -1 }, colliders: [{ shape: box(60, 2), layer: 'rock' }] })
const crates = Array.from({ length: 12 }, (_, i) =>
  world.add({
    type: 'dynamic',
    name: `crate ${i + 1}`,
    at: { x: (i % 3) * 1.05, y: 0.5 + 1.02 * Math.floor(i / 3) },
    colliders: [{ shape: box(1, 1), layer: 'crate' }],
  }),
)
const touching = world.watch('crate', '*')
const report = (): void => {
  const asleep = crates.filter((crate) => crate.asleep).length
  console.log(
    `${world.time.toFixed(1)} s  ${asleep} of 12 sleep, ${touching.count} pairs touch, ${world.stats.tests} tests`,
  )
}
for (let i = 0; i < 20; i++) world.step()
report()
while (!crates.every((crate) => crate.asleep)) world.step()
world.step()
report()
world.add({
  type: 'dynamic',
  name: 'ball',
  at: { x: -8, y: 2 },
  velocity: { x: 12, y: 2 },
  colliders: [{ shape: circle(0.5), layer: 'crate', density: 4 }],
})
for (let i = 0; i < 60; i++) world.step()
report()
while (!crates.every((crate) => crate.asleep)) world.step()
report()
