/**
 * Nothing slips between what touches: rays along the common face, edge or corner of flush solids, at any cell size, place and turn;
 * and what runs along a free face goes on.
 */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import * as flat from '../../src/2d/index.ts'
import * as solid from '../../src/3d/index.ts'
import { runs } from '../helpers/arbitrary.ts'

const layers = flat.defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

const cellSize = fc.constantFrom(1, 0.1, 0.3, 1 / 3, 2.5, 16)
const place = fc.oneof(fc.constantFrom(0, -3, 100, 1e4), fc.double({ min: -1000, max: 1000, noNaN: true }))
const turn = fc.oneof(fc.constant(0), fc.double({ min: -4, max: 4, noNaN: true }))

/** A frame of its own for each run: grid coordinates to the world. */
function frame2(x: number, y: number, angle: number, cell: number) {
  const [cos, sin] = angle === 0 ? [1, 0] : [Math.cos(angle), Math.sin(angle)]
  return (i: number, j: number): flat.Vec2 => ({
    x: x + (cos * i * cell - sin * j * cell),
    y: y + (sin * i * cell + cos * j * cell),
  })
}

type World2 = ReturnType<typeof grid2>

/** Cells of a grid as bodies of their own, by rows of signs. */
function grid2(
  at: (i: number, j: number) => flat.Vec2,
  cell: number,
  angle: number,
  rows: readonly string[],
  own = true,
) {
  const world = flat.createWorld({ layers })
  const parts: { shape: flat.Shape2; at: flat.Vec2; angle: number }[] = []
  for (const [row, signs] of rows.entries()) {
    for (const [column, sign] of [...signs].entries()) {
      if (sign === '.') continue
      const centre = at(column + 0.5, rows.length - row - 0.5)
      const shape = flat.box(cell, cell)
      parts.push({ shape, at: centre, angle })
    }
  }
  if (!own) {
    world.add({ type: 'static', colliders: [{ shape: flat.compound(parts), layer: 'rock' }] })
    return world
  }
  for (const { shape, at: centre } of parts) {
    world.add({ type: 'static', at: centre, angle, colliders: [{ shape, layer: 'rock' }] })
  }
  return world
}

/** What every mode says of a ray: the fraction of the nearest hit, and how many colliders; all modes must agree. */
function askAll2(
  world: World2,
  from: flat.Vec2,
  to: flat.Vec2,
): { fraction: number; count: number; inside: boolean } | null {
  const first = world.raycast.first({ from, to })
  const all = world.raycast.all({ from, to })
  const out = flat.rayResults(1)
  const hits = world.raycast.batch(Float64Array.of(from.x, from.y, to.x, to.y), out)
  const each = new Set<unknown>()
  world.raycast.each({ from, to }, (hit) => each.add(hit.collider))
  assert.equal(world.raycast.any({ from, to }), first !== null)
  assert.equal(hits, first === null ? 0 : 1)
  assert.equal(all.length, each.size)
  if (first === null) {
    assert.equal(all.length, 0)
    return null
  }
  assert.equal(first.fraction, all[0].fraction)
  assert.equal(first.collider, all[0].collider)
  assert.equal(out.fraction[0], first.fraction)
  const along = first.normal.x * (to.x - from.x) + first.normal.y * (to.y - from.y)
  assert.ok(along < 0, 'the normal faces the asker')
  return { fraction: first.fraction, count: all.length, inside: first.startedInside }
}

