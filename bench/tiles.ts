/**
 * What a grid of tiles costs, and what it saves: `npm run bench:tiles`. Building, changing (a small grid beside a large one), rays and steps
 * beside one collider a tile on the demo's mine, and bytes a tile (with `--expose-gc`). Prints Markdown.
 */
import { readFileSync } from 'node:fs'
import { box, circle, createWorld, defineLayers, tiles } from '../src/2d/index.ts'
import { each, head, measure, row, times } from './measure.ts'

const layers = defineLayers(['rock', 'craft'])
const kinds = { '#': {} }

/** A grid half full, the same each time. */
function half(size: number): string[] {
  let seed = 12345
  return Array.from({ length: size }, () => {
    let line = ''
    for (let x = 0; x < size; x++) {
      seed = (seed * 1103515245 + 12345) % 2147483648
      line += seed > 1073741824 ? '#' : '.'
    }
    return line
  })
}

function bytes(): number {
  globalThis.gc?.()
  const { heapUsed, arrayBuffers } = process.memoryUsage()
  return heapUsed + arrayBuffers
}

function build(rows: readonly string[]) {
  const world = createWorld({ layers })
  const body = world.add({ type: 'static', colliders: [{ shape: tiles({ rows, kinds }), layer: 'rock' }] })
  world.raycast.any({ from: { x: -1, y: -1 }, to: { x: -2, y: -2 } })
  return { world, rock: body.colliders[0] }
}

head('a grid', 'half full, at random')
for (const size of [100, 1000]) {
  const rows = half(size)
  build(half(64))
  const before = bytes()
  const start = performance.now()
  const { rock } = build(rows)
  const ms = performance.now() - start
  const used = bytes() - before
  row(`built and ready for queries, ${size} x ${size}`, `${ms.toFixed(0)} ms`)
  row(`bytes a tile, ${size} x ${size}`, (used / size ** 2).toFixed(0))
  if (rock.tileAt(0, 0) === '') throw new Error('it must live until here')
}

const small = build(half(100))
const large = build(half(1000))
let turn = 0
const EDITS = 20
const edit = ({ world, rock }: ReturnType<typeof build>): number => {
  for (let i = 0; i < EDITS; i++) {
    turn++
    const [column, line] = [(turn * 37) % 97, (turn * 53) % 89]
    rock.setTile(column, line, rock.tileAt(column, line) === '#' ? '.' : '#')
    world.raycast.any({ from: { x: -1, y: -1 }, to: { x: -2, y: -2 } })
  }
  return turn
}
const edits = measure(
  [
    { name: 'small', run: () => edit(small) },
    { name: 'large', run: () => edit(large) },
  ],
  60,
)
row('a tile changed, up to the next query', each(edits.seconds[1] / EDITS))
row('the same, 1,000 x 1,000 against 100 x 100', `${times(edits.ratio(1, 0))} (aim: below 1.5)`)

const rows: string[] = JSON.parse(readFileSync(new URL('../scenes/mine.json', import.meta.url), 'utf8')).bodies.find(
  (body: { name?: string }) => body.name === 'mine',
).colliders[0].shape.rows
const solid = rows.map((line) => line.replace(/[^#/\\_.]/g, '.').replace(/[/\\_]/g, '#'))
const whole = build(solid)
const single = createWorld({ layers })
const tile = box(1, 1)
solid.forEach((line, y) => {
  ;[...line].forEach((sign, x) => {
    if (sign !== '#') return
    const at = { x: x + 0.5, y: solid.length - 1 - y + 0.5 }
    single.add({ type: 'static', at, colliders: [{ shape: tile, layer: 'rock' }] })
  })
})
const open: { x: number; y: number }[] = []
solid.forEach((line, y) => {
  ;[...line].forEach((sign, x) => {
    if (sign === '.') open.push({ x: x + 0.5, y: solid.length - 1 - y + 0.5 })
  })
})
const rays = Array.from({ length: 2000 }, (_, i) => {
  const from = open[(i * 7919) % open.length]
  const angle = (i * 2.399963) % (2 * Math.PI)
  return { from, to: { x: from.x + 60 * Math.cos(angle), y: from.y + 60 * Math.sin(angle) } }
})
const cast = (world: typeof single) => {
  let hits = 0
  for (const ray of rays) if (world.raycast.first(ray) !== null) hits++
  return hits
}
const balls = (world: typeof single) => {
  for (let i = 0; i < 300; i++) {
    const at = open[(i * 6151) % open.length]
    world.add({ type: 'dynamic', at, sleeps: false, colliders: [{ shape: circle(0.35), layer: 'craft' }] })
  }
  for (let i = 0; i < 120; i++) world.step()
}
const sought = measure(
  [
    { name: 'tiles', run: () => cast(whole.world) },
    { name: 'one by one', run: () => cast(single) },
  ],
  30,
)
head('the mine', 'beside one collider a tile')
row('rays', `${times(sought.ratio(1, 0))} times as fast (aim: 5)`)
const step = (world: typeof single): number => {
  world.step()
  return world.tick
}
balls(whole.world)
balls(single)
const stepped = measure(
  [
    { name: 'tiles', run: () => step(whole.world) },
    { name: 'one by one', run: () => step(single) },
  ],
  100,
)
row('steps with 300 balls', `${times(stepped.ratio(1, 0))} times as fast (aim: 5)`)
const { outline } = whole.rock
row(
  'edges of the outline',
  outline.reduce((sum, loop) => sum + loop.length, 0),
)
row('full tiles', solid.join('').replaceAll('.', '').length)
