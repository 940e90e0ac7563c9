/** Tiles in play: what rolls, slides and travels over them, what becomes of bodies and pairs when they change, what is carved and cut off. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  type AskingShape2,
  box,
  capsule,
  circle,
  compound,
  createWorld,
  defineLayers,
  polygon,
  type Shape2,
  tiles,
  type Vec2,
} from '../../src/2d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { KINDS, solidTiles } from '../oracle/tiles.ts'

const layers = defineLayers(['rock', 'crate', 'zone'], { otherwise: 'solid', pairs: [['zone', '*', 'sense']] })
const UP = { x: 0, y: 1 }

function worldOf(shape: Shape2, friction = 0.6) {
  const world = createWorld({ layers })
  const ground = world.add({ type: 'static', colliders: [{ shape, layer: 'rock', friction }] })
  return { world, ground, rock: ground.colliders[0] }
}

const floor = (columns: number, rows: number, air: number) =>
  Array.from({ length: air + rows }, (_, y) => (y < air ? '.' : '#').repeat(columns))

const movers: readonly (readonly [string, AskingShape2, number])[] = [
  ['ball', circle(0.4), 0.4],
  ['box', box(0.8, 0.8), 0.4],
  ['capsule', capsule({ x: -0.3, y: 0 }, { x: 0.3, y: 0 }, 0.4), 0.4],
]

test('over a thousand tiles a ball, a box and a capsule keep their speed and height, at any speed', () => {
  for (const [name, shape, up] of movers) {
    for (const cell of [1, 0.37]) {
      for (const speed of [1, 20, 300, 10_000]) {
        // Two materials in turn, so that there are seams of colliders besides those of chunks.
        const row = (speed > 100 ? '#' : '##=#==').repeat(speed > 100 ? 1000 : 167)
        const { world } = worldOf(tiles({ cell, rows: ['.'.repeat(row.length), row, row], kinds: KINDS }), 0)
        const y = 2 * cell + up
        const body = world.add({
          type: 'dynamic',
          at: { x: 2, y },
          velocity: { x: speed, y: 0 },
          sleeps: false,
          colliders: [{ shape, layer: 'crate', friction: 0 }],
        })
        const told: string[] = []
        const watch = { end: () => void told.push('end'), impact: () => void told.push('impact') }
        world.watch('crate', 'rock', watch, { over: { speed: 0.1 } })
        const steps = Math.min(240, Math.floor(((1000 * cell - 4) / speed) * 60))
        for (let i = 0; i < steps; i++) {
          world.step()
          if (i < 2) continue
          const what = `${name} on cells of ${cell} at ${speed}, step ${i}`
          assert.ok(Math.abs(body.velocity.y) < (speed > 1000 ? 2e-2 : 5e-3), `${what}: rises at ${body.velocity.y}`)
          assert.ok(Math.abs(body.at.y - y) < (speed > 1000 ? 3e-3 : 1e-3), `${what}: ${body.at.y - y} off its height`)
          assert.ok(Math.abs(body.velocity.x - speed) < 5e-5 * speed, `${what}: ${body.velocity.x}`)
        }
        // At 167 m a step it may lose touch by a millimetre, and find it again.
        if (speed < 1000) assert.deepEqual(told, [], `${name} on cells of ${cell} at ${speed}`)
      }
    }
  }
})

/** A floor with a hill: a slope up, a plateau, a slope down. */
function hill(of: (x: number, y: number) => string): string[] {
  const [height, width] = [22, 160]
  const rows = Array.from({ length: height }, () => Array<string>(width).fill('.'))
  const put = (x: number, y: number, sign: string) => {
    rows[height - 1 - y][x] = sign
  }
  for (let x = 0; x < width; x++) put(x, 0, of(x, 0))
  for (let i = 0; i < 20; i++) {
    for (let k = 0; k < i; k++) put(50 + i, 1 + k, of(50 + i, k))
    put(50 + i, 1 + i, '/')
    for (let k = 0; k < 20; k++) put(70 + i, 1 + k, of(70 + i, k))
    for (let k = 0; k < 19 - i; k++) put(90 + i, 1 + k, of(90 + i, k))
    put(90 + i, 20 - i, '\\')
  }
  return rows.map((row) => row.join(''))
}