test('2d: rays along the seams of a grid meet both sides, and along its free faces they go on', () => {
  let rounded = 0
  fc.assert(
    fc.property(cellSize, place, place, turn, fc.boolean(), (cell, x, y, angle, own) => {
      const at = frame2(x, y, angle, cell)
      const world = grid2(at, cell, angle, ['####', '####', '####'], own)
      if (at(0.5, 2.5).y - cell / 2 !== at(0.5, 1.5).y + cell / 2) rounded++
      for (const [from, to] of [
        [at(-1, 1), at(5, 1)],
        [at(5, 2), at(-1, 2)],
      ]) {
        const met = askAll2(world, from, to)
        assert.ok(met !== null, 'it slipped through')
        assert.ok(Math.abs(met.fraction - 1 / 6) < 1e-9, `met at ${met.fraction}`)
        assert.equal(met.count, own ? 8 : 1)
        assert.equal(met.inside, false)
      }
      const across = askAll2(world, at(2, -1), at(2, 4))
      assert.ok(across !== null && Math.abs(across.fraction - 1 / 5) < 1e-9)
      assert.equal(askAll2(world, at(1.5, 1), at(5, 1))?.inside, true)
      assert.equal(askAll2(world, at(2, 1), at(5, 1))?.inside, true)
      for (const [from, to] of [
        [at(-1, 0), at(5, 0)],
        [at(-1, 3), at(5, 3)],
        [at(0, -1), at(0, 5)],
        [at(4, 5), at(4, -1)],
      ]) {
        assert.equal(askAll2(world, from, to), null, 'along a free face')
      }
    }),
    { numRuns: runs(400) },
  )
  assert.ok(rounded > 5, `only ${rounded} grids whose faces differ by rounding`)
})

test('2d: through a corner where two cells meet, along the steps of a stair, and past single corners', () => {
  fc.assert(
    fc.property(cellSize, place, place, turn, (cell, x, y, angle) => {
      const at = frame2(x, y, angle, cell)
      // Two cells that touch in the corner (2, 1): the ways along both of their faces are closed there.
      const corner = grid2(at, cell, angle, ['..#.', '.#..'])
      for (const [from, to, fraction] of [
        [at(-1, 1), at(5, 1), 1 / 2],
        [at(5, 1), at(-1, 1), 1 / 2],
        [at(2, 4), at(2, -1), 3 / 5],
        [at(0, 3), at(4, -1), 1 / 2],
      ] as const) {
        const met = askAll2(corner, from, to)
        assert.ok(met !== null && Math.abs(met.fraction - fraction) < 1e-9, `met ${met?.fraction}, not at ${fraction}`)
        assert.equal(met.count, 2)
      }
      // From the corner on there is nothing in the way.
      assert.equal(askAll2(corner, at(2, 1), at(0, 3)), null)
      assert.equal(askAll2(corner, at(2, 1), at(4, -1)), null)
      // One that reaches farther back: met where the other begins.
      const stair = grid2(at, cell, angle, ['..##', '####'])
      const met = askAll2(stair, at(-1, 1), at(5, 1))
      assert.ok(met !== null && Math.abs(met.fraction - 1 / 2) < 1e-9, `met ${met?.fraction}`)
      // A gap of one cell, and one of a thousandth, lets through.
      const gap = grid2(at, cell, angle, ['####', '....', '####'])
      assert.equal(askAll2(gap, at(-1, 1), at(5, 1)), null)
      assert.equal(askAll2(gap, at(-1, 1.5), at(5, 1.5)), null)
      const slit = grid2((i, j) => at(i, j > 1 ? j + 1e-3 : j), cell, angle, ['####', '####'])
      assert.equal(askAll2(slit, at(-1, 1.0005), at(5, 1.0005)), null)
    }),
    { numRuns: runs(150) },
  )
})

