import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  createWorld,
  defineLayers,
  heightfield,
  KeenError,
  mesh,
  raycast,
  rayResults,
  type Shape3,
  sharedMesh,
  shareMesh,
} from '../../src/3d/index.ts'
import { cases, point, runs, surface } from '../helpers/arbitrary3.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'
import { add, cross, dot, norm, type P, scale, sub, unit } from '../oracle/solid.ts'

const HERE = { at: { x: 0, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }

/** A closed ball of triangles: an icosahedron whose faces are split, its corners pushed out to different lengths. */
function ball(levels: number, rough: number, random: Random): { positions: number[]; indices: number[] } {
  const t = (1 + Math.sqrt(5)) / 2
  const points: P[] = [
    [-1, t, 0], [1, t, 0], [-1, -t, 0], [1, -t, 0], [0, -1, t], [0, 1, t],
    [0, -1, -t], [0, 1, -t], [t, 0, -1], [t, 0, 1], [-t, 0, -1], [-t, 0, 1],
  ].map(([x, y, z]) => unit({ x, y, z })) // biome-ignore format: a table
  let faces = [
    [0, 11, 5], [0, 5, 1], [0, 1, 7], [0, 7, 10], [0, 10, 11], [1, 5, 9], [5, 11, 4], [11, 10, 2], [10, 7, 6], [7, 1, 8],
    [3, 9, 4], [3, 4, 2], [3, 2, 6], [3, 6, 8], [3, 8, 9], [4, 9, 5], [2, 4, 11], [6, 2, 10], [8, 6, 7], [9, 8, 1],
  ] // biome-ignore format: a table
  for (let level = 0; level < levels; level++) {
    const middles = new Map<string, number>()
    const middle = (i: number, k: number): number => {
      const key = i < k ? `${i},${k}` : `${k},${i}`
      const known = middles.get(key)
      if (known !== undefined) return known
      points.push(unit(add(points[i], points[k])))
      middles.set(key, points.length - 1)
      return points.length - 1
    }
    faces = faces.flatMap(([a, b, c]) => {
      const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)]
      return [
        [a, ab, ca],
        [ab, b, bc],
        [ca, bc, c],
        [ab, bc, ca],
      ]
    })
  }
  const pushed = points.map((p) => scale(p, random.between(1 - rough, 1 + rough)))
  return { positions: pushed.flatMap(({ x, y, z }) => [x, y, z]), indices: faces.flat() }
}

/** A cube of twelve triangles on whole numbers. */
const CUBE = {
  positions: [-1, 1].flatMap((x) => [-1, 1].flatMap((y) => [-1, 1].flatMap((z) => [x, y, z]))),
  indices: [0, 1, 3, 0, 3, 2, 4, 6, 7, 4, 7, 5, 0, 4, 5, 0, 5, 1, 2, 3, 7, 2, 7, 6, 0, 2, 6, 0, 6, 4, 1, 5, 7, 1, 7, 3],
}

/** The corners of the triangles that a surface was made of, as it keeps them. */
function trianglesOf(shape: Shape3): [P, P, P, number][] {
  const { corners, parts } = shape.pieces[0].surface!
  const at = (i: number): P => ({ x: corners[i], y: corners[i + 1], z: corners[i + 2] })
  return Array.from({ length: corners.length / 9 }, (_, i) => [at(9 * i), at(9 * i + 3), at(9 * i + 6), parts[i]])
}

/** All fractions at which a ray meets triangles, by the plane and the areas: the ordinary way. */
function bruteForce(shape: Shape3, from: P, to: P): { fraction: number; part: number; margin: number }[] {
  const d = sub(to, from)
  return trianglesOf(shape).flatMap(([a, b, c, part]) => {
    const n = cross(sub(b, a), sub(c, a))
    const speed = dot(n, d)
    if (Math.abs(speed) < 1e-9 * norm(n) * norm(d)) return []
    const fraction = dot(n, sub(a, from)) / speed
    const p = add(from, d, fraction)
    const weights = [
      [b, c],
      [c, a],
      [a, b],
    ].map(([q, r]) => dot(n, cross(sub(q, p), sub(r, p))) / dot(n, n))
    const margin = Math.min(...weights)
    return fraction > 0 && fraction <= 1 && margin > -1e-9 ? [{ fraction, part, margin }] : []
  })
}

