/** "Am I on the ground?" for a jump: what the last step found for the solid pairs, by the slope of what is touched. */
import { box, capsule, createWorld, defineLayers } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'diver']) })
world.add({ type: 'static', name: 'ground', at: { x: 0, y: -1 }, colliders: [{ shape: box(40, 2), layer: 'rock' }] })
world.add({ type: 'static', name: 'wall', at: { x: 3, y: 2 }, colliders: [{ shape: box(1, 8), layer: 'rock' }] })
const diver = world.add({
  type: 'dynamic',
  name: 'diver',
  at: { x: 0, y: 0.9 },
  locks: { turn: true },
  colliders: [{ shape: capsule({ x: 0, y: -0.5 }, { x: 0, y: 0.5 }, 0.4), layer: 'diver', friction: 0 }],
})
/** Whether something holds the diver up that is not steeper than 45 degrees. */
const grounded = (): boolean => diver.touching().some((touch) => touch.normal.y > Math.SQRT1_2)

let jumps = 0
let was = ''
for (let tick = 0; tick < 240; tick++) {
  const wantsToJump = tick % 40 === 20
  const can = grounded()
  if (wantsToJump && can) {
    diver.velocity = { x: diver.velocity.x, y: 4 }
    jumps++
  }
  diver.velocity = { x: 2, y: diver.velocity.y }
  world.step()
  const touched = diver.touching().map((touch) => touch.body.name)
  const now = `${grounded() ? 'on the ground' : 'in the water'}${touched.includes('wall') ? ', at the wall' : ''}`
  if (now !== was) console.log(`${world.time.toFixed(2)} s  ${now}`)
  was = now
}
console.log(`${jumps} jumps of 6 wishes`)
