/**
 * A hash of everything public that a set of worlds answers and tells, to the last bit: `npm run -s fingerprint`. Run it before and
 * after a change that must change nothing, and compare the lines.
 */
import { createHash, type Hash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import fc from 'fast-check'
import { loadModels, playScene, readScene } from '../scenes-package/src/scene/index.ts'
import * as two from '../src/2d/index.ts'
import * as three from '../src/3d/index.ts'
import * as flat from '../test/helpers/arbitrary.ts'
import * as deep from '../test/helpers/arbitrary3.ts'
import { LedgerModel } from '../test/helpers/ledger-model.ts'
import { pileWorld } from '../test/helpers/pile.ts'
import { Random } from '../test/helpers/random.ts'
import { Stage2, Stage3 } from '../test/helpers/stages.ts'

/** A value as text: handles by their age, numbers with all their digits and the sign of zero. */
function text(value: unknown): string {
  if (typeof value === 'number') return Object.is(value, -0) ? '-0' : String(value)
  if (typeof value === 'function') return ''
  if (typeof value !== 'object' || value === null) return String(value)
  if (Array.isArray(value)) return `[${value.map(text).join()}]`
  if (ArrayBuffer.isView(value)) return `[${Array.from(value as Float64Array, text).join()}]`
  if ('serial' in value) return `#${value.serial}`
  if ('stop' in value) return (value as unknown as { key: string }).key
  return `{${Object.entries(value)
    .sort(([one], [other]) => (one < other ? -1 : 1))
    .map(([key, each]) => `${key}:${text(each)}`)
    .join()}}`
}

function fingerprint(name: string, run: (add: (value: unknown) => void) => void): void {
  const hash: Hash = createHash('sha256')
  let parts = 0
  run((value) => {
    hash.update(text(value)).update('\n')
    parts++
  })
  process.stdout.write(`${name.padEnd(24)} ${hash.digest('hex').slice(0, 24)} of ${parts} values\n`)
}

/** What an action gives, or the code and sentence of what it throws. */
function tried(action: () => unknown): unknown {
  try {
    return action()
  } catch (error) {
    return error instanceof Error ? error.message : error
  }
}

interface Body {
  readonly at: unknown
  readonly velocity: unknown
  readonly spin: unknown
  readonly colliders: readonly unknown[]
  overlapping(): readonly unknown[]
  touching(): readonly unknown[]
}

interface World {
  readonly stats: unknown
  bodies(): readonly Body[]
  events(options?: unknown): readonly unknown[]
  explain(a: unknown, b: unknown): unknown
}

/** Hashes what a world tells of a step, and how it stands. */
function addWorld(world: World, step: number, add: (value: unknown) => void): void {
  for (const event of world.events({ per: 'collider' })) add([event, (event as { points: unknown }).points])
  // How many were tested, is how it was found out.
  const { bodies: _bodies, tests: _tests, ...stats } = world.stats as Record<string, unknown>
  add(stats)
  for (const body of world.bodies()) {
    add([body.at, (body as { angle?: unknown }).angle, (body as { rotation?: unknown }).rotation])
    add([body.velocity, body.spin])
    if (step % 5 === 0) add([body.overlapping(), body.touching()])
  }
  if (step % 7 !== 0) return
  const bodies = world.bodies()
  for (let i = 1; i < Math.min(bodies.length, 6); i++) add(world.explain(bodies[i - 1], bodies[i]))
}

function models(
  name: string,
  worlds: number,
  make: (seed: number) => { world: unknown; run(steps: number): void },
): void {
  fingerprint(name, (add) => {
    for (let seed = 0; seed < worlds; seed++) {
      const model = make(seed)
      const inner = model as unknown as { step(): void; world: World }
      const step = inner.step.bind(model)
      let steps = 0
      inner.step = () => {
        step()
        addWorld(inner.world, steps++, add)
      }
      model.run(50)
    }
  })
}

models('ledger 2D', 80, (seed) => new LedgerModel(new Stage2(new Random(seed), false)) as never)
models('ledger 2D, forces', 80, (seed) => new LedgerModel(new Stage2(new Random(seed), true)) as never)
models('ledger 3D', 50, (seed) => new LedgerModel(new Stage3(new Random(seed), false)) as never)
models('ledger 3D, forces', 50, (seed) => new LedgerModel(new Stage3(new Random(seed), true)) as never)

/** The filters that questions are asked with. */
function filters(body: unknown): unknown[] {
  return [
    undefined,
    { sensors: true },
    { layers: ['rock'], sensors: 'only' },
    { as: 'craft', response: 'any' },
    { except: body, inside: 'skip' },
    { where: (c: { serial: number }) => c.serial % 3 !== 0 },
  ]
}

// biome-ignore lint/suspicious/noExplicitAny: both dimensions go through here
type Any = any

/** All four questions in all modes, in worlds of every shape. */
function questions(
  name: string,
  kit: Any,
  samples: { any: Any[]; asking: Any[] },
  point: (random: Random, reach: number) => Any,
): void {
  fingerprint(name, (add) => {
    const random = new Random(7)
    for (let round = 0; round < 12; round++) {
      const layers = kit.defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
      const world = kit.createWorld({ layers })
      for (let i = 0; i < 50; i++) {
        const placed = random.pick(samples.any)
        world.add({
          type: placed.shape.kind === 'halfspace' || random.chance(0.5) ? 'static' : 'kinematic',
          at: point(random, 6),
          ...(placed.angle === undefined ? { rotation: placed.rotation } : { angle: placed.angle }),
          colliders: [
            { shape: placed.shape, layer: random.pick(['rock', 'craft', 'zone']), sensor: random.chance(0.1) },
          ],
        })
      }
      if (round % 2 === 0) world.step()
      const rays: number[] = []
      for (let i = 0; i < 40; i++) {
        const from = point(random, 7)
        const to = i % 5 === 0 ? from : point(random, 7)
        rays.push(...(Object.values(from) as number[]), ...(Object.values(to) as number[]))
        const placed = random.pick(samples.asking)
        const turn = placed.angle === undefined ? { rotation: placed.rotation } : { angle: placed.angle }
        const still = { shape: placed.shape, at: from, ...turn }
        const moving = { shape: placed.shape, from, to, ...turn }
        for (const filter of filters(random.pick(world.bodies()))) {
          const modes = (query: Any, asked: Any): void => {
            add(tried(() => query.first(asked, filter)))
            add(tried(() => query.all(asked, filter)))
            if (query.any) add(tried(() => query.any(asked, filter)))
            if (query.each) {
              const seen: string[] = []
              add(tried(() => query.each(asked, (hit: unknown) => seen.push(text(hit)) < 9, filter)))
              add(seen)
            }
          }
          modes(world.raycast, { from, to })
          modes(world.overlap, still)
          modes(world.overlap, { ...still, depth: true })
          if (i % 2 === 0) modes(world.shapecast, moving)
          if (i % 4 === 0) {
            modes(world.nearest, { point: from, reach: 3 })
            modes(world.nearest, still)
          }
        }
      }
      const out = kit.rayResults(40)
      add(world.raycast.batch(Float64Array.from(rays), out))
      add(out)
    }
  })
}

/** The plain functions, over pairs of shapes. */
function plain(name: string, kit: Any, placed: Any[], asking: Any[]): void {
  fingerprint(name, (add) => {
    for (let i = 0; i < 700; i++) {
      const a = asking[i % asking.length]
      const b = placed[(3 * i + 1) % placed.length]
      add(tried(() => kit.distance(a.shape, a, b.shape, b)))
      add(tried(() => kit.overlaps(b.shape, b, a.shape, a)))
      if (kit.manifold) add(tried(() => kit.manifold(a.shape, a, b.shape, b, 0.2)))
      add(tried(() => kit.closestPoint(b.shape, b, a.at)))
      add(tried(() => kit.raycast(b.shape, b, { from: a.at, to: placed[i % placed.length].at })))
      const motion = { shape: a.shape, from: a.at, to: placed[(i + 5) % placed.length].at }
      add(tried(() => kit.shapecast(motion, b.shape, b)))
      add(tried(() => kit.shapecast({ ...motion, turn: kit === two ? 1.5 : { x: 0.5, y: 1, z: 0 } }, b.shape, b)))
    }
  })
}

const sample = <T>(arbitrary: fc.Arbitrary<T>, count: number): T[] => fc.sample(arbitrary, { seed: 11, numRuns: count })
const any2 = sample(flat.placedAny(5), 300)
const asking2 = sample(fc.record({ shape: flat.askingShape, at: flat.point(5), angle: flat.angle }), 200)
const any3 = sample(deep.placedAny(5), 200)
const asking3 = sample(fc.record({ shape: deep.askingShape, at: deep.point(5), rotation: deep.rotation }), 120)

questions('questions 2D', two, { any: any2, asking: asking2 }, (random, reach) => ({
  x: Math.round(4 * random.between(-reach, reach)) / 4,
  y: random.between(-reach, reach),
}))
questions('questions 3D', three, { any: any3, asking: asking3 }, (random, reach) => ({
  x: Math.round(4 * random.between(-reach, reach)) / 4,
  y: random.between(-reach, reach),
  z: random.between(-reach, reach),
}))
plain('plain functions 2D', two, any2, asking2)
plain('plain functions 3D', three, any3, asking3)

fingerprint('pile 2D', (add) => {
  const random = new Random(3)
  for (const unit of [1, 64]) {
    const world = pileWorld(random, unit)
    const at = { x: 6 * unit, y: unit }
    for (let step = 0; step < 240; step++) {
      world.step()
      if (step % 60 === 59) add(two.blast(world, { at, reach: 4 * unit, strength: 30 * unit }))
      addWorld(world as unknown as World, step, add)
    }
  }
})

for (const file of readdirSync('scenes').filter((each) => each.endsWith('.json'))) {
  const json = JSON.parse(readFileSync(`scenes/${file}`, 'utf8'))
  const models = await loadModels(json, (name) => readFileSync(`scenes/${name}`))
  fingerprint(file, (add) => {
    const player = playScene(readScene(json), models)
    for (let tick = 0; tick < player.ticks; tick++) {
      player.step()
      addWorld(player.world as unknown as World, tick + 1, add)
    }
  })
}