test('over slopes and kinks of tiles a ball goes as over a hill of one piece, at any speed', () => {
  const base = box(160, 1)
  const one = polygon([
    { x: 50, y: 1 },
    { x: 110, y: 1 },
    { x: 90, y: 21 },
    { x: 70, y: 21 },
  ])
  const ways = [
    () => tiles({ rows: hill(() => '#'), kinds: KINDS }),
    () => tiles({ rows: hill((x, y) => ((x + y) % 3 === 0 ? '=' : '#')), kinds: KINDS }),
    // Pieces of one collider, whatever they are.
    () => compound([{ shape: base, at: { x: 80, y: 0.5 } }, { shape: one }]),
  ]
  const roll = (make: (world: ReturnType<typeof worldOf>['world']) => void, speed: number): Vec2[] => {
    const world = createWorld({ layers })
    make(world)
    const ball = world.add({
      type: 'dynamic',
      at: { x: 2, y: 1.4 },
      velocity: { x: speed, y: 0 },
      sleeps: false,
      colliders: [{ shape: circle(0.4), layer: 'crate', friction: 0 }],
    })
    return Array.from({ length: 400 }, () => {
      world.step()
      return ball.at
    })
  }
  for (const speed of [5, 20, 30, 100, 400]) {
    const reference = roll((world) => {
      world.add({ type: 'static', at: { x: 80, y: 0.5 }, colliders: [{ shape: base, layer: 'rock', friction: 0 }] })
      world.add({ type: 'static', colliders: [{ shape: one, layer: 'rock', friction: 0 }] })
    }, speed)
    ways.forEach((make, way) => {
      const way2 = roll((world) => {
        world.add({ type: 'static', colliders: [{ shape: make(), layer: 'rock', friction: 0 }] })
      }, speed)
      way2.forEach((at, i) => {
        const off = Math.hypot(at.x - reference[i].x, at.y - reference[i].y)
        assert.ok(off < 2e-3, `way ${way} at ${speed}: ${off} off after ${i} steps, at ${at.x}, ${at.y}`)
      })
    })
  }
})

test('what travels over tiles keeps its way: along a floor of chunks, up slopes, on steps', () => {
  for (const [name, shape, up] of movers) {
    const { world } = worldOf(tiles({ rows: floor(300, 2, 3), kinds: KINDS }))
    const body = world.add({ type: 'kinematic', at: { x: 2, y: 2 + up }, colliders: [{ shape, layer: 'crate' }] })
    for (let i = 0; i < 280; i++) {
      const { hits } = body.travel({ x: 1, y: -0.01 }, { onHit: 'slide' })
      assert.ok(Math.abs(body.at.y - 2 - up) < 1e-9, `${name}: ${body.at.y}`)
      assert.ok(hits.every((hit) => hit.tile?.row === 3 && hit.tile.kind === '#'))
    }
    assert.ok(Math.abs(body.at.x - 282) < 1e-6, `${name}: ${body.at.x}`)
  }
  // Steps of a quarter and of a half.
  const rows = ['....###', '...#...', '.__####', '#######']
  const kinds = {
    '#': {},
    _: {
      shape: [
        { x: 0, y: 0 },
        { x: 1, y: 0 },
        { x: 1, y: 0.25 },
        { x: 0, y: 0.25 },
      ],
    },
  }
  const { world } = worldOf(tiles({ rows: rows.slice(2), kinds }))
  const hero = world.add({
    type: 'kinematic',
    at: { x: 0.45, y: 1.4 },
    colliders: [{ shape: circle(0.4), layer: 'crate' }],
  })
  const options = { onHit: 'slide', up: UP, steepest: 0.9, stepHeight: 0.3, snap: 0.1 } as const
  for (let i = 0; i < 20; i++) hero.travel({ x: 0.1, y: -0.05 }, options)
  assert.ok(Math.abs(hero.at.y - 1.65) < 1e-6, `up the low step: ${hero.at.y}`)
  for (let i = 0; i < 20; i++) hero.travel({ x: 0.1, y: -0.05 }, options)
  assert.ok(hero.at.x < 2.61, 'and not up the high one')
})

