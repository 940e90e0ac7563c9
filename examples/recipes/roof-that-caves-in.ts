/** A charge cuts a pillar: the roof that stood on it is cut off, and comes down as a body of its own. */
import { circle, createWorld, defineLayers, tiles } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'debris']) })
const cavern = world.add({
  type: 'static',
  name: 'cavern',
  colliders: [
    {
      layer: 'rock',
      shape: tiles({
        rows: [
          '#.............#',
          '#....#####....#',
          '#......#......#',
          '#......#......#',
          '#......#......#',
          '###############',
        ],
        // What is firm is never carved, and holds what hangs on it. So does the border of a grid.
        kinds: { '#': {} },
      }),
    },
  ],
})
world.watch('debris', 'rock', {
  begin: (e) => console.log(`${world.time.toFixed(2)} s: ${e.a} strikes the ${e.b}`),
})

for (let tick = 0; tick < 60; tick++) world.step()
const charge = { shape: circle(1), at: { x: 7.5, y: 2.5 } }
const { tiles: gone, pieces } = cavern.colliders[0].carve({ ...charge, cutOff: 50 })
console.log(`${world.time.toFixed(2)} s: ${gone.length} tiles are gone, ${pieces.length} piece is cut off`)
for (const { shape, at, angle, tiles: own } of pieces) {
  const roof = world.add({
    type: 'dynamic',
    name: 'roof',
    at,
    angle,
    colliders: [{ shape, layer: 'debris', density: 2 }],
  })
  console.log(`the ${roof.name}: ${own.length} tiles, ${roof.mass} kg`)
}
for (let tick = 0; tick < 240; tick++) world.step()
const roof = world.find('roof')!
console.log(`it ${roof.asleep ? 'lies' : 'moves'} at ${roof.at.y.toFixed(1)} m`)
