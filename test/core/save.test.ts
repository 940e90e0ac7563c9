/** Saved as bytes and loaded, in the same world or another, a world goes on as if it had never left; what is damaged or does not fit changes nothing. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { describe, test } from 'node:test'
import * as two from '../../src/2d/index.ts'
import { circle, createWorld, defineLayers, ofType, tiles, type World2 } from '../../src/2d/index.ts'
import * as kinematic from '../../src/2d/kinematic/index.ts'
import * as three from '../../src/3d/index.ts'
import * as kinematic3 from '../../src/3d/kinematic/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { played, trace } from '../helpers/played.ts'
import { Random } from '../helpers/random.ts'
import { keptWorld, SAVED } from '../helpers/saved.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

for (const dimension of DIMENSIONS) {
  describe(dimension.name, () => {
    test('loaded in a new world it goes on as where it was saved: to the bit, with the same events', () => {
      for (let seed = 20; seed < 20 + runs(2); seed++) {
        let here = played(dimension, seed)
        for (let round = 0; round < 6; round++) {
          for (let i = 0; i < 4 + 5 * round; i++) here.tick()
          // With changes that no step has seen, too.
          if (round % 2 === 1) here.prepare()
          const bytes = here.world.save()
          const there = played(dimension, seed)
          if (round % 3 === 2) for (let i = 0; i < 9; i++) there.tick()
          there.world.restore(bytes)
          assert.equal(there.world.hash(), here.world.hash())
          assert.deepEqual(there.world.events(), [])
          for (let i = 0; i < 12; i++) {
            const [one, other] = round % 2 === 1 && i === 0 ? [here.step(), there.step()] : [here.tick(), there.tick()]
            assert.equal(other, one, `seed ${seed}, round ${round}, tick ${i}`)
          }
          assert.equal(there.world.hash(), here.world.hash())
          assert.deepEqual(there.world.save(), here.world.save())
          here = there
        }
      }
    })

    test('in its own world: as restored from a snapshot, with the handles that there were', () => {
      const { world, tick } = played(dimension, 31)
      for (let i = 0; i < 30; i++) tick()
      const [bytes, hash] = [world.save(), world.hash()]
      const before = world.bodies()
      const colliders = before.map((body) => body.colliders)
      const joints = world.joints()
      const first = Array.from({ length: 20 }, tick)
      for (const body of before.slice(2, 9)) if (body.alive) body.remove()
      world.step()
      world.restore(bytes)
      assert.equal(world.hash(), hash)
      assert.deepEqual(world.bodies(), before)
      world.bodies().forEach((body, i) => {
        assert.ok(body === before[i] && body.alive, `${body}`)
        assert.ok(body.colliders.every((each, k) => each === colliders[i][k] && each.alive))
      })
      assert.ok(world.joints().every((joint, i) => joint === joints[i] && joint.alive))
      assert.deepEqual(Array.from({ length: 20 }, tick), first)
    })

    test('ten thousand damaged saves are refused, and change nothing', () => {
      const { at, box, circle, createWorld } = dimension
      const make = () => {
        const world = createWorld({ layers }) as World2
        world.watch('craft', 'rock')
        return world
      }
      const world = make()
      world.add({ type: 'static', name: 'rock', colliders: [{ shape: box(4, 1), layer: 'rock' }] })
      world.add({ type: 'dynamic', at: at(0, 2), colliders: [{ shape: circle(0.5), layer: 'craft' }] })
      for (let i = 0; i < 40; i++) world.step()
      const bytes = world.save()
      const target = make()
      target.add({ type: 'kinematic', velocity: at(1, 0), colliders: [{ shape: circle(1), layer: 'craft' }] })
      target.step()
      const hash = target.hash()
      const random = new Random(77)
      for (let i = 0; i < 10_000; i++) {
        let mutated = bytes.slice()
        const place = () => random.below(mutated.length)
        switch (random.below(5)) {
          case 0:
            mutated[place()] ^= 1 << random.below(8)
            break
          case 1:
            mutated = mutated.subarray(0, place())
            break
          case 2:
            mutated = Uint8Array.from([...mutated, random.below(256)])
            break
          case 3: {
            const [from, to] = [place(), place()]
            mutated.copyWithin(to, from, from + 1 + random.below(64))
            break
          }
          default:
            mutated.fill(random.below(256), place(), mutated.length)
        }
        if (mutated.length === bytes.length && mutated.every((byte, k) => byte === bytes[k])) continue
        throwsKeen('bad-save', /^what is restored is /, () => target.restore(mutated))
      }
      assert.equal(target.hash(), hash)
      target.restore(bytes)
      assert.equal(target.hash(), world.hash())
    })

    test('what goes with a body is kept by functions of the user', () => {
      const { at, circle, createWorld } = dimension
      const data = ofType<{ oxygen: number; seen: Set<string> }>()
      const make = () => createWorld({ layers, data })
      const world = make()
      const add = (name: string, oxygen: number) =>
        world.add({
          type: 'kinematic',
          name,
          at: at(oxygen, 0),
          data: { oxygen, seen: new Set(['reef']) },
          colliders: [{ shape: circle(1), layer: 'craft' }],
        })
      const craft = add('craft', 7)
      add('späher 鯨', 3)
      const bytes = world.save({ data: ({ data: { oxygen, seen } }) => ({ oxygen, seen: [...seen] }) })
      const revive = (saved: unknown, name: string | null) => {
        const { oxygen, seen } = saved as { oxygen: number; seen: string[] }
        return { oxygen, seen: new Set([...seen, String(name)]) }
      }
      const other = make()
      other.restore(bytes, { data: revive })
      assert.deepEqual(other.find('craft')!.data, { oxygen: 7, seen: new Set(['reef', 'craft']) })
      assert.deepEqual(other.find('späher 鯨')!.data.oxygen, 3)
      // Without it data of who is there stays, and of who is new there is none.
      const own = craft.data
      own.oxygen = 1
      world.restore(bytes)
      assert.equal(craft.data, own)
      const third = make()
      third.restore(bytes)
      assert.equal(third.find('craft')!.data, undefined)
      // What throws, or gives what is no JSON, changes nothing.
      const hash = third.hash()
      third.step()
      const later = third.hash()
      const failing = () => {
        throw new RangeError('no such data')
      }
      assert.throws(() => third.restore(bytes, { data: failing }), RangeError)
      assert.equal(third.hash(), later)
      assert.notEqual(hash, later)
      throwsKeen('bad-argument', /is no JSON/, () => world.save({ data: () => () => 1 }))
      throwsKeen('bad-argument', /belongs to bytes/, () => world.restore(world.snapshot(), { data: revive }))
    })

    test('a save that does not fit names what differs', () => {
      const { at, circle, createWorld } = dimension
      const make = (options: object = {}) => createWorld({ layers, tags: ['loud'], ...options }) as World2
      const world = make()
      world.add({ type: 'dynamic', at: at(0, 1), colliders: [{ shape: circle(1), layer: 'craft' }] })
      const bytes = world.save()
      const refused = (options: object, text: RegExp) =>
        throwsKeen('bad-save', text, () => make(options).restore(bytes))
      refused({ rate: 50 }, /of a world with rate 60, and this one has rate 50/)
      refused({ unit: 32 }, /with unit 1, and this one has unit 32/)
      refused({ tags: [] }, /with the tags loud, and this one has none/)
      refused({ layers: defineLayers(['craft', 'rock', 'zone']) }, /with the layers rock, craft, zone, and this one/)
      const other = dimension.name === '2D' ? three : two
      const elsewhere = other.createWorld({ layers, tags: ['loud'] })
      throwsKeen('bad-save', /with dimension [23], and this one has dimension [23]/, () => elsewhere.restore(bytes))
      const slow = (dimension.name === '2D' ? kinematic : kinematic3).createWorld({ layers, tags: ['loud'] })
      const { restore, save } = (dimension.name === '2D' ? kinematic : kinematic3) as typeof kinematic
      throwsKeen('bad-save', /with forces true, and this one has forces false/, () => restore(slow as never, bytes))
      throwsKeen('bad-argument', /import \{ save, restore \} from/, () => slow.save())
      throwsKeen('bad-argument', /takes a world of/, () => save(elsewhere as never))
      throwsKeen('bad-save', /does not begin as the bytes of world.save/, () => world.restore(new Uint8Array(99)))
      throwsKeen('bad-argument', /must be a snapshot of this world/, () => world.restore('save' as never))
      const next = bytes.slice()
      next[8]++
      throwsKeen('bad-save', /of version 2 of the format, and this library reads version 1/, () => world.restore(next))
      // The pair table is of the state, not of the world.
      world.setPair('craft', 'rock', 'pass')
      const kept = make()
      kept.restore(world.save())
      assert.equal(kept.layers.pair('craft', 'rock'), 'pass')
    })

    test('without forces: by the two functions that come with it', () => {
      const { at, circle, box } = dimension
      const { restore, save, createWorld } = (dimension.name === '2D' ? kinematic : kinematic3) as typeof kinematic
      const make = () => {
        const world = createWorld({ layers })
        const heard: string[] = []
        world.watch('craft', 'zone', { begin: (e) => heard.push(`in ${e.cause}`), end: () => heard.push('out') })
        return { world, heard }
      }
      const { world } = make()
      world.add({ type: 'static', colliders: [{ shape: box(2, 2), layer: 'zone' }] })
      world.add({
        type: 'kinematic',
        at: at(-3, 0),
        velocity: at(6, 0),
        colliders: [{ shape: circle(0.5), layer: 'craft' }],
      })
      for (let i = 0; i < 20; i++) world.step()
      const bytes = save(world)
      const [silent, told] = [make(), make()]
      restore(silent.world, bytes)
      restore(told.world, bytes, { tell: true })
      for (let i = 0; i < 40; i++) for (const each of [silent, told]) each.world.step()
      assert.deepEqual(silent.heard, ['out'])
      assert.deepEqual(told.heard, ['in restored', 'out'])
      for (let i = 0; i < 40; i++) world.step()
      assert.equal(told.world.hash(), world.hash())
    })

    test('watches and hooks are found by what they are called; those that are not there have told nothing', () => {
      const { at, box, circle, createWorld } = dimension
      const make = (keys: readonly string[], hook = true) => {
        const world = createWorld({ layers }) as World2
        const heard: string[] = []
        for (const key of keys) {
          const hear = (what: string) => () => void heard.push(`${key} ${what}`)
          world.watch('craft', 'zone', { begin: hear('begin'), end: hear('end') }, { key })
        }
        if (hook) world.decide('craft', 'rock', () => 'pass')
        return { world, heard }
      }
      const { world } = make(['one', 'two'])
      world.add({ type: 'static', colliders: [{ shape: box(2, 2), layer: 'zone' }] })
      world.add({ type: 'static', at: at(4, 0), colliders: [{ shape: box(2, 2), layer: 'rock' }] })
      const body = { type: 'kinematic', name: 'craft', colliders: [{ shape: circle(0.5), layer: 'craft' }] } as const
      world.add(body)
      for (let i = 0; i < 3; i++) world.step()
      const bytes = world.save()
      const other = make(['three', 'two', 'two'], false)
      other.world.restore(bytes)
      const heard = () => other.heard.splice(0)
      other.world.step()
      assert.deepEqual(heard(), ['three begin', 'two begin'])
      other.world.find('craft')!.teleport(at(4, 0))
      other.world.step()
      assert.deepEqual(heard(), ['three end', 'two end', 'two end'])
    })

    test('sets of tags, whose numbers another world may give otherwise', () => {
      const { at, circle, createWorld } = dimension
      const make = (...sets: string[][]) => {
        const world = createWorld({ layers, tags: ['loud', 'old', 'big'] }) as World2
        sets.forEach((tags, i) => {
          const colliders = [{ shape: circle(0.2), layer: 'craft', tags } as never]
          world.add({ type: 'kinematic', name: tags.join('+') || 'plain', at: at(i, 0), colliders })
        })
        return world
      }
      const world = make(['loud'], [], ['big', 'old'])
      const other = make(['old', 'big'], ['loud', 'big'], ['loud'])
      other.restore(world.save())
      for (const name of ['loud', 'plain', 'big+old']) {
        const tags = world.find(name)!.colliders[0].tags
        assert.deepEqual(other.find(name)!.colliders[0].tags, tags)
        assert.equal(other.find(name)!.colliders[0].tags.length, name === 'plain' ? 0 : name.split('+').length)
      }
      assert.equal(other.find('old+big'), null)
    })

    test('a save of this version of the format is read, and is what it was', () => {
      // Where this fails, states are laid out anew: raise SAVE_VERSION, and write these files again (npm run saved).
      const { world, heard } = keptWorld(dimension)
      const { file, hash, later } = SAVED[dimension.name]
      world.restore(new Uint8Array(readFileSync(new URL(`../helpers/saved/${file}`, import.meta.url))))
      assert.equal(world.hash(), hash)
      for (let i = 0; i < 60; i++) world.step()
      assert.equal(world.hash(), later)
      assert.ok(heard.length > 0)
    })

    test('with a history: the past begins anew, and goes on from there', () => {
      const { at, circle, createWorld } = dimension
      const make = () => createWorld({ layers, history: 10 }) as World2
      const world = make()
      world.add({
        type: 'kinematic',
        name: 'craft',
        velocity: at(6, 0),
        colliders: [{ shape: circle(0.5), layer: 'craft' }],
      })
      for (let i = 0; i < 20; i++) world.step()
      const other = make()
      for (let i = 0; i < 30; i++) other.step()
      other.restore(world.save())
      const ask = (of: Pick<World2, 'nearest'>) => of.nearest.first({ point: at(0, 0) })?.distance
      assert.equal(ask(other.past(0)), ask(world))
      throwsKeen('bad-argument', /nothing is known of tick 19: it is forgotten/, () => other.past(1))
      for (let i = 0; i < 5; i++) {
        world.step()
        other.step()
      }
      for (const ago of [5, 0, 3]) assert.equal(ask(other.past(ago)), ask(world.past(ago)))
    })

    test('not from inside a step', () => {
      const { circle, createWorld } = dimension
      const world = createWorld({ layers }) as World2
      const codes: string[] = []
      const bytes = world.save()
      const note = (call: () => unknown) => {
        try {
          call()
        } catch (error) {
          codes.push((error as two.KeenError).code)
        }
      }
      world.watch('craft', 'craft', {
        begin() {
          note(() => world.save())
          note(() => world.restore(bytes))
        },
      })
      world.setPair('craft', 'craft', 'sense')
      for (let i = 0; i < 2; i++) world.add({ type: 'kinematic', colliders: [{ shape: circle(1), layer: 'craft' }] })
      world.step()
      assert.deepEqual(codes, ['locked', 'locked'])
      throwsKeen('bad-argument', /no field "dat"/, () => world.save({ dat: 1 } as never))
      throwsKeen('bad-argument', /'data' of save/, () => world.save({ data: 1 } as never))
    })
  })
}

test('2D: every shape, and tiles that were carved', () => {
  const make = () => createWorld({ layers })
  const world = make()
  const corners = [
    { x: 0, y: 0 },
    { x: 2, y: 0 },
    { x: 2, y: 2 },
    { x: 1, y: 0.5 },
    { x: 0, y: 2 },
  ]
  const star = two.polygon(corners, { radius: 0.1 })
  const shapes = [
    circle(0.3),
    two.box(1, 2, { radius: 0.2 }),
    two.capsule({ x: -1, y: 0 }, { x: 1, y: 0.3 }, 0.2),
    star,
    two.segment({ x: 0, y: 0 }, { x: 3, y: -1 }),
    two.polyline(corners, { loop: true }),
    two.halfspace({ x: 3, y: 4 }, 1.5),
    two.compound([{ shape: star, at: { x: 1, y: 1 }, angle: 0.3 }, { shape: circle(1) }]),
  ]
  shapes.forEach((shape, i) => {
    world.add({
      type: 'static',
      name: `s${i}`,
      at: { x: 5 * i, y: i },
      angle: 0.1 * i,
      colliders: [{ shape, layer: 'rock' }],
    })
  })
  const kinds = { '#': {}, '~': { layer: 'zone', response: 'sense' }, o: { friction: 0.1 } } as const
  const grid = tiles({ rows: ['..##o', '~~###', 'ooo##'], kinds })
  const at = { x: -9, y: -9 }
  const ground = world.add({ type: 'static', name: 'ground', at, colliders: [{ shape: grid, layer: 'rock' }] })
  ground.colliders[0].setTile(1, 0, '#')
  world.step()
  ground.colliders[0].setTile(0, 1, 'o')
  const bytes = world.save()
  const hash = world.hash()
  const look = (from: World2) =>
    JSON.stringify([
      from.bodies().map((body) => body.colliders.map(({ shape }) => shape)),
      from.find('ground')!.colliders.map(({ outline }) => outline),
      [...Array(200).keys()].map((i) =>
        from.raycast.first({ from: { x: i / 4 - 12, y: 9 }, to: { x: i / 4 - 11, y: -12 } }),
      ),
      // The way out of tiles, and which of them were met.
      [...Array(60).keys()].map((i) => {
        const place = { shape: circle(0.4), at: { x: -9 + (i % 10) / 2, y: -9 + Math.floor(i / 10) / 2 } }
        return [from.overlap.all(place), from.overlap.all({ ...place, depth: true })]
      }),
    ])
  const seen = look(world)
  const other = make()
  other.restore(bytes)
  assert.equal(other.hash(), hash)
  assert.equal(look(other), seen)
  assert.equal(
    other.find('s3')!.colliders[0].shape,
    (other.find('s7')!.colliders[0].shape as two.Compound).parts[0].shape,
  )
  // What is done to the one is not done to the other, and tiles can be changed on.
  const there = other.find('ground')!.colliders[0]
  there.setTile(4, 2, '.')
  assert.equal(ground.colliders[0].tileAt(4, 2), '#')
  assert.equal(there.tileAt(4, 2), '.')
  assert.notEqual(look(other), seen)
  world.find('ground')!.colliders[0].carve({ shape: circle(1.2), at: { x: -7, y: -7.5 } })
  assert.notEqual(look(world), seen)
  world.restore(bytes)
  assert.equal(look(world), seen)
  ground.colliders[0].setTile(4, 2, '.')
  there.setTile(3, 2, '.')
  ground.colliders[0].setTile(3, 2, '.')
  world.step()
  other.step()
  assert.equal(look(other), look(world))
})

test('3D: every shape, meshes and heightfields with their triangles', () => {
  const make = () => three.createWorld({ layers })
  const world = make()
  const corners = [0, 0, 0, 4, 0, 0, 4, 1, 4, 0, 0.5, 4].map((x) => x / 2)
  const mesh = three.mesh({ positions: Float64Array.from(corners), indices: Uint32Array.of(0, 2, 1, 0, 3, 2) })
  const heights = Array.from({ length: 25 }, (_, i) => Math.sin(i))
  const points = Array.from({ length: 12 }, (_, i) => ({ x: Math.sin(i), y: Math.cos(2 * i), z: Math.cos(i) }))
  const hull = three.hull(points)
  const shapes = [
    three.sphere(0.3),
    three.box(1, 2, 3, { radius: 0.2 }),
    three.capsule({ x: -1, y: 0, z: 0 }, { x: 1, y: 0.3, z: 0.2 }, 0.2),
    three.cylinder(2, 0.5),
    three.cone(2, 0.5),
    hull,
    three.halfspace({ x: 0, y: 4, z: 3 }, -7.5),
    three.compound([{ shape: hull, at: { x: 1, y: 1, z: 0 } }, { shape: three.sphere(1) }]),
    mesh,
    three.heightfield({ columns: 5, rows: 5, heights, cell: 2 }),
  ] as three.Shape3[]
  shapes.forEach((shape, i) => {
    const at = { x: 5 * i, y: i, z: 0 }
    world.add({ type: 'static', name: `s${i}`, at, colliders: [{ shape, layer: 'rock' }] })
  })
  world.add({ type: 'static', name: 'again', at: { x: 60, y: 0, z: 0 }, colliders: [{ shape: mesh, layer: 'rock' }] })
  for (let i = 0; i < 20; i++)
    world.add({
      type: 'dynamic',
      at: { x: 2.5 * i, y: 14, z: 0.1 },
      colliders: [{ shape: three.sphere(0.4), layer: 'craft' }],
    })
  for (let i = 0; i < 30; i++) world.step()
  const other = make()
  other.restore(world.save())
  const look = (from: three.World3) =>
    JSON.stringify([
      from.bodies().map((body) => body.colliders.map(({ shape: { pieces: _, ...facts } }) => facts)),
      [...Array(200).keys()].map((i) =>
        from.raycast.first({ from: { x: i / 3 - 3, y: 20, z: 0.3 }, to: { x: i / 3 - 2, y: -12, z: 0.1 } }),
      ),
    ])
  for (let i = 0; i < 60; i++) {
    assert.equal(other.hash(), world.hash())
    if (i % 20 === 0) assert.equal(look(other), look(world))
    world.step()
    other.step()
  }
})

test('far from the origin, two thousand at one place, thousands of ticks: equal to the byte', () => {
  const make = () => createWorld({ layers })
  const world = make()
  world.add({ type: 'static', at: { x: 5e5, y: 0 }, colliders: [{ shape: two.box(50, 2), layer: 'rock' }] })
  for (let i = 0; i < 300; i++)
    world.add({ type: 'kinematic', at: { x: 5e5, y: 8 }, colliders: [{ shape: circle(0.5), layer: 'zone' }] })
  for (let i = 0; i < 30; i++)
    world.add({ type: 'dynamic', at: { x: 5e5 + i, y: 8 }, colliders: [{ shape: circle(0.4), layer: 'craft' }] })
  for (let i = 0; i < 100; i++) world.step()
  const bytes = world.save()
  const other = make()
  other.restore(bytes)
  assert.deepEqual(other.save(), bytes)
  assert.equal(trace(other, []), trace(other, []))
  const third = make()
  third.restore(other.save())
  for (let i = 0; i < 50; i++) {
    world.step()
    third.step()
  }
  assert.equal(third.hash(), world.hash())
})
