/** Grids of tiles: their outline, what queries meet, and what becomes of both when tiles change; each against cell by cell. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  box,
  capsule,
  circle,
  closestPoint,
  createWorld,
  defineLayers,
  distance,
  polygon,
  raycast,
  type Shape2,
  tiles,
} from '../../src/2d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { cornersOf, fewestEdges, KINDS, SIGNS, solidTiles, turnsAbout, twiceArea, within } from '../oracle/tiles.ts'

const layers = defineLayers(['rock', 'crate', 'zone'], { otherwise: 'solid', pairs: [['zone', '*', 'sense']] })

const gridOf = (signs: readonly string[], most = 9): fc.Arbitrary<string[]> =>
  fc.tuple(fc.integer({ min: 1, max: most }), fc.integer({ min: 1, max: most })).chain(([columns, rows]) =>
    fc.array(
      fc.array(fc.constantFrom(...signs), { minLength: columns, maxLength: columns }).map((line) => line.join('')),
      { minLength: rows, maxLength: rows },
    ),
  )

const anyGrid = fc.oneof(gridOf(SIGNS), gridOf(['.', '#', '#', '/', '_']), gridOf(['.', '#']))
const cells = fc.constantFrom(1, 0.1, 0.37, 3)
const isSolid = (sign: string): boolean => sign !== '.' && sign !== '~' && sign !== '-'

function worldOf(rows: readonly string[], cell: number, at = { x: 0, y: 0 }, angle = 0) {
  const world = createWorld({ layers })
  const ground = world.add({
    type: 'static',
    at,
    angle,
    colliders: [{ shape: tiles({ cell, rows, kinds: KINDS }), layer: 'rock' }],
  })
  return { world, ground }
}

/** The same, with a collider for each tile. */
function worldOfTiles(rows: readonly string[], cell: number, at = { x: 0, y: 0 }, angle = 0) {
  const world = createWorld({ layers })
  world.add({
    type: 'static',
    at,
    angle,
    colliders: solidTiles(rows, cell).map((shape) => ({ shape, layer: 'rock' as const })),
  })
  return world
}

test('the outline encloses exactly the solid: its area, and every point, as cell by cell', () => {
  fc.assert(
    fc.property(anyGrid, cells, fc.array(fc.tuple(fc.double(), fc.double()), { maxLength: 5 }), (rows, cell, more) => {
      const { outline, area } = tiles({ cell, rows, kinds: KINDS })
      const { world, ground } = worldOf(rows, cell)
      const sum = solidTiles(rows, cell).reduce((all, each) => all + each.area, 0)
      assert.ok(Math.abs(area - sum) <= 1e-9 * Math.max(sum, cell))
      assert.ok(Math.abs(twiceArea(outline) / 2 - sum) <= 1e-9 * Math.max(sum, cell))
      const points = more.map(([u, v]) => ({
        x: Math.abs(u % 1 || 0.3) * cell * rows[0].length,
        y: Math.abs(v % 1 || 0.6) * cell * rows.length,
      }))
      for (let i = 0; i < 20; i++) {
        points.push({ x: ((i * 0.618) % 1) * cell * rows[0].length, y: ((i * 0.755) % 1) * cell * rows.length })
      }
      for (const p of points) {
        if (!Number.isFinite(p.x + p.y)) continue
        const side = within(rows, cell, p, isSolid)
        if (side !== 0) assert.equal(turnsAbout(outline, p), side > 0 ? 1 : 0)
        const met = world.overlap.any({ shape: circle(1e-9 * cell), at: p }, { as: 'crate' })
        if (side !== 0 && cell >= 0.1)
          assert.equal(
            met || within(rows, cell, p, (sign) => sign === '-') >= 0,
            side > 0 || within(rows, cell, p, (sign) => sign === '-') >= 0,
          )
      }
      // No loop goes on straight, and none has an edge of no length.
      for (const loop of outline) {
        loop.forEach((a, i) => {
          const b = loop[(i + 1) % loop.length]
          const c = loop[(i + 2) % loop.length]
          assert.ok(a.x !== b.x || a.y !== b.y)
          const bend = (b.x - a.x) * (c.y - b.y) - (b.y - a.y) * (c.x - b.x)
          assert.ok(Math.abs(bend) > 1e-9 * cell * cell, `a corner of ${JSON.stringify(rows)} in line`)
        })
      }
      assert.equal(ground.colliders.length, 4)
    }),
    { numRuns: runs(400) },
  )
})

test('of full tiles there are as few edges as there can be', () => {
  fc.assert(
    fc.property(gridOf(['.', '#'], 14), (rows) => {
      const edges = tiles({ rows, kinds: { '#': {} } }).outline.reduce((sum, loop) => sum + loop.length, 0)
      assert.equal(edges, fewestEdges(rows))
    }),
    { numRuns: runs(400) },
  )
})

