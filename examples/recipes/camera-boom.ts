/**
 * A camera on a boom behind the craft that must not enter rock. It ignores the craft itself, sensors (by default) and what
 * drifts about: a crate in the way should not make the picture jump.
 */
import { boom, box, circle, createWorld, defineLayers } from 'keen-sentry/2d'

const layers = defineLayers(['rock', 'craft', 'crate', 'zone', 'camera'], {
  otherwise: 'solid',
  pairs: [
    ['camera', '*', 'pass'],
    ['camera', 'rock', 'solid'],
    ['zone', '*', 'sense'],
  ],
})
const world = createWorld({ layers })
const craft = world.add({ type: 'kinematic', at: { x: 0, y: 0 }, colliders: [{ shape: circle(0.5), layer: 'craft' }] })
world.add({ type: 'kinematic', at: { x: -2, y: 0 }, colliders: [{ shape: box(1, 1), layer: 'crate' }] })
world.add({ type: 'static', at: { x: -6, y: 0 }, colliders: [{ shape: box(2, 6), layer: 'rock' }] })

const LENGTH = 8
const arm = boom(world, { radius: 0.3, halfLife: 0.2, filter: { as: 'camera' } })
for (const heading of [
  { x: -1, y: 0 },
  { x: 0, y: 1 },
]) {
  const wished = { x: craft.at.x + heading.x * LENGTH, y: craft.at.y + heading.y * LENGTH }
  const view = arm.aim(craft.at, wished, 1 / 60)
  console.log(`boom towards ${heading.x}, ${heading.y}: ${view.length.toFixed(2)} m long`)
}
// There is room again: it comes back softly, half of the way in a half life.
for (let i = 0; i < 12; i++) arm.aim(craft.at, { x: 0, y: LENGTH }, 1 / 60)
console.log(`and after 0.2 s: ${arm.view.length.toFixed(2)} m`)
