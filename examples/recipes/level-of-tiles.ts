/** A level of tiles: a ball rolls over a hundred of them and down a slope without a bump, and what it lies on says which tile it is. */
import { circle, createWorld, defineLayers, tiles } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'water', 'ball'], { pairs: [['water', '*', 'sense']] }) })
const level = tiles({
  rows: [
    `.${'.'.repeat(100)}....#`,
    `.${'.'.repeat(100)}....#`,
    `#${'#'.repeat(100)}\\...#`,
    `#${'#'.repeat(101)}~~~#`,
    `#${'#'.repeat(104)}#`,
  ],
  kinds: {
    '#': {},
    // A polygon in the unit cell: a slope down to the right.
    '\\': {
      shape: [
        { x: 0, y: 0 },
        { x: 1, y: 0 },
        { x: 0, y: 1 },
      ],
    },
    // A kind on a layer of its own: a further collider of the body, in the same grid.
    '~': { layer: 'water', response: 'sense' },
  },
})
const ground = world.add({ type: 'static', name: 'level', colliders: [{ shape: level, layer: 'rock', friction: 0 }] })
const ball = world.add({
  type: 'dynamic',
  name: 'ball',
  at: { x: 1, y: 3.4 },
  velocity: { x: 20, y: 0 },
  colliders: [{ shape: circle(0.4), layer: 'ball' }],
})
world.watch('ball', 'water', {
  begin: (e) => console.log(`${world.time.toFixed(1)} s: the ${e.a} is in the water`),
})

const edges = ground.colliders[0].outline.flat().length
console.log(`${level.count} tiles, ${edges} edges of rock, ${ground.colliders.length} colliders`)
let bump = 0
for (let tick = 0; tick < 290; tick++) {
  world.step()
  bump = Math.max(bump, Math.abs(ball.velocity.y))
}
console.log(`over ${ball.at.x.toFixed(0)} tiles it rose or fell by ${bump < 0.001 ? 'nothing' : bump} a second`)
for (let tick = 0; tick < 120; tick++) world.step()
const down = world.raycast.first({ from: ball.at, direction: { x: 0, y: -1 } }, { layers: ['rock'] })
console.log(`below it: '${down?.tile?.kind}' in column ${down?.tile?.column}, row ${down?.tile?.row}`)