test('a tile that is taken away wakes what rests there and nothing else, and ends its pairs with their cause', () => {
  const { world, rock } = worldOf(
    tiles({ rows: floor(200, 20, 20), kinds: { '#': {}, '~': { layer: 'zone', response: 'sense' } } }),
  )
  const boxes = [10, 50, 90, 150].map((x) =>
    world.add({
      type: 'dynamic',
      name: `at ${x}`,
      at: { x: x + 0.5, y: 20.45 },
      colliders: [{ shape: box(0.9, 0.9), layer: 'crate' }],
    }),
  )
  const told: string[] = []
  const tell = (e: { kind: string; cause: string | null; a: unknown }) => void told.push(`${e.a} ${e.kind} ${e.cause}`)
  for (let i = 0; i < 200; i++) world.step()
  assert.ok(boxes.every((each) => each.asleep))
  world.watch('crate', 'rock', { begin: tell, end: tell })
  world.watch('crate', 'zone', { begin: tell, end: tell })
  world.step()
  told.length = 0
  rock.setTile(50, 20, '.')
  rock.setTile(50, 21, '.')
  world.step()
  assert.deepEqual(told, ['at 50 end reshaped'])
  assert.deepEqual(
    boxes.map((each) => each.asleep),
    [true, false, true, true],
  )
  for (let i = 0; i < 200; i++) world.step()
  assert.ok(Math.abs(boxes[1].at.y - 18.45) < 1e-3)
  told.length = 0
  // A zone comes and goes; rock comes where a body is.
  rock.setTile(90, 19, '~')
  world.step()
  rock.setTile(90, 19, '.')
  world.step()
  assert.deepEqual(told, ['at 90 begin reshaped', 'at 90 end reshaped'])
  rock.setTile(150, 19, '#')
  for (let i = 0; i < 200; i++) world.step()
  const { at } = boxes[3]
  assert.ok(Math.abs(at.x - 150.5) > 0.9 || at.y > 21.4, `pushed out of the new rock: ${at.x}, ${at.y}`)
})

test('changes act at once for queries, in callbacks too, and are refused inside a decide hook', () => {
  const { world, rock } = worldOf(tiles({ rows: floor(40, 4, 4), kinds: { '#': {} } }))
  const ray = { from: { x: 5.5, y: 9 }, to: { x: 5.5, y: -9 } }
  const depth = () => world.raycast.first(ray)?.distance
  assert.equal(depth(), 5)
  rock.setTile(5, 4, '.')
  assert.equal(depth(), 6)
  const ball = world.add({
    type: 'dynamic',
    at: { x: 20.5, y: 5 },
    colliders: [{ shape: circle(0.4), layer: 'crate' }],
  })
  let carved = 0
  world.watch(
    ball,
    'rock',
    {
      begin() {
        carved += rock.carve({ shape: circle(1.2), at: ball.at, tiles: 'touched' }).tiles.length
        assert.equal(world.overlap.any({ shape: circle(0.9), at: ball.at }, { layers: ['rock'] }), false)
      },
    },
    { once: true },
  )
  for (let i = 0; i < 120; i++) world.step()
  assert.ok(carved >= 3)
  assert.ok(ball.at.y < 4)
  let refused = ''
  const hook = world.decide(
    'crate',
    'rock',
    () => {
      try {
        rock.setTile(0, 0, '#')
      } catch (error) {
        refused = (error as { code: string }).code
      }
      return 'solid'
    },
    { ask: 'tick' },
  )
  world.step()
  hook.stop()
  assert.equal(refused, 'locked')
  rock.body.remove()
  throwsKeen('dead-handle', /setTile/, () => rock.setTile(0, 0, '#'))
  assert.equal(world.raycast.any(ray), false)
})

test('carve takes tiles by their middle, by touch or whole, and leaves firm ones', () => {
  const rows = ['#####', '##F##', '#####', '#####']
  const kinds = { '#': {}, F: { firm: true } }
  const at = { x: 2.5, y: 2.5 }
  const count = (options: { tiles?: 'middle' | 'touched' | 'covered'; shape: AskingShape2 }) =>
    worldOf(tiles({ rows, kinds })).rock.carve({ at, ...options }).tiles.length
  assert.equal(count({ shape: circle(1.2) }), 4)
  assert.equal(count({ shape: circle(1.2), tiles: 'touched' }), 8)
  assert.equal(count({ shape: circle(1.2), tiles: 'covered' }), 0)
  assert.equal(count({ shape: box(3, 3), tiles: 'touched' }), 8, 'to touch is not to overlap')
  assert.equal(count({ shape: box(3, 3), tiles: 'covered' }), 8)
  const { rock } = worldOf(tiles({ rows, kinds }))
  assert.deepEqual(rock.carve({ shape: box(1, 1), at }), { tiles: [], pieces: [] })
  throwsKeen('bad-argument', /'tiles' of carve/, () => rock.carve({ shape: circle(1), at, tiles: 'some' as 'middle' }))
})