test('tiles that touch at a corner only stay apart; a hole runs the other way round', () => {
  const apart = tiles({ rows: ['#.', '.#'], kinds: { '#': {} } }).outline
  assert.deepEqual(apart.map((loop) => loop.length).sort(), [4, 4])
  const [outer, hole] = tiles({ rows: ['###', '#.#', '###'], kinds: { '#': {} } }).outline.map((loop) =>
    twiceArea([loop]),
  )
  assert.deepEqual([outer, hole].sort(), [-2, 18])
})

test('rays meet of a grid what they meet of its tiles, on the lines of the grid too', () => {
  let hits = 0
  fc.assert(
    fc.property(
      anyGrid,
      cells,
      fc.record({ x: fc.integer({ min: -3, max: 20 }), y: fc.integer({ min: -3, max: 20 }) }),
      fc.record({ x: fc.integer({ min: -3, max: 20 }), y: fc.integer({ min: -3, max: 20 }) }),
      fc.boolean(),
      fc.boolean(),
      (rows, cell, a, b, level, turned) => {
        const at = turned ? { x: 3.7, y: -1.3 } : { x: 0, y: 0 }
        const { world } = worldOf(rows, cell, at)
        const tile = worldOfTiles(rows, cell, at)
        const from = { x: at.x + (a.x * cell) / 2, y: at.y + (a.y * cell) / 2 }
        const to = { x: at.x + (b.x * cell) / 2, y: level ? from.y : at.y + (b.y * cell) / 2 }
        const filter = { as: 'crate', response: 'solid' } as const
        const hit = world.raycast.first({ from, to }, { where: (c) => c.oneWay === null, ...filter })
        const reference = tile.raycast.first({ from, to }, filter)
        assert.equal(hit === null, reference === null, `${JSON.stringify({ rows, cell, from, to })}`)
        if (hit === null || reference === null) return
        hits++
        assert.ok(Math.abs(hit.distance - reference.distance) <= 1e-9 * cell)
        // On a side that two tiles share it starts inside of the grid, and at the one or the other tile.
        const onLine = [from.x - at.x, from.y - at.y].some((u) => Math.abs(u / cell - Math.round(u / cell)) < 1e-9)
        if (!onLine) assert.equal(hit.startedInside, reference.startedInside)
      },
    ),
    { numRuns: runs(2000) },
  )
  assert.ok(hits > runs(2000) / 5)
})

test('casts and the nearest meet of a grid what they meet of its tiles', () => {
  const shapesOf = (less: number): Shape2[] => [
    circle(0.3 - less),
    box(0.5 - less, 0.8 - less),
    capsule({ x: -0.4, y: 0 }, { x: 0.4, y: 0 }, 0.2 - less),
  ]
  const shapes = shapesOf(0)
  const smaller = shapesOf(1e-6)
  fc.assert(
    fc.property(
      anyGrid,
      fc.integer({ min: 0, max: 2 }),
      fc.record({ x: fc.integer({ min: -8, max: 40 }), y: fc.integer({ min: -8, max: 40 }) }),
      fc.record({ x: fc.integer({ min: -8, max: 40 }), y: fc.integer({ min: -8, max: 40 }) }),
      fc.double({ min: -1, max: 1, noNaN: true }),
      (rows, kind, a, b, turn) => {
        const { world } = worldOf(rows, 1)
        const tile = worldOfTiles(rows, 1)
        const shape = shapes[kind] as ReturnType<typeof circle>
        const from = { x: a.x / 4, y: a.y / 4 }
        const to = { x: b.x / 4, y: b.y / 4 }
        const filter = { as: 'crate', response: 'solid' } as const
        const only = { where: (c: { oneWay: unknown }) => c.oneWay === null, ...filter }
        for (const turned of [0, turn]) {
          const hit = world.shapecast.first({ shape, from, to, turn: turned }, only)
          const reference = tile.shapecast.first({ shape, from, to, turn: turned }, filter)
          if (hit === null || reference === null) {
            // A graze may count or not.
            const less = smaller[kind] as ReturnType<typeof circle>
            if (hit !== reference)
              assert.equal(tile.shapecast.first({ shape: less, from, to, turn: turned }, filter), null)
            continue
          }
          assert.ok(Math.abs(hit.distance - reference.distance) <= 1e-6)
          const inside = tile.shapecast
            .all({ shape, from, to, turn: turned }, filter)
            .some((each) => each.startedInside)
          const own = world.shapecast.all({ shape, from, to, turn: turned }, only).some((each) => each.startedInside)
          assert.equal(own, inside)
        }
        const near = world.nearest.first({ shape, at: from }, only)
        const reference = tile.nearest.first({ shape, at: from }, filter)
        assert.equal(near === null, reference === null)
        if (near !== null && reference !== null && reference.distance > 0) {
          assert.ok(Math.abs(near.distance - reference.distance) < 1e-12)
        }
      },
    ),
    { numRuns: runs(800) },
  )
})