test('a ray on a mesh or a heightfield agrees with trying all triangles', () => {
  fc.assert(
    fc.property(surface, point(3), point(3), (shape, from, to) => {
      if (norm(sub(to, from)) < 0.01) return
      // Of a sliver the ordinary way knows no inside.
      const sliver = ([a, b, c]: readonly [P, P, P, number]): boolean =>
        norm(cross(sub(b, a), sub(c, a))) < 1e-6 * Math.max(norm(sub(b, a)), norm(sub(c, a)), norm(sub(c, b))) ** 2
      if (trianglesOf(shape).some(sliver)) return
      const hits = bruteForce(shape, from, to)
      // Where the ray passes within rounding of an edge or of its end, either answer is right.
      if (hits.some(({ margin, fraction }) => margin < 1e-9 || fraction < 1e-9 || fraction > 1 - 1e-9)) return
      const nearest = Math.min(...hits.map(({ fraction }) => fraction))
      const hit = raycast(shape, HERE, { from, to })
      if (hit !== null && (hit.fraction < 1e-9 || hit.fraction > 1 - 1e-9)) return
      // Seen nearly edge on the ordinary way gives up.
      const onEdge = (part: number): boolean => {
        const [a, b, c] = trianglesOf(shape).find((each) => each[3] === part)!
        return Math.abs(dot(unit(cross(sub(b, a), sub(c, a))), unit(sub(to, from)))) < 1e-6
      }
      if (hits.length === 0) {
        if (hit !== null) assert.ok(onEdge(hit.part), `met ${hit.part} at ${hit.fraction}, which is not there`)
        return
      }
      assert.ok(hit !== null && hit.fraction <= nearest + 1e-9, `missed a hit at ${nearest}`)
      const same = hits.filter(({ fraction }) => Math.abs(fraction - hit.fraction) < 1e-9)
      if (same.length === 0) return
      assert.ok(
        onEdge(hit.part) || same.some(({ part }) => part === hit.part),
        `met ${hit.part} instead of ${same.map((s) => s.part)}`,
      )
      const [a, b, c] = trianglesOf(shape).find((each) => each[3] === hit.part)!
      const blended = add(add(scale(a, hit.barycentric.x), b, hit.barycentric.y), c, hit.barycentric.z)
      assert.ok(norm(sub(blended, hit.point)) < 1e-7, 'the weights of the corners give the point')
      assert.ok(dot(hit.normal, sub(to, from)) <= 1e-12, 'the normal faces the asker')
    }),
    cases(4000),
  )
})

/** A mesh, or null where none of its triangles has an area to rounding. */
function meshUnlessFlat(spec: Parameters<typeof mesh>[0]): Shape3 | null {
  try {
    return mesh(spec)
  } catch (error) {
    assert.ok(error instanceof KeenError && error.code === 'bad-shape' && /area/.test(error.message))
    return null
  }
}

test('a blade as thin as rounding is met where the ray crosses it, not somewhere along it', () => {
  const random = new Random(31)
  const any = (size: number): P => ({
    x: random.between(-size, size),
    y: random.between(-size, size),
    z: random.between(-size, size),
  })
  for (let digits = 2; digits <= 18; digits++) {
    let met = 0
    for (let i = 0; i < 200; i++) {
      const [from, to] = [any(2), any(2)]
      const along = sub(to, from)
      if (norm(along) < 0.5) continue
      const across = scale(unit(cross(along, any(1))), 10 ** -digits)
      const [a, b, c, d] = [from, to, add(to, across), add(from, across)]
      const blade = meshUnlessFlat({
        positions: [a, b, c, d].flatMap(({ x, y, z }) => [x, y, z]),
        indices: [0, 1, 2, 0, 2, 3],
      })
      if (blade === null) continue
      const place = add(add(from, along, random.between(0.05, 0.95)), across, 0.5)
      const motion = scale(unit(cross(across, any(1))), 3)
      // Not along the blade.
      if (norm(cross(unit(motion), unit(along))) < 0.3) continue
      const start = sub(place, motion)
      const hit = raycast(blade, HERE, { from: start, to: add(place, motion) })
      if (hit === null) continue
      met++
      assert.ok(norm(sub(hit.point, place)) < 1e-6, `${norm(sub(hit.point, place))} off, on a blade 1e-${digits} wide`)
    }
    assert.ok(digits > 14 || met > 100, `${met} met on a blade 1e-${digits} wide`)
  }
})