test('2d: what the filter leaves out closes nothing in, and what one starts in can be passed over', () => {
  const at = frame2(0.3, -7, 0, 0.1)
  const world = grid2(at, 0.1, 0, ['##', '##'])
  const ray = { from: at(-1, 1), to: at(5, 1) }
  const upper = world.bodies().slice(0, 2)
  assert.equal(world.raycast.first(ray, { except: upper }), null)
  assert.equal(world.raycast.first(ray, { where: (c) => !upper.includes(c.body) }), null)
  assert.equal(world.raycast.first(ray, { layers: ['craft'] }), null)
  const within = { from: at(0.5, 1), to: at(5, 1) }
  assert.equal(world.raycast.first(within)?.fraction, 0)
  const skipped = world.raycast.first(within, { inside: 'skip' })
  assert.ok(skipped !== null && Math.abs(skipped.fraction - 0.5 / 4.5) < 1e-9, `met at ${skipped?.fraction}`)
  assert.equal(world.raycast.all(within, { inside: 'skip' }).length, 2)
  for (const collider of world.bodies().map((body) => body.colliders[0])) collider.sensor = true
  assert.equal(world.raycast.first(ray), null)
  assert.ok(world.raycast.first(ray, { sensors: true }) !== null)
})

test('2d: shapes of other kinds that are flush close a ray in too', () => {
  const wedge = flat.polygon([
    { x: 0, y: 0 },
    { x: 2, y: 0 },
    { x: 2, y: 1 },
  ])
  const lid = flat.capsule({ x: -1, y: 0 }, { x: 1, y: 0 }, 0.5)
  const round = flat.box(2, 1, { radius: 0.25 })
  for (const far of [0, 50, -3000]) {
    for (const [name, upper, lower, y] of [
      ['a polygon on a box', wedge, flat.box(4, 2), -1],
      ['a capsule on a rounded box', lid, round, -0.5],
      ['two circles', flat.circle(0.5), flat.circle(0.5), -0.5],
      ['a box on a halfspace', flat.box(2, 1), flat.halfspace({ x: 0, y: 1 }, 0), 0],
    ] as const) {
      const world = flat.createWorld({ layers })
      const lift = name === 'a polygon on a box' ? 0 : 0.5
      world.add({ type: 'static', at: { x: far + 3, y: far + lift }, colliders: [{ shape: upper, layer: 'rock' }] })
      world.add({ type: 'static', at: { x: far + 3, y: far + y }, colliders: [{ shape: lower, layer: 'rock' }] })
      const ray = { from: { x: far - 5, y: far }, to: { x: far + 9, y: far } }
      assert.ok(world.raycast.first(ray) !== null, `${name} at ${far}`)
      assert.equal(world.raycast.any(ray), true)
      assert.equal(world.raycast.all(ray).length, 2, `${name} at ${far}`)
    }
  }
})

test('2d: a segment cast along itself is closed in; a shape that just fits a passage is not', () => {
  fc.assert(
    fc.property(cellSize, place, place, turn, (cell, x, y, angle) => {
      const at = frame2(x, y, angle, cell)
      const wall = grid2(at, cell, angle, ['####', '####'])
      const shape = flat.segment({ x: -cell / 2, y: 0 }, { x: cell / 2, y: 0 })
      const cast = { shape, from: at(-2, 1), to: at(4, 1), angle }
      const hit = wall.shapecast.first(cast)
      assert.ok(hit !== null, 'it slipped through')
      assert.ok(Math.abs(hit.fraction - 1.5 / 6) < 1e-9, `met at ${hit.fraction}`)
      assert.equal(wall.shapecast.all(cast).length, 8)
      assert.equal(wall.shapecast.any(cast), true)
      assert.equal(wall.shapecast.first({ ...cast, from: at(1.5, 1) })?.startedInside, true)
      assert.equal(wall.shapecast.first({ ...cast, from: at(-2, 2), to: at(4, 2) }), null)
      const passage = grid2(at, cell, angle, ['####', '....', '####'])
      const box = flat.box(cell / 2, cell * (1 - 1e-12))
      assert.equal(passage.shapecast.first({ shape: box, from: at(-2, 1.5), to: at(6, 1.5), angle }), null)
    }),
    { numRuns: runs(100) },
  )
})