test('a hit tells the tile that it is on, its kind and the edge', () => {
  fc.assert(
    fc.property(
      anyGrid,
      cells,
      fc.double({ min: -2, max: 2, noNaN: true }),
      fc.integer({ min: 0, max: 40 }),
      (rows, cell, angle, i) => {
        const { world } = worldOf(rows, cell, { x: 2, y: -5 }, angle)
        const width = rows[0].length * cell
        const along = { x: Math.cos(angle), y: Math.sin(angle) }
        const up = { x: -Math.sin(angle), y: Math.cos(angle) }
        const x = (((i * 0.618) % 1) * 1.2 - 0.1) * width
        const top = rows.length * cell + 1
        const place = (u: number, v: number) => ({ x: 2 + u * along.x + v * up.x, y: -5 + u * along.y + v * up.y })
        const hit = world.raycast.first({ from: place(x, top), to: place(x, -1) }, { sensors: true })
        const column = Math.floor(x / cell)
        const row = rows.findIndex((line) => (line[column] ?? '.') !== '.')
        if (hit === null) return
        assert.ok(hit.tile !== null)
        const { tile } = hit
        assert.equal(tile.kind, rows[tile.row][tile.column])
        assert.equal(hit.part, tile.row * rows[0].length + tile.column)
        // The point is on that tile, and the edge has the normal of the hit.
        const corners = cornersOf(rows, cell, tile.column, tile.row)!
        const local = {
          x: (hit.point.x - 2) * along.x + (hit.point.y + 5) * along.y,
          y: (hit.point.x - 2) * up.x + (hit.point.y + 5) * up.y,
        }
        const near = closestPoint(polygon(corners), { at: { x: 0, y: 0 }, angle: 0 }, local)
        assert.ok(Math.abs(near.distance) < 1e-9, `${near.distance} from its tile`)
        if (tile.edge < 0) return
        const p = corners[tile.edge]
        const q = corners[(tile.edge + 1) % corners.length]
        const normal = {
          x: hit.normal.x * along.x + hit.normal.y * along.y,
          y: hit.normal.x * up.x + hit.normal.y * up.y,
        }
        const size = Math.hypot(q.x - p.x, q.y - p.y)
        assert.ok(((q.y - p.y) * normal.x - (q.x - p.x) * normal.y) / size > 0.999)
        const alone = rows[0][column] === '#'
        if (alone && Math.abs(x / cell - column - 0.5) < 0.4) assert.deepEqual([tile.column, tile.row], [column, row])
        const ray = {
          rays: new Float64Array([hit.point.x + hit.normal.x, hit.point.y + hit.normal.y, hit.point.x, hit.point.y]),
        }
        assert.ok(ray.rays.every(Number.isFinite))
      },
    ),
    { numRuns: runs(500) },
  )
})

test('changed tile by tile, a grid is the one that is built anew', () => {
  fc.assert(
    fc.property(
      gridOf(SIGNS, 7),
      fc.array(fc.tuple(fc.nat(80), fc.nat(80), fc.constantFrom(...SIGNS), fc.boolean()), {
        minLength: 1,
        maxLength: 12,
      }),
      fc.constantFrom(1, 8, 20),
      (small, edits, times) => {
        // Wider than a chunk, so that changes are on its border, too.
        const rows = small.flatMap((line) => Array.from({ length: times }, () => line.repeat(times)))
        const { world, ground } = worldOf(rows, 0.5)
        const changed = rows.map((line) => [...line])
        for (const [column, row, sign, ask] of edits) {
          const [x, y] = [column % rows[0].length, row % rows.length]
          assert.equal(ground.colliders[0].setTile(x, y, sign), changed[y][x] !== sign)
          changed[y][x] = sign
          if (ask) world.overlap.any({ shape: circle(1), at: { x: 0, y: 0 } })
        }
        const now = changed.map((line) => line.join(''))
        const anew = worldOf(now, 0.5)
        assert.deepEqual(
          ground.colliders.map((c) => c.outline),
          anew.ground.colliders.map((c) => c.outline),
        )
        assert.equal(ground.colliders[0].shape.area, anew.ground.colliders[0].shape.area)
        for (let i = 0; i < 40; i++) {
          const [x, y] = [((i * 0.618) % 1) * rows[0].length * 0.5, ((i * 0.755) % 1) * rows.length * 0.5]
          const ray = { from: { x, y }, to: { x: y + 0.013, y: 0.97 * x } }
          const [a, b] = [world, anew.world].map((w) => w.raycast.all(ray, { sensors: true }))
          assert.deepEqual(
            a.map((hit) => [hit.distance, hit.collider.index, hit.startedInside, hit.tile]),
            b.map((hit) => [hit.distance, hit.collider.index, hit.startedInside, hit.tile]),
          )
        }
        assert.equal(ground.colliders[0].shape.kind === 'tiles' && ground.colliders[0].shape.text().join(), now.join())
      },
    ),
    { numRuns: runs(150) },
  )
})