test('what is cut off comes back as a piece, where it was, and falls', () => {
  const rows = ['..........', '.###..##..', '.#.####...', '..........', '##########']
  for (const angle of [0, 0.7]) {
    const world = createWorld({ layers })
    const place = { x: 30, y: -4 }
    const ground = world.add({
      type: 'static',
      at: place,
      angle,
      colliders: [{ shape: tiles({ rows, kinds: { '#': {} } }), layer: 'rock' }],
    })
    const at = {
      x: 30 + 4.5 * Math.cos(angle) - 2.5 * Math.sin(angle),
      y: -4 + 4.5 * Math.sin(angle) + 2.5 * Math.cos(angle),
    }
    const before = ground.colliders[0].shape.area
    const few = ground.colliders[0].carve({ shape: circle(0.6), at, cutOff: 4 })
    assert.equal(few.tiles.length, 1)
    assert.deepEqual(
      few.pieces.map((piece) => piece.shape.text()),
      [['.##', '##.']],
    )
    ground.colliders[0].setTile(4, 2, '#')
    const { pieces } = ground.colliders[0].carve({ shape: circle(0.6), at, cutOff: 50 })
    assert.deepEqual(
      pieces.map((piece) => piece.shape.text()),
      [['###', '#.#']],
    )
    assert.equal(ground.colliders[0].shape.area, before - 10)
    const all = [...few.pieces, ...pieces]
    // Each lies where its tiles were: nothing is there now, and it fills just that.
    const debris = all.map(({ shape, at: where, angle: turned }) =>
      world.add({ type: 'dynamic', at: where, angle: turned, colliders: [{ shape, layer: 'crate' }] }),
    )
    for (const { tiles: gone } of all) {
      for (const { column, row } of gone) {
        const [x, y] = [column + 0.5, rows.length - 1 - row + 0.5]
        const middle = {
          x: 30 + x * Math.cos(angle) - y * Math.sin(angle),
          y: -4 + x * Math.sin(angle) + y * Math.cos(angle),
        }
        const there = world.overlap.all({ shape: circle(0.4), at: middle })
        assert.equal(there.length, 1)
        assert.ok(debris.includes(there[0].body))
      }
    }
    for (const each of debris) assert.ok(each.mass === 4 || each.mass === 5)
    for (let i = 0; i < 90; i++) world.step()
    assert.ok(debris.every((each) => each.velocity.y < 0.1))
    assert.ok(debris.every((each, i) => each.at.y < all[i].at.y - 0.3))
    // It can be carved as well, and weighs less then.
    const [first] = debris
    const { mass } = first
    const [column, row] = all[0].shape.text()[0].startsWith('.') ? [1, 0] : [0, 0]
    first.colliders[0].setTile(column, row, '.')
    assert.equal(first.mass, mass - 1)
  }
})

test('a firm tile and the border hold what hangs on them', () => {
  const kinds = { '#': {}, F: { firm: true } }
  const { rock } = worldOf(tiles({ rows: ['.......', '.##.F..', '..##...', '.......', '#######'], kinds }))
  assert.equal(rock.carve({ shape: circle(0.2), at: { x: 3.5, y: 2.5 }, cutOff: 99 }).pieces.length, 1)
  const held = worldOf(tiles({ rows: ['.......', '.###F..', '..#....', '.......', '#######'], kinds })).rock
  assert.equal(held.carve({ shape: circle(0.2), at: { x: 2.5, y: 2.5 }, cutOff: 99 }).pieces.length, 0)
})