test('2d: the plain ray on a compound meets what it runs between', () => {
  const two = flat.compound([
    { shape: flat.box(0.1, 0.1), at: { x: 0, y: 0.15 } },
    { shape: flat.box(0.1, 0.1), at: { x: 0, y: 0.25 } },
  ])
  const pose = { at: { x: 3, y: 0.1 }, angle: 0 }
  const hit = flat.raycast(two, pose, { from: { x: 0, y: 0.1 + 0.2 }, by: { x: 9, y: 0 } })
  assert.ok(hit !== null && Math.abs(hit.distance - 2.95) < 1e-12)
  assert.equal(flat.raycast(two, pose, { from: { x: 3, y: 0.1 + 0.2 }, by: { x: 9, y: 0 } })?.startedInside, true)
  assert.equal(flat.raycast(two, pose, { from: { x: 0, y: 0.1 + 0.1 }, by: { x: 9, y: 0 } }), null)
})

test('2d: flush on the grid, a cast away or along is free, and one that leads in is a hit at 0', () => {
  let touching = 0
  const whole = fc.integer({ min: -4, max: 4 })
  fc.assert(
    fc.property(
      cellSize,
      place,
      fc.array(fc.tuple(whole, whole, fc.integer({ min: 1, max: 3 }), fc.integer({ min: 1, max: 3 })), {
        minLength: 1,
        maxLength: 4,
      }),
      fc.integer({ min: -2, max: 2 }),
      fc.integer({ min: -2, max: 2 }),
      (cell, origin, cells, dx, dy) => {
        if (dx === 0 && dy === 0) return
        const world = flat.createWorld({ layers })
        let into = false
        for (const [i, j, width, height] of cells) {
          const at = { x: origin + (i + width / 2) * cell, y: -origin + (j + height / 2) * cell }
          const shape = flat.box(width * cell, height * cell)
          world.add({ type: 'static', at, colliders: [{ shape, layer: 'rock' }] })
          // In whole numbers: the box of the asker, from (0, 0) to (1, 1), against this one.
          const apart = i >= 1 || i + width <= 0 || j >= 1 || j + height <= 0
          if (!apart) return
          const near = i <= 1 && i + width >= 0 && j <= 1 && j + height >= 0
          if (near) touching++
          const x = dx > 0 ? i < 2 && i + width > 0 : dx < 0 ? i < 1 && i + width > -1 : i < 1 && i + width > 0
          const y = dy > 0 ? j < 2 && j + height > 0 : dy < 0 ? j < 1 && j + height > -1 : j < 1 && j + height > 0
          if (near && x && y && meetsAtOnce(i, j, width, height, dx, dy)) into = true
        }
        const from = { x: origin + 0.5 * cell, y: -origin + 0.5 * cell }
        const to = { x: from.x + dx * cell * 0.01, y: from.y + dy * cell * 0.01 }
        const hit = world.shapecast.first({ shape: flat.box(cell, cell), from, to })
        assert.equal(hit !== null, into, `told ${hit?.fraction}, ${hit?.startedInside}`)
        if (hit === null) return
        assert.equal(hit.fraction, 0)
        assert.equal(hit.startedInside, false)
      },
    ),
    { numRuns: runs(2000) },
  )
  assert.ok(touching > 150, `only ${touching} that touch`)
})

/** Whether a unit box at the origin that touches another one overlaps it as soon as it moves. */
function meetsAtOnce(i: number, j: number, width: number, height: number, dx: number, dy: number): boolean {
  const e = 1e-6
  const x0 = e * dx
  const y0 = e * dy
  return x0 + 1 > i && x0 < i + width && y0 + 1 > j && y0 < j + height
}

const axis = fc.record({
  x: fc.double({ min: -1, max: 1, noNaN: true }),
  y: fc.double({ min: -1, max: 1, noNaN: true }),
  z: fc.double({ min: 0.1, max: 1, noNaN: true }),
})

