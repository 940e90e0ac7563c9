/**
 * The tick of chains, nets and vehicles: `npm run bench:joints`. How long a joint takes, how that grows with their number, beside a box of a
 * pyramid in the same run, and what a steady tick allocates (with `--expose-gc`). Prints Markdown.
 */
import * as two from '../src/2d/index.ts'
import * as three from '../src/3d/index.ts'
import { head, row } from './measure.ts'

const layers = two.defineLayers(['rock', 'part'])
type World = two.World2 | three.World3

interface Space {
  readonly name: string
  readonly world: () => World
  readonly part: (world: World, x: number, y: number, width: number, height: number, mass?: number) => two.Body2
  readonly wheel: (world: World, x: number, y: number) => two.Body2
  readonly at: (x: number, y: number) => two.Vec2
  readonly about: object
  readonly turn: object
}

const FLAT: Space = {
  name: '2D',
  world: () => two.createWorld({ layers }),
  part: (world, x, y, width, height, mass = 1) =>
    (world as two.World2).add({
      type: 'dynamic',
      at: { x, y },
      mass,
      sleeps: false,
      colliders: [{ shape: two.box(width, height), layer: 'part' }],
    }),
  wheel: (world, x, y) =>
    (world as two.World2).add({
      type: 'dynamic',
      at: { x, y },
      mass: 1,
      sleeps: false,
      colliders: [{ shape: two.circle(0.3), layer: 'part', friction: 1 }],
    }),
  at: (x, y) => ({ x, y }),
  about: {},
  turn: {},
}
const SOLID: Space = {
  name: '3D',
  world: () => three.createWorld({ layers }),
  part: (world, x, y, width, height, mass = 1) =>
    (world as three.World3).add({
      type: 'dynamic',
      at: { x, y, z: 0 },
      mass,
      sleeps: false,
      colliders: [{ shape: three.box(width, height, 0.5), layer: 'part' }],
    }) as unknown as two.Body2,
  wheel: (world, x, y) =>
    (world as three.World3).add({
      type: 'dynamic',
      at: { x, y, z: 0 },
      mass: 1,
      sleeps: false,
      colliders: [{ shape: three.sphere(0.3), layer: 'part', friction: 1 }],
    }) as unknown as two.Body2,
  at: (x, y) => ({ x, y, z: 0 }) as two.Vec2,
  about: { axis: { x: 0, y: 0, z: 1 } },
  turn: { turn: { x: 0, y: 0, z: 1 } },
}

const join = (world: World, spec: object): void => {
  ;(world as two.World2).join(spec as two.JointSpec2)
}

function chain({ world: make, part, at, about }: Space, links: number): World {
  const world = make()
  let last: two.Body2 | undefined
  for (let i = 0; i < links; i++) {
    const link = part(world, 0.2 * i + 0.1, 0, 0.2, 0.05)
    join(world, { type: 'hinge', a: link, b: last, at: at(0.2 * i, 0), ...about })
    last = link
  }
  return world
}

function net({ world: make, part, at }: Space, size: number): World {
  const world = make()
  const knots: two.Body2[][] = []
  for (let x = 0; x < size; x++) {
    knots.push([])
    for (let y = 0; y < size; y++) {
      const knot = part(world, 0.3 * x, -0.3 * y, 0.1, 0.1, 0.1)
      knots[x].push(knot)
      if (y === 0) join(world, { type: 'distance', a: knot, atB: at(0.3 * x, 0.3) })
      if (y > 0) join(world, { type: 'distance', a: knots[x][y - 1], b: knot })
      if (x > 0) join(world, { type: 'distance', a: knots[x - 1][y], b: knot })
    }
  }
  return world
}

/** Hulls on four wheels each, on a floor. */
function vehicles({ world: make, part, wheel, at, turn }: Space, count: number): World {
  const world = make()
  const width = 6 * count + 40
  const colliders = [
    {
      shape: 'cast' in world ? null : world instanceof three.World3 ? three.box(width, 2, 100) : two.box(width, 2),
      layer: 'rock',
    },
  ]
  ;(world as two.World2).add({ type: 'static', at: at(width / 2 - 20, -1), colliders: colliders as never })
  for (let i = 0; i < count; i++) {
    const x = 6 * i
    const hull = part(world, x, 0.9, 3, 0.4, 20)
    for (const off of [-1.2, -0.4, 0.4, 1.2]) {
      const b = wheel(world, x + off, 0.3)
      join(world, { type: 'axle', a: hull, b, at: at(x + off, 0.3), axis: at(0, 1), frequency: 5, ...turn })
    }
  }
  return world
}

function pyramid({ world: make, part, at }: Space): World {
  const world = make()
  const floor = world instanceof three.World3 ? three.box(100, 2, 100) : two.box(100, 2)
  ;(world as two.World2).add({
    type: 'static',
    at: at(0, -1),
    colliders: [{ shape: floor as two.Shape2, layer: 'rock' }],
  })
  for (let r = 0; r < 20; r++) for (let i = 0; i < 20 - r; i++) part(world, (i - (20 - r) / 2) * 1.05, 0.5 + r, 1, 1)
  return world
}

/** Microseconds of a step, the least of a few rounds. */
function time(world: World, settle: number, ticks: number): number {
  for (let i = 0; i < settle; i++) world.step()
  let least = Infinity
  for (let round = 0; round < 3; round++) {
    const start = performance.now()
    for (let i = 0; i < ticks; i++) world.step()
    least = Math.min(least, ((performance.now() - start) * 1000) / ticks)
  }
  return least
}

const collect = (globalThis as { gc?: () => void }).gc
function bytes(world: World): string {
  if (collect === undefined) return ''
  // What is not compiled yet boxes every double.
  for (let i = 0; i < 2000; i++) world.step()
  let least = Infinity
  for (let round = 0; round < 5; round++) {
    collect()
    const before = process.memoryUsage().heapUsed
    for (let i = 0; i < 200; i++) world.step()
    least = Math.min(least, (process.memoryUsage().heapUsed - before) / 200)
  }
  return String(Math.round(Math.max(0, least)))
}

for (const space of [FLAT, SOLID]) {
  const box = time(pyramid(space), 120, 20) / 210
  console.log(`\n### ${space.name}: joints, beside a box of a pyramid of 210 (${box.toFixed(1)} µs a tick)\n`)
  head('what', 'joints', 'µs a tick', 'µs a joint', 'a joint beside that box', 'bytes a tick')
  const cases: [string, World][] = [
    ['chain of 10', chain(space, 10)],
    ['chain of 100', chain(space, 100)],
    ['net of 10 x 10', net(space, 10)],
    ['net of 30 x 30', net(space, 30)],
    ['10 vehicles of five bodies', vehicles(space, 10)],
    ['200 vehicles of five bodies', vehicles(space, 200)],
  ]
  for (const [name, world] of cases) {
    const joints = (world as two.World2).joints().length
    const took = time(world, 60, joints > 500 ? 10 : 60)
    row(
      name,
      String(joints),
      took.toFixed(0),
      (took / joints).toFixed(1),
      (took / joints / box).toFixed(2),
      joints < 500 ? bytes(world) : '',
    )
  }
}
