/**
 * The triggers of a level under test, without a screen: it is played with the inputs of a player, then asked what happened.
 * What is not as expected throws with the story of the two and why; any test runner shows that.
 */
import { box, circle, createWorld, defineLayers } from 'keen-sentry/2d'
import { playFor } from 'keen-sentry/testing'

/** The level, as the game makes it: here the door is set a little too high. */
function level(doorAt: number) {
  const world = createWorld({
    layers: defineLayers(['rock', 'craft', 'trigger'], { pairs: [['trigger', '*', 'sense']] }),
  })
  const zone = (name: string, x: number, y: number): void => {
    world.add({ type: 'static', name, at: { x, y }, colliders: [{ shape: box(2, 2), layer: 'trigger', sensor: true }] })
  }
  zone('air pocket', 6, 0)
  zone('door', 16, doorAt)
  world.add({ type: 'static', name: 'mine', at: { x: 11, y: -3 }, colliders: [{ shape: circle(1), layer: 'rock' }] })
  const lantern = world.add({ type: 'kinematic', name: 'lantern', colliders: [{ shape: circle(0.5), layer: 'craft' }] })
  world.watch('craft', 'trigger', { begin: (event) => console.log(`  the game hears: ${event.a} in ${event.b}`) })
  return { world, lantern }
}

/** A player that holds the right key down. */
function play(doorAt: number) {
  const { world, lantern } = level(doorAt)
  return playFor(world, 10, { before: () => void lantern.travel({ x: 2 * world.dt, y: 0 }) })
}

for (const doorAt of [0, 2.2]) {
  console.log(`door at ${doorAt}`)
  const run = play(doorAt)
  run.began('lantern', 'air pocket', { until: 4 })
  run.neverMet('lantern', 'mine')
  run.stayedWithin({ min: { x: -1, y: -1 }, max: { x: 21, y: 1 } })
  try {
    run.began('lantern', 'door', { until: 9 })
    console.log('  passed')
  } catch (error) {
    for (const line of (error as Error).message.split('\n').slice(0, 4)) console.log(`  ${line}`)
  }
}