test('from within, the way out leads out of all tiles, and no shorter way of its kind does', () => {
  let seen = 0
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom('######', '##.###', '#####.', '.#####', '###/##', '######'), {
        minLength: 3,
        maxLength: 6,
      }),
      fc.integer({ min: 1, max: 23 }),
      fc.integer({ min: 1, max: 23 }),
      fc.integer({ min: 0, max: 2 }),
      (rows, x, y, kind) => {
        const { world, rock } = worldOf(tiles({ rows, kinds: KINDS }))
        const shape = movers[kind][1]
        const at = { x: x / 4, y: (y / 24) * rows.length }
        const hit = world.overlap.first({ shape, at, depth: true }, { layers: ['rock'] })
        if (hit === null || hit.normal === null || !(hit.depth > 1e-9)) return
        seen++
        assert.equal(hit.collider, rock)
        const reference = createWorld({ layers })
        reference.add({
          type: 'static',
          colliders: solidTiles(rows, 1).map((each) => ({ shape: each, layer: 'rock' as const })),
        })
        const deepAt = (by: number, n: Vec2): number => {
          const there = { x: at.x + by * n.x, y: at.y + by * n.y }
          return Math.max(0, ...reference.overlap.all({ shape, at: there, depth: true }).map((each) => each.depth))
        }
        assert.ok(deepAt(hit.depth + 1e-9, hit.normal) < 1e-6, 'it leads out')
        for (const n of [UP, { x: 1, y: 0 }, { x: -1, y: 0 }, { x: 0, y: -1 }]) {
          assert.ok(deepAt(hit.depth - 0.75, n) > 0 || hit.depth < 0.75, 'and there is no much shorter one')
        }
        const cast = world.shapecast.first({ shape, from: at, to: { x: at.x + 1, y: at.y } }, { layers: ['rock'] })
        assert.deepEqual([cast?.startedInside, cast?.depth, cast?.normal], [true, hit.depth, hit.normal])
      },
    ),
    { numRuns: runs(300) },
  )
  assert.ok(seen > 50)
})

test('two thousand bodies at one place of a grid, far from the origin, and a grid of nothing', () => {
  const world = createWorld({ layers })
  const shape = tiles({ rows: floor(20, 3, 3), kinds: { '#': {} } })
  const ground = world.add({ type: 'static', at: { x: 1e7, y: -1e7 }, colliders: [{ shape, layer: 'rock' }] })
  for (let i = 0; i < 300; i++) {
    world.add({
      type: 'dynamic',
      at: { x: 1e7 + 10, y: -1e7 + 3.4 },
      colliders: [{ shape: circle(0.3), layer: 'crate' }],
    })
  }
  for (let i = 0; i < 5; i++) world.step()
  ground.colliders[0].carve({ shape: box(40, 40), at: { x: 1e7, y: -1e7 }, tiles: 'touched' })
  assert.deepEqual(ground.colliders[0].outline, [])
  for (let i = 0; i < 5; i++) world.step()
  assert.ok(world.bodies().every((body) => Number.isFinite(body.at.x + body.at.y)))
  assert.equal(
    world.raycast.any({ from: { x: 1e7 + 10, y: -1e7 + 9 }, to: { x: 1e7 + 10, y: -1e7 - 9 } }, { layers: ['rock'] }),
    false,
  )
  ground.colliders[0].setTile(3, 3, '#')
  assert.equal(
    world.raycast.first({ from: { x: 1e7 + 3.5, y: -1e7 + 9 }, direction: { x: 0, y: -1 } }, { layers: ['rock'] })?.tile
      ?.column,
    3,
  )
})

test('the same changes give the same bits, whenever queries are asked in between', () => {
  const play = (ask: boolean): number[] => {
    const { world, rock } = worldOf(tiles({ rows: floor(80, 6, 10), kinds: { '#': {} } }))
    const bodies = Array.from({ length: 30 }, (_, i) =>
      world.add({
        type: 'dynamic',
        at: { x: 5 + 2.3 * i, y: 7 + (i % 5) },
        colliders: [{ shape: i % 2 === 0 ? box(0.8, 0.6) : circle(0.4), layer: 'crate' }],
      }),
    )
    for (let i = 0; i < 200; i++) {
      if (i % 7 === 0) rock.carve({ shape: circle(1.1), at: { x: (i * 7.3) % 80, y: 6 - (i % 5) } })
      if (ask) world.raycast.all({ from: { x: 0, y: 5.5 }, to: { x: 80, y: 5.5 } })
      world.step()
    }
    return bodies.flatMap(({ at, angle }) => [at.x, at.y, angle])
  }
  assert.deepEqual(play(true), play(false))
})
