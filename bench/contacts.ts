/**
 * The tick of a world of dynamic bodies: `npm run bench:contacts`. Settled pyramids, where its time goes, how it grows, and what a
 * world asleep costs. Prints Markdown.
 */
import { box, createWorld, defineLayers } from '../src/2d/index.ts'
import { each, head, measure, row } from './measure.ts'

const layers = defineLayers(['rock', 'crate'])

function floor() {
  const world = createWorld({ layers })
  world.add({ type: 'static', at: { x: 0, y: -1 }, colliders: [{ shape: box(1e5, 2), layer: 'rock' }] })
  return world
}

/** A pyramid of so many rows, settled, that is kept awake. */
function pyramid(rows: number) {
  const world = floor()
  for (let r = 0; r < rows; r++) {
    for (let i = 0; i < rows - r; i++) {
      world.add({
        type: 'dynamic',
        sleeps: false,
        at: { x: (i - (rows - r) / 2) * 1.05, y: 0.5 + r },
        colliders: [{ shape: box(1, 1), layer: 'crate' }],
      })
    }
  }
  for (let i = 0; i < 240; i++) world.step()
  return world
}

/** Times the stages of a world's steps from now on, in milliseconds. */
function stages(world: ReturnType<typeof floor>) {
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

function stepped(world: ReturnType<typeof floor>): number {
  world.step()
  return world.tick
}

function pyramids(): void {
  head('boxes', 'contacts', 'tick', 'a body', 'a contact', 'pairs', 'contacts found', 'solved', 'verdicts')
  const perBody: number[] = []
  for (const [rows, rounds] of [
    [20, 120],
    [62, 40],
  ]) {
    const world = pyramid(rows)
    const bodies = (rows * (rows + 1)) / 2
    const contacts = world.kernel.forces!.motion.contacts.list.length
    const tick = measure([{ name: 'tick', run: () => stepped(world) }], rounds).seconds[0]
    const spent = stages(world)
    for (let i = 0; i < rounds; i++) world.step()
    const all = Object.values(spent).reduce((sum, value) => sum + value, 0)
    const part = (value: number): string => `${Math.round((100 * value) / all)} %`
    perBody.push(tick / bodies)
    row(
      String(bodies),
      String(contacts),
      each(tick),
      each(tick / bodies),
      each(tick / contacts),
      part(spent.pairs),
      part(spent.contacts),
      part(spent.solve),
      part(spent.verdicts),
    )
  }
  console.log(`\nThe tick a body grows ${(perBody[1] / perBody[0]).toFixed(2)} times from the one to the other.\n`)
}

/** Rows of small stacks far from each other: 10,000 boxes. */
function stacks(sleeps: boolean) {
  const world = floor()
  for (let i = 0; i < 2500; i++) {
    for (let k = 0; k < 4; k++) {
      world.add({
        type: 'dynamic',
        sleeps,
        at: { x: (i - 1250) * 3, y: 0.5 + k },
        colliders: [{ shape: box(1, 1), layer: 'crate' }],
      })
    }
  }
  world.watch('crate', '*', { begin() {}, end() {} })
  for (let i = 0; i < 120; i++) world.step()
  return world
}

function asleep(): void {
  const awake = stacks(false)
  const still = stacks(true)
  const sleeping = still.bodies().filter((body) => body.asleep).length
  const measured = measure(
    [
      { name: 'awake', run: () => stepped(awake) },
      { name: 'asleep', run: () => stepped(still) },
    ],
    12,
  )
  head('10,000 boxes in stacks of four', 'tick', 'asleep / awake')
  row('awake', each(measured.seconds[0]), '')
  row(`asleep (${sleeping} of them)`, each(measured.seconds[1]), `${(100 * measured.ratio(1, 0)).toFixed(2)} %`)
}

pyramids()
asleep()
