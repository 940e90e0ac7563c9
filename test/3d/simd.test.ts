/** Rays by WebAssembly answer what they answer without, to the bit. */
import assert from 'node:assert/strict'
import { spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  box,
  createWorld,
  defineLayers,
  type Ray3,
  type RayHit3,
  rayResults,
  sphere,
  type Vec3,
} from '../../src/3d/index.ts'
import { simdRays } from '../../src/3d/simd/index.ts'
import { askingShape, cases, point, rotation, surface } from '../helpers/arbitrary3.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { otherwise: 'solid' })
type Layer = 'rock' | 'craft' | 'zone'

const newWorld = () => createWorld({ layers })
type World = ReturnType<typeof newWorld>

/** A hit as it can be compared: by names, and all its numbers. */
const told = (hit: RayHit3 | null) =>
  hit === null
    ? null
    : {
        body: hit.body.name,
        part: hit.part,
        child: hit.child,
        fraction: hit.fraction,
        back: hit.back,
        point: { ...hit.point },
        normal: { ...hit.normal },
        barycentric: { ...hit.barycentric },
      }

interface Asked {
  readonly ray: { from: Vec3; to: Vec3 }
  readonly filter: 'none' | 'rock' | 'sensors' | 'where' | 'outside'
}

const filters = {
  none: undefined,
  rock: { layers: ['rock'] },
  sensors: { sensors: true },
  where: { where: ({ body }: { body: { name: string | null } }) => !String(body.name).endsWith('3') },
  outside: { inside: 'skip' },
} as const

/** Asks everything of a ray that the other walk is used for. */
function ask(world: World, { ray, filter }: Asked) {
  const by = filters[filter] as never
  return { first: told(world.raycast.first(ray, by)), any: world.raycast.any(ray, by) }
}

function askMany(world: World, rays: readonly Ray3[]) {
  const flat = Float64Array.from(
    rays.flatMap((ray) => ('to' in ray ? [ray.from, ray.to] : []).flatMap(({ x, y, z }) => [x, y, z])),
  )
  const out = rayResults(rays.length)
  const hits = world.raycast.batch(flat, out)
  const { collider, ...numbers } = out
  const names = Array.from(collider, (c) => (c < 0 ? null : world.colliderAt(c)!.body.name))
  return { hits, names, ...numbers }
}

const body = fc.record({
  shape: fc.oneof({ weight: 5, arbitrary: askingShape }, { weight: 1, arbitrary: surface }),
  at: point(6),
  rotation,
  layer: fc.constantFrom<Layer>('rock', 'craft', 'zone'),
  sensor: fc.boolean(),
  moves: fc.boolean(),
})
const asked = fc.record({
  // On the numbers of the bodies as well, so that rays run along faces and through corners.
  ray: fc.record({ from: point(8), to: point(8) }),
  filter: fc.constantFrom('none', 'none', 'rock', 'sensors', 'where', 'outside'),
}) as fc.Arbitrary<Asked>
const offset = fc.constantFrom(0, 0, 1000, 1e6)

test('first, any and batch answer what they answer without, before and after bodies move, go and come', () => {
  fc.assert(
    fc.property(
      fc.array(body, { minLength: 20, maxLength: 40 }),
      fc.array(asked, { minLength: 12, maxLength: 20 }),
      offset,
      fc.nat(),
      (bodies, questions, far, seed) => {
        const [plain, fast] = [newWorld(), newWorld()]
        assert.equal(simdRays(fast), true)
        const shifted = ({ x, y, z }: Vec3): Vec3 => ({ x: x + far, y: y - far, z: z + far })
        const add = (world: World, each: (typeof bodies)[number], name: string): void => {
          const { shape, at, rotation, layer, sensor, moves } = each
          world.add({
            type: moves ? 'kinematic' : 'static',
            name,
            at: shifted(at),
            rotation,
            colliders: [{ shape, layer, sensor }],
          })
        }
        const there = questions.map(({ ray, filter }) => ({
          ray: { from: shifted(ray.from), to: shifted(ray.to) },
          filter,
        }))
        const compare = (): void => {
          for (const each of there) assert.deepEqual(ask(fast, each), ask(plain, each), JSON.stringify(each))
          const rays = there.map(({ ray }) => ray)
          assert.deepEqual(askMany(fast, rays), askMany(plain, rays))
        }
        for (const world of [plain, fast]) {
          for (const [i, each] of bodies.entries()) add(world, each, `body ${i}`)
          world.step()
        }
        compare()
        // Twice, for by now its copy is made.
        compare()
        const before = [plain.snapshot(), fast.snapshot()]
        const random = new Random(seed)
        const changed = Array.from({ length: 6 }, () => ({
          index: random.below(bodies.length),
          how: random.pick(['go', 'move', 'come', 'layer'] as const),
          to: { x: random.between(-6, 6), y: random.between(-6, 6), z: random.between(-6, 6) },
        }))
        for (const world of [plain, fast]) {
          for (const [i, { index, how, to }] of changed.entries()) {
            const chosen = world.find(`body ${index}`)
            if (how === 'come') add(world, bodies[index], `new ${i}`)
            else if (chosen === null) continue
            else if (how === 'go') chosen.remove()
            else if (how === 'move') chosen.teleport(shifted(to))
            else chosen.colliders[0].layer = 'zone'
          }
          world.step()
        }
        compare()
        compare()
        plain.restore(before[0])
        fast.restore(before[1])
        compare()
        assert.equal(simdRays(fast, false), false)
        compare()
      },
    ),
    cases(120),
  )
})