test('a triangle as narrow as the least numbers is met where it is, or not at all', () => {
  for (const width of [1e-30, 1e-80, 1e-160, 1e-240, 5e-324]) {
    const needle = meshUnlessFlat({ positions: [width, 0, 0.5, 0, width, 2, 0, -width, -0.5] })
    if (needle === null) continue
    for (const x of [0, width, -width / 2, 1e-100]) {
      const from = { x: x + 1, y: 0.5, z: 1.75 }
      const hit = raycast(needle, HERE, { from, to: { x: x - 1, y: -0.5, z: 1.25 } })
      if (hit !== null) assert.ok(Math.abs(hit.fraction - 0.5) < 1e-9, `${hit.fraction} with ${width}`)
    }
  }
})

/** Numbers one rounding away from the given ones, now and then. */
function nudged(p: P, random: Random): P {
  const nudge = (value: number): number => value + (random.below(3) - 1) * Math.abs(value) * 2 ** -53 * 1.2
  return { x: nudge(p.x), y: nudge(p.y), z: nudge(p.z) }
}

test('no ray slips into a closed mesh between its triangles', () => {
  const random = new Random(20)
  const meshes = [
    mesh(CUBE),
    mesh({ ...CUBE, build: 'fast' }),
    mesh(ball(2, 0, random)),
    mesh(ball(2, 0.15, random)),
    mesh({ ...ball(3, 0.1, random), build: 'fast' }),
  ]
  const aimed = runs(3000)
  let ordinary = 0
  for (const shape of meshes) {
    assert.ok(shape.closed, 'the mesh is closed')
    const triangles = trianglesOf(shape)
    let slipped = 0
    for (let i = 0; i < aimed; i++) {
      const triangle = random.pick(triangles)
      const corner = random.below(3)
      const a = triangle[corner] as P
      const b = triangle[(corner + 1) % 3] as P
      // A vertex, a place on an edge, or the middle of it, to rounding.
      const target = nudged(
        random.chance(0.3) ? a : add(a, sub(b, a), random.chance(0.3) ? 0.5 : random.next()),
        random,
      )
      // From far outside through the target to a place within, and from there out through it: both must meet the mesh.
      let within: P = { x: random.between(-0.2, 0.2), y: random.between(-0.2, 0.2), z: random.between(-0.2, 0.2) }
      if (random.chance(0.4)) {
        // Along an axis, where that leads inside.
        const axis = random.pick(['x', 'y', 'z'] as const)
        const flat = { ...target, [axis]: 0 }
        const widest = Math.max(Math.abs(flat.x), Math.abs(flat.y), Math.abs(flat.z))
        if (shape.triangles === 12 ? widest < 0.99 : norm(flat) < 0.7) within = flat
      }
      const outward = sub(target, within)
      const from = add(target, outward, random.pick([0.5, 3, random.between(1, 50), 1000]))
      const hit = raycast(shape, HERE, { from, to: within })
      const out = raycast(shape, HERE, { from: within, to: from })
      if (hit === null || out === null) slipped++
      // The ordinary test of a triangle, for comparison: the cases are such that it fails now and then.
      if (i < 1000 && !bruteForce(shape, from, within).some(({ margin }) => margin >= 0)) ordinary++
    }
    assert.equal(slipped, 0, `${slipped} of ${aimed} rays slipped through ${shape.triangles} triangles`)
  }
  assert.ok(ordinary > 0, 'the aim is sharp enough to slip past an ordinary test')
})

test('rays along the axes through edges and corners of a cube are hits', () => {
  const cube = mesh(CUBE)
  for (const u of [-1, -0.5, 0, 0.5, 1]) {
    for (const v of [-1, -0.25, 0, 0.25, 1]) {
      if (Math.abs(u) === 1 || Math.abs(v) === 1) continue
      for (const s of [-4, 4]) {
        for (const [from, to] of [
          [
            { x: s, y: u, z: v },
            { x: -s, y: u, z: v },
          ],
          [
            { x: u, y: s, z: v },
            { x: u, y: -s, z: v },
          ],
          [
            { x: u, y: v, z: s },
            { x: u, y: v, z: -s },
          ],
        ]) {
          const hit = raycast(cube, HERE, { from, to })
          assert.equal(hit?.fraction, 3 / 8, `from ${JSON.stringify(from)}`)
        }
      }
    }
  }
})

