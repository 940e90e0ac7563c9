/** A checkpoint that outlives the program: the world is written to a file, and another run goes on from it, to the bit. */
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { box, circle, createWorld, defineLayers, KeenError, ofType } from 'keen-sentry/2d'

interface Crate {
  readonly worth: number
  readonly seen: Set<string>
}

const layers = defineLayers(['rock', 'crate', 'zone'], { pairs: [['zone', '*', 'sense']] })

/** What every run of the game does first: the world, and who hears of what. */
function begin() {
  const world = createWorld({ layers, data: ofType<Crate | undefined>() })
  world.watch('crate', 'zone', {
    begin: (event) => console.log(`tick ${event.tick}: ${event.a} is in the hold, worth ${event.a.data?.worth}`),
  })
  return world
}

const world = begin()
world.add({ type: 'static', colliders: [{ shape: box(12, 1), layer: 'rock' }] })
world.add({ type: 'static', name: 'hold', at: { x: 0, y: 1.5 }, colliders: [{ shape: box(4, 2), layer: 'zone' }] })
for (let i = 0; i < 3; i++)
  world.add({
    type: 'dynamic',
    name: `crate ${i}`,
    at: { x: i - 1, y: 4 + 3 * i },
    data: { worth: 10 * (i + 1), seen: new Set(['reef']) },
    colliders: [{ shape: circle(0.4), layer: 'crate' }],
  })
for (let tick = 0; tick < 40; tick++) world.step()

const file = join(mkdtempSync(join(tmpdir(), 'reef-')), 'checkpoint.save')
// Sets are no JSON: what goes with a body is turned into what is.
writeFileSync(file, world.save({ data: ({ data }) => data && { worth: data.worth, seen: [...data.seen] } }))
console.log(`saved at tick ${world.tick}, ${world.hash()}`)

// Another run, another day.
const later = begin()
const revive = (saved: unknown): Crate => {
  const { worth, seen } = saved as { worth: number; seen: string[] }
  return { worth, seen: new Set(seen) }
}
later.restore(readFileSync(file), { data: revive })
console.log(`loaded at tick ${later.tick}, ${later.hash()}`)
for (let tick = 0; tick < 60; tick++) later.step()
console.log(`crate 2 has seen ${[...(later.find('crate 2')?.data?.seen ?? [])]}`)

// A file that was cut off is refused, and the world stays as it is.
try {
  later.restore(readFileSync(file).subarray(0, 900))
} catch (error) {
  console.log(error instanceof KeenError ? error.code : error, 'at tick', later.tick)
}
