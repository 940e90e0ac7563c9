/** States that were saved by an earlier build, and must be read by this one: the format is not to change unnoticed. `npm run saved` writes them again. */
import { writeFileSync } from 'node:fs'
import { defineLayers, type World2 } from '../../src/2d/index.ts'
import { DIMENSIONS, type Dimension } from './dimensions.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

/** The files, the hashes of what is in them, and of what that becomes in a second: the latter change with what the solver does. */
export const SAVED = {
  '2D': { file: 'reef-2d.save', hash: 'f860f140c7057356', later: '08cd5f1f0df851ba' },
  '3D': { file: 'reef-3d.save', hash: '40554510b37f64c2', later: 'b77f2e7c88877e83' },
}

/** The world that they are of, empty. */
export function keptWorld({ createWorld }: Dimension): { world: World2; heard: string[] } {
  const world = createWorld({ layers, tags: ['loud'] }) as World2
  const heard: string[] = []
  world.watch('craft', 'zone', { end: (e) => void heard.push(String(e)), begin: (e) => void heard.push(String(e)) })
  world.watch('craft', 'rock', { impact: (e) => void heard.push(String(e)) }, { over: { impulse: 2 }, key: 'knocks' })
  return { world, heard }
}

function fill(world: World2, { at, box, circle, about }: Dimension): void {
  world.add({ type: 'static', name: 'floor', colliders: [{ shape: box(20, 1), layer: 'rock' }] })
  const zone = { shape: box(2, 4), layer: 'zone', tags: ['loud'] } as never
  world.add({ type: 'kinematic', name: 'pool', at: at(3, 2), velocity: at(-1, 0), colliders: [zone] })
  const crates = [0, 1, 2].map((i) =>
    world.add({
      type: 'dynamic',
      name: `crate ${i}`,
      at: at(i - 0.5, 3 + 1.2 * i),
      colliders: [{ shape: i === 1 ? circle(0.4) : box(0.8, 0.6), layer: 'craft' }],
    }),
  )
  world.join({ type: 'hinge', a: crates[0], b: crates[2], at: crates[0].at, ...about } as never)
  for (let i = 0; i < 50; i++) world.step()
}

if (process.argv[2] === '--write') {
  for (const dimension of DIMENSIONS) {
    const { world } = keptWorld(dimension)
    fill(world, dimension)
    const { file } = SAVED[dimension.name]
    writeFileSync(new URL(`saved/${file}`, import.meta.url), world.save())
    const hash = world.hash()
    for (let i = 0; i < 60; i++) world.step()
    console.log(`'${dimension.name}': { file: '${file}', hash: '${hash}', later: '${world.hash()}' },`)
  }
}