test('the front of a triangle is where its corners run counter-clockwise', () => {
  const positions = [0, 0, 0, 1, 0, 0, 0, 1, 0]
  const both = mesh({ positions })
  const front = mesh({ positions, sides: 'front' })
  const towards = { from: { x: 0.2, y: 0.2, z: 1 }, to: { x: 0.2, y: 0.2, z: -1 } }
  const away = { from: towards.to, to: towards.from }
  assert.deepEqual(raycast(both, HERE, towards)?.normal, { x: 0, y: 0, z: 1 })
  assert.equal(raycast(both, HERE, towards)?.back, false)
  assert.deepEqual(raycast(both, HERE, away)?.normal, { x: 0, y: 0, z: -1 })
  assert.equal(raycast(both, HERE, away)?.back, true)
  assert.equal(raycast(front, HERE, towards)?.part, 0)
  assert.equal(raycast(front, HERE, away), null)
  // The same from every side of a ball: a one-sided one is met from outside only.
  const shape = mesh({ ...ball(1, 0, new Random(3)), sides: 'front' })
  const random = new Random(4)
  for (let i = 0; i < 300; i++) {
    const direction = unit({ x: random.between(-1, 1), y: random.between(-1, 1), z: random.between(-1, 1) })
    const inwards = raycast(shape, HERE, { from: scale(direction, 3), to: { x: 0, y: 0, z: 0 } })
    assert.equal(inwards?.back, false, 'met from outside')
    assert.equal(raycast(shape, HERE, { from: { x: 0, y: 0, z: 0 }, to: scale(direction, 3) }), null, 'not from inside')
  }
})

test('a mesh knows its neighbours: closed, open, welded', () => {
  assert.equal(mesh(CUBE).closed, true)
  assert.equal(mesh({ ...CUBE, indices: CUBE.indices.slice(3) }).closed, false)
  const apart = CUBE.indices.flatMap((i) => CUBE.positions.slice(3 * i, 3 * i + 3))
  assert.equal(mesh({ positions: apart }).closed, true, 'equal vertices are one')
  const random = new Random(5)
  const rough = apart.map((value) => value + random.between(-1e-6, 1e-6))
  assert.equal(mesh({ positions: rough }).closed, false)
  const welded = mesh({ positions: rough, weld: 1e-5 })
  assert.equal(welded.closed, true, 'near vertices are one')
  assert.equal(welded.triangles, 12)
})

test('what is no mesh is refused, with what is wrong', () => {
  throwsKeen('bad-shape', /three numbers a vertex/, () => mesh({ positions: [0, 0, 0, 1] }))
  throwsKeen('bad-number', /positions\[8\]/, () => mesh({ positions: [0, 0, 0, 1, 0, 0, 0, 1, Number.NaN] }))
  throwsKeen('bad-shape', /indices\[2\].*0 to 2/, () =>
    mesh({ positions: [0, 0, 0, 1, 0, 0, 0, 1, 0], indices: [0, 1, 3] }),
  )
  throwsKeen('bad-shape', /has an area/, () => mesh({ positions: [0, 0, 0, 1, 0, 0, 2, 0, 0] }))
  throwsKeen('bad-shape', /three vertices/, () => mesh({ positions: [0, 0, 0], sides: 'back' as 'both' }))
  throwsKeen('bad-shape', /2 x 2 = 4/, () => heightfield({ columns: 2, rows: 2, heights: [0, 0, 0], cell: 1 }))
  throwsKeen('bad-number', /columns/, () => heightfield({ columns: 1, rows: 2, heights: [0, 0], cell: 1 }))
  throwsKeen('bad-number', /cell/, () => heightfield({ columns: 2, rows: 2, heights: [0, 0, 0, Number.NaN], cell: 0 }))
})

