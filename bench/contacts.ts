/**
 * The tick of a world of dynamic bodies: `npm run bench:contacts`. Settled pyramids in both dimensions, where its time goes, how it grows, what
 * a world asleep costs; in 3D a bin of mixed shapes, and bodies on a mesh. Prints Markdown.
 */
import * as two from '../src/2d/index.ts'
import * as three from '../src/3d/index.ts'
import { each, head, measure, row } from './measure.ts'

const layers = two.defineLayers(['rock', 'crate'])

/** A dimension under the names of 2D: a 3D box is a metre deep, and the floor is wide along z. */
interface Space {
  readonly name: string
  readonly floor: () => World
  readonly add: (world: World, x: number, y: number, sleeps: boolean) => void
}
type World = two.World2 | three.World3

const FLAT: Space = {
  name: '2D',
  floor() {
    const world = two.createWorld({ layers })
    world.add({ type: 'static', at: { x: 0, y: -1 }, colliders: [{ shape: two.box(1e5, 2), layer: 'rock' }] })
    return world
  },
  add(world, x, y, sleeps) {
    const colliders = [{ shape: two.box(1, 1), layer: 'crate' }]
    ;(world as two.World2).add({ type: 'dynamic', sleeps, at: { x, y }, colliders })
  },
}
const SOLID: Space = {
  name: '3D',
  floor() {
    const world = three.createWorld({ layers })
    const colliders = [{ shape: three.box(1e5, 2, 100), layer: 'rock' as const }]
    world.add({ type: 'static', at: { x: 0, y: -1, z: 0 }, colliders })
    return world
  },
  add(world, x, y, sleeps) {
    const colliders = [{ shape: three.box(1, 1, 1), layer: 'crate' }]
    ;(world as three.World3).add({ type: 'dynamic', sleeps, at: { x, y, z: 0 }, colliders })
  },
}

/** A pyramid of so many rows, settled, that is kept awake. */
function pyramid({ floor, add }: Space, rows: number) {
  const world = floor()
  for (let r = 0; r < rows; r++) {
    for (let i = 0; i < rows - r; i++) {
      add(world, (i - (rows - r) / 2) * 1.05, 0.5 + r, false)
    }
  }
  for (let i = 0; i < 240; i++) world.step()
  return world
}

/** Times the stages of a world's steps from now on, in milliseconds. */
function stages(world: World) {
  const { kernel } = world
  const spent = { pairs: 0, contacts: 0, solve: 0, verdicts: 0 }
  const time = (
    name: 'findPairs' | 'findContacts' | 'move' | 'judgePairs' | 'predictBounds',
    into: keyof typeof spent,
  ): void => {
    const stage = kernel[name].bind(kernel)
    kernel[name] = (): void => {
      const start = performance.now()
      stage()
      spent[into] += performance.now() - start
    }
  }
  time('predictBounds', 'pairs')
  time('findPairs', 'pairs')
  time('findContacts', 'contacts')
  time('move', 'solve')
  time('judgePairs', 'verdicts')
  return spent
}

function stepped(world: World): number {
  world.step()
  return world.tick
}

/** All four in turns, so that what is compared was measured in the same moments. */
function pyramids(): void {
  head('', 'boxes', 'contacts', 'tick', 'a body', 'a contact', 'pairs', 'contacts found', 'solved', 'verdicts')
  const made = [FLAT, SOLID].flatMap((space) =>
    [20, 62].map((rows) => {
      const world = pyramid(space, rows)
      const contacts = world.kernel.forces!.motion.contacts.list.length
      return { space, world, bodies: (rows * (rows + 1)) / 2, contacts }
    }),
  )
  const measured = measure(
    made.map(({ space, world }) => ({ name: space.name, run: () => stepped(world) })),
    60,
  )
  for (const [i, { space, world, bodies, contacts }] of made.entries()) {
    const tick = measured.seconds[i]
    const spent = stages(world)
    for (let k = 0; k < 40; k++) world.step()
    const all = Object.values(spent).reduce((sum, value) => sum + value, 0)
    row(
      space.name,
      bodies,
      contacts,
      each(tick),
      each(tick / bodies),
      each(tick / contacts),
      ...Object.values(spent).map((value) => `${Math.round((100 * value) / all)} %`),
    )
  }
  const grows = (from: number, to: number): string =>
    (measured.ratio(to, from) * (made[from].bodies / made[to].bodies)).toFixed(2)
  console.log(
    `\nThe tick a body grows ${grows(0, 1)} times in 2D, ${grows(2, 3)} times in 3D from the one to the other.`,
  )
  const beside = (flat: number, solid: number): string =>
    (measured.ratio(solid, flat) * (made[flat].contacts / made[solid].contacts)).toFixed(2)
  console.log(`A contact of 3D takes ${beside(0, 2)} and ${beside(1, 3)} times one of 2D.\n`)
}