test('3d: rays along the common faces and edges of a grid meet it, and along free faces and edges they go on', () => {
  fc.assert(
    fc.property(cellSize, place, place, axis, turn, fc.boolean(), (cell, x, y, about, angle, hulls) => {
      const rotation = angle === 0 ? { x: 0, y: 0, z: 0, w: 1 } : solid.rotationAbout(about, angle)
      const at = (i: number, j: number, k: number): solid.Vec3 => {
        const v = { x: i * cell, y: j * cell, z: k * cell }
        const r = angle === 0 ? v : solid.rotated(rotation, v)
        return { x: x + r.x, y: y + r.y, z: r.z }
      }
      const half = cell / 2
      const ends = [-half, half]
      const corners = ends.flatMap((a) => ends.flatMap((b) => ends.map((c) => ({ x: a, y: b, z: c }))))
      const shape = hulls ? solid.hull(corners) : solid.box(cell, cell, cell)
      const world = solid.createWorld({ layers })
      for (let i = 0; i < 3; i++) {
        for (let j = 0; j < 3; j++) {
          for (let k = 0; k < 2; k++) {
            const body = { type: 'static', at: at(i + 0.5, j + 0.5, k + 0.5), rotation } as const
            world.add({ ...body, colliders: [{ shape, layer: 'rock' }] })
          }
        }
      }
      const ask = (from: solid.Vec3, to: solid.Vec3) => {
        const first = world.raycast.first({ from, to })
        const all = world.raycast.all({ from, to })
        const out = solid.rayResults(1)
        world.raycast.batch(Float64Array.of(from.x, from.y, from.z, to.x, to.y, to.z), out)
        assert.equal(out.fraction[0], first?.fraction ?? -1)
        assert.equal(world.raycast.any({ from, to }), first !== null)
        // Of several that are met at the very same place either may be named.
        assert.equal(all[0]?.fraction, first?.fraction, 'first and all meet at the same place')
        return { fraction: first?.fraction ?? -1, count: all.length, inside: first?.startedInside === true }
      }
      const face = ask(at(-1, 1, 1.5), at(5, 1, 1.5))
      assert.ok(Math.abs(face.fraction - 1 / 6) < 1e-8, `a face, met at ${face.fraction}`)
      assert.equal(face.count, 6)
      const edge = ask(at(-1, 1, 1), at(5, 1, 1))
      assert.ok(Math.abs(edge.fraction - 1 / 6) < 1e-8, `an edge, met at ${edge.fraction}`)
      assert.equal(edge.count, 12)
      assert.equal(ask(at(0.5, 1, 1), at(5, 1, 1)).inside, true)
      assert.equal(ask(at(0.5, 2, 0.4), at(5, 2, 0.4)).inside, true)
      const slanted = ask(at(-1, 1, -0.37), at(2, 1, 2))
      assert.ok(Math.abs(slanted.fraction - 1 / 3) < 1e-8, `in a face, aslant, met at ${slanted.fraction}`)
      for (const [from, to] of [
        [at(-1, 0, 1.5), at(5, 0, 1.5)],
        [at(-1, 3, 1.2), at(5, 3, 1.2)],
        [at(-1, 0, 1), at(5, 0, 1)],
        [at(-1, 0, 0), at(5, 0, 0)],
        [at(-1, 3, 2), at(5, 3, 2)],
        [at(1, 1, -1), at(1.5, -1, -1)],
      ]) {
        assert.equal(ask(from, to).fraction, -1, 'along a free face')
      }
    }),
    { numRuns: runs(60) },
  )
})

test('3d: an inner edge where a wall stands on a floor is free; where a fourth fills the corner it is not', () => {
  const cell = 0.7
  for (const far of [0, 120]) {
    const world = solid.createWorld({ layers })
    const put = (j: number, k: number) => {
      const at = { x: far, y: (j + 0.5) * cell, z: far + (k + 0.5) * cell }
      return world.add({ type: 'static', at, colliders: [{ shape: solid.box(9, cell, cell), layer: 'rock' }] })
    }
    const ray = { from: { x: far - 20, y: 0, z: far }, to: { x: far + 20, y: 0, z: far } }
    put(-1, -1)
    put(-1, 0)
    put(0, -1)
    assert.equal(world.raycast.first(ray), null, 'along the edge between floor and wall')
    put(0, 0)
    assert.equal(world.raycast.all(ray).length, 4)
  }
})