/** Balls and boxes in a cloud. */
function cloud(count: number): World {
  const random = new Random(3)
  const world = newWorld()
  for (let i = 0; i < count; i++) {
    const at = { x: random.between(-20, 20), y: random.between(-20, 20), z: random.between(-20, 20) }
    const shape = random.chance(0.5) ? sphere(0.5) : box(1, 1, 1)
    world.add({ type: 'static', name: `body ${i}`, at, colliders: [{ shape, layer: 'rock' }] })
  }
  world.step()
  return world
}

test('in a cloud of two thousand, from everywhere', () => {
  const [plain, fast] = [cloud(2000), cloud(2000)]
  assert.equal(simdRays(fast), true)
  const random = new Random(8)
  const place = (): Vec3 => ({ x: random.between(-30, 30), y: random.between(-30, 30), z: random.between(-30, 30) })
  const rays = Array.from({ length: 3000 }, (_, i) => {
    const from = place()
    // Along an axis, not at all, and anywhere.
    return { from, to: i % 5 === 0 ? { ...from, y: -30 } : i % 97 === 0 ? from : place() }
  })
  const [slow, quick] = [askMany(plain, rays), askMany(fast, rays)]
  assert.ok(slow.hits > 1000, `${slow.hits} hits`)
  assert.deepEqual(quick, slow)
})

test('a filter may ask again, and may throw', () => {
  const world = cloud(200)
  simdRays(world)
  // Each at a body.
  const [one, two] = [world.find('body 7')!.at, world.find('body 8')!.at]
  const ray = { from: { x: -30, y: 0, z: 0 }, to: one }
  const across = { from: { x: 0, y: -30, z: 0 }, to: two }
  const plain = told(cloud(200).raycast.first(ray))
  const other = told(cloud(200).raycast.first(across))
  for (let i = 0; i < 200; i++) world.raycast.any(ray)
  let inner = 0
  const again = () => {
    inner++
    assert.deepEqual(told(world.raycast.first(across)), other)
    return true
  }
  assert.deepEqual(told(world.raycast.first(ray, { where: again })), plain)
  assert.ok(inner > 0, 'it was asked')
  const fails = () => {
    throw new Error('a mistake of the game')
  }
  assert.throws(() => world.raycast.first(ray, { where: fails }), /a mistake of the game/)
  assert.deepEqual(told(world.raycast.first(ray)), plain)
})

test('what is no world of 3D is refused', () => {
  throwsKeen('bad-argument', /simdRays takes a world of 3D/, () => simdRays({} as never))
  throwsKeen('bad-argument', /simdRays takes true or false/, () => simdRays(newWorld(), null as never))
})

test('where an engine has no WebAssembly it says so, and answers as ever', () => {
  const code = `
    import { createWorld, defineLayers, sphere } from './src/3d/index.ts'
    import { simdRays } from './src/3d/simd/index.ts'
    delete globalThis.WebAssembly
    const world = createWorld({ layers: defineLayers(['rock']) })
    world.add({ type: 'static', colliders: [{ shape: sphere(1), layer: 'rock' }] })
    const hit = () => world.raycast.first({ from: { x: -5, y: 0, z: 0 }, to: { x: 5, y: 0, z: 0 } }).fraction
    console.log(simdRays(world), hit())`
  const { stdout, stderr } = spawnSync(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', code], {
    encoding: 'utf8',
  })
  assert.equal(stdout.trim(), 'false 0.4', stderr)
})

test('its bytes are those of its source', async () => {
  const { bytesFile, signOf, BYTES } = await import('../../scripts/kernel.ts')
  const kept = readFileSync(BYTES, 'utf8')
  assert.ok(kept.includes(signOf()), 'npm run kernel makes them anew')
  // The compiler takes ten seconds to load.
  if (process.env['KEEN_LONG'] === '1') assert.equal(kept, await bytesFile())
})