/** A thousand hulls, capsules and spheres that were thrown into a bin. */
function bin(): three.World3 {
  const world = three.createWorld({ layers })
  const wall = (x: number, z: number, wide: number, deep: number) =>
    world.add({ type: 'static', at: { x, y: 10, z }, colliders: [{ shape: three.box(wide, 40, deep), layer: 'rock' }] })
  wall(-5, 0, 1, 11)
  wall(5, 0, 1, 11)
  wall(0, -5, 11, 1)
  wall(0, 5, 11, 1)
  world.add({ type: 'static', colliders: [{ shape: three.halfspace({ x: 0, y: 1, z: 0 }, 0), layer: 'rock' }] })
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => ({
    x: (i & 1) * 0.6 - 0.3,
    y: (i & 2) * 0.25 - 0.25,
    z: (i & 4) * 0.1 - 0.2,
  }))
  const shapes = [
    three.hull([...corners, { x: 0, y: 0.4, z: 0 }]),
    three.capsule({ x: -0.2, y: 0, z: 0 }, { x: 0.2, y: 0, z: 0 }, 0.2),
    three.sphere(0.3),
  ]
  for (let i = 0; i < 1000; i++) {
    const at = {
      x: (i % 10) * 0.85 - 3.8,
      y: 0.5 + 0.8 * Math.floor(i / 100),
      z: (Math.floor(i / 10) % 10) * 0.85 - 3.8,
    }
    const rotation = three.rotationAbout({ x: 1, y: 2, z: 3 }, i)
    world.add({ type: 'dynamic', sleeps: false, at, rotation, colliders: [{ shape: shapes[i % 3], layer: 'crate' }] })
  }
  for (let i = 0; i < 240; i++) world.step()
  return world
}

/** 500 bodies that lie on a floor: one box, or a mesh of 50,000 triangles. */
function strewn(onMesh: boolean): three.World3 {
  const world = three.createWorld({ layers })
  const cells = 158
  const heights = new Array((cells + 1) ** 2).fill(0)
  const field = three.heightfield({ columns: cells + 1, rows: cells + 1, heights, cell: 0.5 })
  const shape = onMesh ? field : three.box(100, 2, 100)
  world.add({ type: 'static', at: { x: 0, y: onMesh ? 0 : -1, z: 0 }, colliders: [{ shape, layer: 'rock' }] })
  const shapes = [three.box(1, 1, 1), three.sphere(0.5), three.cylinder(1, 0.5)]
  for (let i = 0; i < 500; i++) {
    const at = { x: (i % 25) * 3 - 36, y: 0.5, z: Math.floor(i / 25) * 3 - 30 }
    const colliders = [{ shape: shapes[i % 3], layer: 'crate' as const }]
    world.add({ type: 'dynamic', sleeps: false, at, rotation: three.rotationAbout({ x: 0, y: 1, z: 0 }, i), colliders })
  }
  for (let i = 0; i < 60; i++) world.step()
  return world
}

function solids(): void {
  const thrown = bin()
  const contacts = thrown.kernel.forces!.motion.contacts.list.length
  const tick = measure([{ name: 'tick', run: () => stepped(thrown) }], 20).seconds[0]
  head('1,000 hulls, capsules and spheres in a bin', 'contacts', 'a body', 'a contact')
  row(each(tick), String(contacts), each(tick / 1000), each(tick / contacts))
  const [box, mesh] = [strewn(false), strewn(true)]
  const measured = measure(
    [
      { name: 'box', run: () => stepped(box) },
      { name: 'mesh', run: () => stepped(mesh) },
    ],
    20,
  )
  console.log(
    `\n500 bodies on a mesh of 49,928 triangles take ${measured.ratio(1, 0).toFixed(2)} times as long as on a box.\n`,
  )
}

/** Rows of small stacks far from each other: 10,000 boxes. */
function stacks({ floor, add }: Space, sleeps: boolean) {
  const world = floor()
  for (let i = 0; i < 2500; i++) {
    for (let k = 0; k < 4; k++) {
      add(world, (i - 1250) * 3, 0.5 + k, sleeps)
    }
  }
  ;(world as two.World2).watch('crate', '*', { begin() {}, end() {} })
  for (let i = 0; i < 120; i++) world.step()
  return world
}

function asleep(): void {
  head('10,000 boxes in stacks of four', 'tick', 'asleep / awake')
  for (const space of [FLAT, SOLID]) {
    const awake = stacks(space, false)
    const still = stacks(space, true)
    const sleeping = (still.bodies() as { asleep: boolean }[]).filter((body) => body.asleep).length
    const measured = measure(
      [
        { name: 'awake', run: () => stepped(awake) },
        { name: 'asleep', run: () => stepped(still) },
      ],
      12,
    )
    row(`awake, ${space.name}`, each(measured.seconds[0]), '')
    row(`asleep (${sleeping} of them)`, each(measured.seconds[1]), `${(100 * measured.ratio(1, 0)).toFixed(2)} %`)
  }
}

pyramids()
solids()
asleep()