test('3d: round shapes that are flush close a ray in too', () => {
  for (const far of [0, 70]) {
    for (const [name, upper, lower] of [
      ['a cylinder on a box', solid.cylinder(1, 1), solid.box(4, 1, 4)],
      ['a box on a halfspace', solid.box(1, 1, 1), solid.halfspace({ x: 0, y: 1, z: 0 }, 0.5)],
      ['a cone on a cylinder', solid.cone(1, 1), solid.cylinder(1, 2)],
      ['a ball on a box', solid.sphere(0.5), solid.box(2, 1, 2)],
    ] as const) {
      const world = solid.createWorld({ layers })
      const at = { x: far + 3, y: far + 0.5, z: -far }
      world.add({ type: 'static', at, colliders: [{ shape: upper, layer: 'rock' }] })
      world.add({ type: 'static', at: { ...at, y: far - 0.5 }, colliders: [{ shape: lower, layer: 'rock' }] })
      const ray = { from: { x: far - 5, y: far, z: -far }, to: { x: far + 9, y: far, z: -far } }
      assert.ok(world.raycast.first(ray) !== null, `${name} at ${far}`)
      assert.equal(world.raycast.all(ray).length, 2, `${name} at ${far}`)
    }
  }
})

test('3d: rays from a corner or an edge of a hull, a box or a cylinder: away is none, in is a hit at 0', () => {
  let told = 0
  const near = fc.double({ min: -0.5, max: 0.5, noNaN: true })
  fc.assert(
    fc.property(
      fc.array(fc.record({ x: near, y: near, z: near }), { minLength: 8, maxLength: 16 }),
      place,
      axis,
      turn,
      fc.nat(),
      fc.boolean(),
      (points, x, about, angle, pick, edge) => {
        const volume = points.length % 3 !== 0
        let shape: solid.Shape3
        let corners: readonly solid.Vec3[]
        if (volume) {
          try {
            const hull = solid.hull(points)
            if (hull.volume < 0.001) return
            shape = hull
            corners = hull.points
          } catch {
            return
          }
        } else {
          shape = solid.box(1, 2, 0.6)
          corners = [-0.5, 0.5].flatMap((a) => [-1, 1].flatMap((b) => [-0.3, 0.3].map((c) => ({ x: a, y: b, z: c }))))
        }
        const rotation = solid.rotationAbout(about, angle)
        const at = { x, y: 2, z: -x / 3 }
        const world = (q: solid.Vec3): solid.Vec3 => {
          const r = solid.rotated(rotation, q)
          return { x: at.x + r.x, y: at.y + r.y, z: at.z + r.z }
        }
        const middle = { x: 0, y: 0, z: 0 }
        for (const c of corners) {
          middle.x += c.x / corners.length
          middle.y += c.y / corners.length
          middle.z += c.z / corners.length
        }
        const corner = corners[pick % corners.length]
        const other = corners[(pick + 1) % corners.length]
        // Of a box two neighbours in the list are an edge; of a hull the corner alone.
        const start =
          edge && !volume && pick % 2 === 0 ? { x: corner.x, y: corner.y, z: (corner.z + other.z) / 2 } : corner
        const from = world(start)
        const pose = { at, rotation }
        const out = solid.rotated(rotation, { x: start.x - middle.x, y: start.y - middle.y, z: start.z - middle.z })
        assert.equal(solid.raycast(shape, pose, { from, by: out }), null, 'away')
        const hit = solid.raycast(shape, pose, { from, to: world(middle) })
        assert.equal(hit?.fraction, 0)
        assert.equal(hit?.startedInside, false)
        told++
      },
    ),
    { numRuns: runs(2000) },
  )
  assert.ok(told > runs(2000) / 4, `only ${told} shapes`)
})
