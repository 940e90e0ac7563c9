/** A drill that digs where its ray meets rock: the tile goes, the next ray sees it, and what stood on it falls. Ore is hard, and takes three. */
import { box, createWorld, defineLayers, tiles } from 'keen-sentry/2d'

const world = createWorld({ layers: defineLayers(['rock', 'crate']) })
const mine = world.add({
  type: 'static',
  name: 'mine',
  colliders: [
    { shape: tiles({ rows: ['......', '.####.', '.#%##.', '######'], kinds: { '#': {}, '%': {} } }), layer: 'rock' },
  ],
})
const crate = world.add({
  type: 'dynamic',
  name: 'crate',
  at: { x: 2.5, y: 3.4 },
  colliders: [{ shape: box(0.8, 0.8), layer: 'crate' }],
})
const [ground] = mine.colliders
let worn = 0

for (let second = 1; second <= 8; second++) {
  for (let tick = 0; tick < 60; tick++) world.step()
  // From the right, along the lower of the two rows, then along the upper.
  const y = second <= 5 ? 1.5 : 2.5
  const hit = world.raycast.first({ from: { x: 6, y }, direction: { x: -1, y: 0 } }, { layers: ['rock'] })
  if (hit?.tile == null) continue
  const { column, row, kind } = hit.tile
  const gone = kind === '#' || ++worn === 3
  if (gone) ground.setTile(column, row, '.')
  console.log(`${second} s: '${kind}' in column ${column}, row ${row} ${gone ? 'is dug out' : 'is worn'}`)
}
for (let tick = 0; tick < 60; tick++) world.step()
console.log(`the crate has come down into the hole, to ${crate.at.y.toFixed(1)} m`)