test('kinds with their own layer, response or material are colliders of their own', () => {
  const shape = tiles({
    rows: ['~-', '#='],
    kinds: {
      '#': {},
      '=': { friction: 0.1, restitution: 0.5, surfaceSpeed: 2, density: 3 },
      '~': { layer: 'zone', response: 'sense' },
      '-': { oneWay: { x: 0, y: 1 } },
    },
  })
  const world = createWorld({ layers })
  const body = world.add({ type: 'static', colliders: [{ shape, layer: 'rock', friction: 0.9, tags: [] }] })
  assert.deepEqual(
    body.colliders.map((c) => [c.layer, c.sensor, c.friction, c.restitution, c.surfaceSpeed, c.oneWay]),
    [
      ['rock', false, 0.9, 0, 0, null],
      ['rock', false, 0.1, 0.5, 2, null],
      ['zone', true, 0.9, 0, 0, null],
      ['rock', false, 0.9, 0, 0, { x: 0, y: 1 }],
    ],
  )
  // Any of them changes the grid that they share.
  body.colliders[2].setTile(0, 0, '#')
  assert.equal(body.colliders[0].outline[0].length, 4)
  assert.equal(body.colliders[2].outline.length, 0)
  assert.equal(body.colliders[1].tileAt(1, 1), '=')
  const numbers = tiles({ data: new Uint8Array([1, 0, 0, 2]), columns: 2, kinds: { 1: {}, 2: { firm: true } } })
  assert.deepEqual(numbers.text(), ['1.', '.2'])
})

test('what is wrong with tiles is said', () => {
  throwsKeen('bad-argument', /'kinds'/, () => tiles({ rows: ['#'], kinds: {} }))
  throwsKeen('bad-argument', /row 0, column 1 of tiles: "x" is no kind of tile/, () =>
    tiles({ rows: ['#x'], kinds: { '#': {} } }),
  )
  throwsKeen('bad-argument', /equally long: rows\[0\] has 2 tiles, rows\[1\] has 1/, () =>
    tiles({ rows: ['##', '#'], kinds: { '#': {} } }),
  )
  throwsKeen('bad-shape', /convex/, () =>
    tiles({
      rows: ['#'],
      kinds: {
        '#': {
          shape: [
            { x: 0, y: 0 },
            { x: 1, y: 0 },
            { x: 0.4, y: 0.4 },
            { x: 0, y: 1 },
          ],
        },
      },
    }),
  )
  throwsKeen('bad-shape', /unit cell/, () =>
    tiles({
      rows: ['#'],
      kinds: {
        '#': {
          shape: [
            { x: 0, y: 0 },
            { x: 2, y: 0 },
            { x: 0, y: 1 },
          ],
        },
      },
    }),
  )
  throwsKeen('bad-argument', /'rows' of text or 'data'/, () => tiles({ kinds: { '#': {} } }))
  throwsKeen('bad-argument', /one character/, () => tiles({ rows: ['#'], kinds: { '##': {} } }))
  throwsKeen('bad-argument', /'columns' that divide/, () => tiles({ data: [1, 1, 1], columns: 2, kinds: { 1: {} } }))
  const world = createWorld({ layers })
  const crate = world.add({ type: 'dynamic', colliders: [{ shape: box(1, 1), layer: 'crate' }] })
  throwsKeen('bad-shape', /is a box, not made of tiles/, () => crate.colliders[0].setTile(0, 0, '#'))
  const zoned = tiles({ rows: ['#'], kinds: { '#': { layer: 'zoen' } } })
  throwsKeen('unknown-layer', /did you mean "zone"/, () =>
    // @ts-expect-error a layer that the world has not
    world.add({ type: 'static', colliders: [{ shape: zoned, layer: 'rock' }] }),
  )
  assert.equal(world.stats.bodies, 1)
})

test('the plain functions know tiles', () => {
  const shape = tiles({ rows: ['.#', '##'], kinds: { '#': {} } })
  const here = { at: { x: 0, y: 0 }, angle: 0 }
  assert.equal(raycast(shape, here, { from: { x: 0.5, y: 3 }, direction: { x: 0, y: -1 } })?.point.y, 1)
  assert.equal(distance(shape, here, circle(0.5), { at: { x: 0.25, y: 2 }, angle: 0 }).distance, 0.25)
  assert.deepEqual(closestPoint(shape, here, { x: 3, y: 1.5 }).point, { x: 2, y: 1.5 })
})