test('a heightfield has its heights, its holes and its parts', () => {
  const columns = 4
  const rows = 3
  const heights = [0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, Number.NaN]
  const field = heightfield({ columns, rows, heights, cell: { x: 2, z: 1 } })
  const down = (x: number, z: number): ReturnType<typeof raycast> =>
    raycast(field, HERE, { from: { x, y: 10, z }, to: { x, y: -10, z } })
  // A slope: half a metre up for each metre of x.
  for (const [x, z] of [
    [-2.9, -0.9],
    [0.3, 0.2],
    [1.5, -0.7],
  ]) {
    const hit = down(x, z)
    assert.ok(hit !== null && Math.abs(hit.point.y - (x + 3) / 2) < 1e-12, `${hit?.point.y} at ${x}, ${z}`)
    assert.ok(hit.normal.y > 0 && !hit.back, 'seen from above it is the front')
  }
  assert.equal(down(-2.9, -0.5)?.part, 0, 'towards smaller x of the first cell')
  assert.equal(down(-1.1, -0.9)?.part, 1)
  assert.equal(down(2.9, -0.9)?.part, 2 * 2 + 1)
  assert.equal(down(-2.9, 0.5)?.part, 2 * 3)
  // The cell with the hole has one triangle less only where the hole is its corner.
  assert.equal(down(2.9, 0.9), null)
  assert.equal(raycast(field, HERE, { from: { x: 0, y: -5, z: 0 }, to: { x: 0, y: 5, z: 0 } })?.back, true)
  const above = heightfield({ columns, rows, heights, cell: 1, sides: 'front' })
  assert.equal(raycast(above, HERE, { from: { x: 0.2, y: -5, z: 0.1 }, to: { x: 0.2, y: 5, z: 0.1 } }), null)
})

test('shared memory holds the same mesh', () => {
  const made = mesh({ ...ball(2, 0.1, new Random(6)), shared: true })
  const other = sharedMesh(shareMesh(made))
  assert.equal(other.triangles, made.triangles)
  assert.deepEqual(other.bounds, made.bounds)
  const ray = { from: { x: 0.1, y: 5, z: 0.2 }, to: { x: 0, y: 0, z: 0 } }
  assert.deepEqual(raycast(other, HERE, ray), raycast(made, HERE, ray))
  throwsKeen('bad-argument', /shared: true/, () => shareMesh(mesh(CUBE)))
  throwsKeen('bad-argument', /shareMesh/, () => sharedMesh(new SharedArrayBuffer(64)))
})

test('a batch gives what first gives, on a turned mesh among others', () => {
  const random = new Random(8)
  const layers = defineLayers(['rock', 'pod'])
  const world = createWorld({ layers })
  const shape = mesh(ball(2, 0.1, random))
  for (let i = 0; i < 30; i++) {
    const rotation = { x: random.between(-1, 1), y: random.between(-1, 1), z: random.between(-1, 1), w: 1 }
    const at = { x: random.between(-9, 9), y: random.between(-9, 9), z: random.between(-9, 9) }
    world.add({ type: i % 2 === 0 ? 'static' : 'kinematic', at, rotation, colliders: [{ shape, layer: 'rock' }] })
  }
  const count = 500
  const rays = new Float64Array(6 * count).map(() => random.between(-10, 10))
  const out = rayResults(count)
  const hits = world.raycast.batch(rays, out)
  let seen = 0
  for (let i = 0; i < count; i++) {
    const at = (k: number): P => ({ x: rays[6 * i + k], y: rays[6 * i + k + 1], z: rays[6 * i + k + 2] })
    const hit = world.raycast.first({ from: at(0), to: at(3) })
    assert.equal(out.fraction[i], hit?.fraction ?? -1)
    if (hit === null) continue
    seen++
    assert.equal(world.colliderAt(out.collider[i]), hit.collider)
    assert.equal(out.part[i], hit.part)
    assert.equal(out.barycentric[3 * i + 1], hit.barycentric.y)
    assert.equal(out.normal[3 * i + 2] + 0, hit.normal.z)
  }
  assert.equal(hits, seen)
  assert.ok(seen > 50 && seen < count, `${seen} of ${count} hit`)
  assert.throws(() => world.raycast.batch(new Float64Array(5), out), KeenError)
})
