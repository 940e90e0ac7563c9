/** Bodies that fall, rest, slide, bounce and strike, against closed forms. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  type Body2,
  blast,
  box,
  capsule,
  circle,
  compound,
  createWorld,
  defineLayers,
  halfspace,
  polygon,
  polyline,
  type Shape2,
  segment,
} from '../../src/2d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { pileWorld } from '../helpers/pile.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'crate', 'shot', 'zone'], { pairs: [['zone', '*', 'sense']] })
const G = 9.8

function yard(options: Partial<Parameters<typeof createWorld>[0]> = {}) {
  return createWorld({ layers, ...options } as { layers: typeof layers })
}
type World = ReturnType<typeof yard>

function ground(world: World, more: object = {}): Body2 {
  return world.add({
    type: 'static',
    name: 'ground',
    at: { x: 0, y: -1 },
    colliders: [{ shape: box(1000, 2), layer: 'rock', ...more }],
  }) as unknown as Body2
}

function crate(world: World, x: number, y: number, shape: Shape2 = box(1, 1), more: object = {}, body: object = {}) {
  return world.add({ type: 'dynamic', at: { x, y }, ...body, colliders: [{ shape, layer: 'crate', ...more }] })
}

function steps(world: World, count: number): void {
  for (let i = 0; i < count; i++) world.step()
}

test('free fall is the closed form, with spin and any gravity', () => {
  fc.assert(
    fc.property(
      fc.record({ x: fc.integer({ min: -9, max: 9 }), y: fc.integer({ min: -9, max: 9 }) }),
      fc.record({ x: fc.integer({ min: -9, max: 9 }), y: fc.integer({ min: -9, max: 9 }) }),
      fc.integer({ min: -5, max: 5 }),
      (gravity, velocity, spin) => {
        const world = yard({ gravity })
        const body = crate(world, 1, 2, box(1, 2), {}, { velocity, spin })
        steps(world, 60)
        const near = (a: number, b: number): void => assert.ok(Math.abs(a - b) < 1e-9, `${a} against ${b}`)
        near(body.at.x, 1 + velocity.x + gravity.x / 2)
        near(body.at.y, 2 + velocity.y + gravity.y / 2)
        near(body.velocity.y, velocity.y + gravity.y)
        near(body.angle, spin)
      },
    ),
    { numRuns: 60 },
  )
})

test('mass, centre and inertia come from the shapes, and impulses and forces act by them', () => {
  const world = yard({ gravity: { x: 0, y: 0 } })
  const bar = world.add({
    type: 'dynamic',
    colliders: [
      { shape: box(1, 1), layer: 'crate', at: { x: -2, y: 0 }, density: 3 },
      { shape: box(1, 1), layer: 'crate', at: { x: 2, y: 0 } },
      { shape: circle(5), layer: 'zone', sensor: true },
    ],
  })
  assert.equal(bar.mass, 4)
  assert.ok(Math.abs(bar.centre.x + 1) < 1e-12 && Math.abs(bar.centre.y) < 1e-12)
  // Two squares: their own and by Steiner.
  assert.ok(Math.abs(bar.inertia - (3 * (1 / 6 + 1) + (1 / 6 + 9))) < 1e-12)
  bar.applyImpulse({ x: 0, y: 8 })
  assert.deepEqual([bar.velocity.y, bar.spin], [2, 0])
  bar.applyImpulse({ x: 0, y: 1 }, { x: 1, y: 0 })
  assert.ok(Math.abs(bar.spin - 2 / bar.inertia) < 1e-12)
  bar.velocity = { x: 0, y: 0 }
  bar.spin = 0
  for (let i = 0; i < 60; i++) {
    bar.applyForce({ x: 4, y: 0 })
    world.step()
  }
  assert.ok(Math.abs(bar.velocity.x - 1) < 1e-9)
  world.step()
  assert.ok(Math.abs(bar.velocity.x - 1) < 1e-9, 'a force lasts for one step')
  bar.mass = 40
  bar.locks = { x: true, turn: true }
  bar.applyImpulse({ x: 40, y: 40 }, { x: 7, y: 0 })
  assert.deepEqual([bar.velocity.x, bar.velocity.y, bar.spin], [0, 1, 0])
  bar.mass = null
  assert.equal(bar.mass, 4)
})

test('a box slides down a slope as friction has it, within two parts in a hundred', () => {
  for (const [friction, angle] of [
    [0.2, 0.5],
    [0, 0.3],
    [0.5, 0.7],
    [0.6, 0.4],
  ]) {
    const world = yard()
    world.add({
      type: 'static',
      angle: -angle,
      colliders: [{ shape: box(400, 2), layer: 'rock', at: { x: 0, y: -1 }, friction }],
    })
    const along = { x: Math.cos(angle), y: -Math.sin(angle) }
    const up = { x: Math.sin(angle), y: Math.cos(angle) }
    const body = crate(world, up.x * 0.5, up.y * 0.5, box(2, 1), { friction }, { angle: -angle })
    steps(world, 120)
    const pull = G * (Math.sin(angle) - friction * Math.cos(angle))
    const way = body.at.x * along.x + body.at.y * along.y
    const expected = pull > 0 ? (pull * 4) / 2 : 0
    assert.ok(
      Math.abs(way - expected) < 0.02 * Math.max(expected, 0.5),
      `${friction} at ${angle}: ${way}, not ${expected}`,
    )
  }
})

test('a ball that loses nothing keeps its height over ten bounces, within two parts in a hundred', () => {
  for (const height of [1, 3, 10]) {
    const world = yard()
    ground(world)
    const ball = crate(world, 0, height, circle(0.25), { restitution: 1 })
    const heights: number[] = []
    let rising = false
    for (let i = 0; heights.length < 10 && i < 4000; i++) {
      world.step()
      if (rising && ball.velocity.y <= 0) heights.push(ball.at.y - 0.25)
      rising = ball.velocity.y > 0
    }
    assert.equal(heights.length, 10)
    for (const each of heights) {
      assert.ok(Math.abs(each - (height - 0.25)) < 0.02 * (height - 0.25), `from ${height}: ${heights.join(' ')}`)
    }
  }
})

test('in a free collision momentum is kept to rounding, and energy as the restitution says', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 40 }),
      fc.constantFrom(0, 0.5, 1),
      (massA, massB, speed, restitution) => {
        const world = yard({ gravity: { x: 0, y: 0 } })
        const a = crate(
          world,
          -2,
          0,
          circle(0.5),
          { restitution },
          { mass: massA, velocity: { x: speed, y: 0 }, sweep: 'all', sleeps: false },
        )
        const b = crate(
          world,
          2,
          0,
          circle(0.5),
          { restitution },
          { mass: massB, velocity: { x: -1, y: 0 }, sleeps: false },
        )
        steps(world, 240)
        const before = massA * speed - massB
        const after = massA * a.velocity.x + massB * b.velocity.x
        assert.ok(Math.abs(after - before) < 1e-9 * (1 + Math.abs(before)), `${after} of ${before}`)
        const parted = b.velocity.x - a.velocity.x
        assert.ok(Math.abs(parted - restitution * (speed + 1)) < 0.02 * (speed + 1), `${parted}`)
      },
    ),
    { numRuns: runs(60) },
  )
})

test('a stack of twenty boxes stands, sleeps, and sinks by less than 6 mm a box', () => {
  const world = yard()
  ground(world)
  const boxes = Array.from({ length: 20 }, (_, i) => crate(world, 0, 0.5 + i))
  let tick = 0
  while (!boxes.every((each) => each.asleep) && tick++ < 300) world.step()
  assert.ok(
    boxes.every((each) => each.asleep),
    'it sleeps',
  )
  for (const [i, each] of boxes.entries()) {
    assert.ok(Math.abs(each.at.x) < 0.02 && Math.abs(each.angle) < 0.01, `box ${i} stands straight`)
    const below = i === 0 ? 0.5 : boxes[i - 1].at.y + 1
    assert.ok(below - each.at.y < 0.006 && below - each.at.y > -0.001, `box ${i} sinks ${below - each.at.y}`)
  }
  const before = boxes.map((each) => each.at.y)
  steps(world, 100)
  assert.deepEqual(
    boxes.map((each) => each.at.y),
    before,
  )
})

test('a pyramid stands, and a row of dominoes falls to the last', () => {
  const world = yard()
  ground(world)
  const top: Body2[] = []
  for (let row = 0; row < 10; row++) {
    for (let i = 0; i < 10 - row; i++) top[row] = crate(world, (i - (10 - row) / 2) * 1.1, 0.5 + row) as never
  }
  steps(world, 240)
  assert.ok(Math.abs(top[9].at.y - 9.5) < 0.05)
  const row = yard()
  ground(row)
  const dominoes = Array.from({ length: 15 }, (_, i) => crate(row, i * 0.6, 0.5, box(0.1, 1)))
  dominoes[0].applyImpulse({ x: 0.05, y: 0 }, { x: 0, y: 1 })
  steps(row, 600)
  for (const [i, each] of dominoes.entries()) assert.ok(each.angle < -1, `domino ${i} has fallen: ${each.angle}`)
})

test('overlapping bodies are parted without an explosion, and with one when asked', () => {
  const fastest = (options: object): number => {
    const world = yard({ gravity: { x: 0, y: 0 }, ...options })
    const a = crate(world, 0, 0)
    const b = crate(world, 0.3, 0.05)
    let most = 0
    for (let i = 0; i < 120; i++) {
      world.step()
      most = Math.max(most, Math.abs(a.velocity.x), Math.abs(b.velocity.x))
    }
    assert.ok(b.at.x - a.at.x > 0.99, 'they are apart')
    return most
  }
  assert.ok(fastest({}) < 0.5, `${fastest({})}`)
  assert.ok(fastest({ burst: true, pushOut: 20 }) > 2)
})

test('a shot never goes through a thin wall, whatever its speed, shape and angle', () => {
  const shapes: Shape2[] = [
    circle(0.05),
    box(0.3, 0.05),
    capsule({ x: -0.2, y: 0 }, { x: 0.2, y: 0 }, 0.02),
    polygon([
      { x: 0, y: 0 },
      { x: 0.1, y: 0 },
      { x: 0, y: 0.1 },
    ]),
  ]
  const walls: Shape2[] = [
    box(0.02, 40),
    polyline([
      { x: 0, y: -20 },
      { x: 0, y: 20 },
    ]),
    capsule({ x: 0, y: -20 }, { x: 0, y: 20 }, 0.01),
  ]
  let struck = 0
  fc.assert(
    fc.property(
      fc.constantFrom(...shapes),
      fc.constantFrom(...walls),
      fc.double({ min: 10, max: 1000, noNaN: true }),
      fc.double({ min: -0.6, max: 0.6, noNaN: true }),
      fc.double({ min: -40, max: 40, noNaN: true }),
      fc.double({ min: 0, max: 17, noNaN: true }),
      fc.constantFrom(0, 0.5, 1),
      (shape, wall, speed, aim, spin, away, restitution) => {
        const world = yard()
        world.add({ type: 'static', colliders: [{ shape: wall, layer: 'rock', restitution }] })
        const shot = world.add({
          type: 'dynamic',
          at: { x: -0.6 - away, y: 0 },
          velocity: { x: speed * Math.cos(aim), y: speed * Math.sin(aim) },
          spin,
          colliders: [{ shape, layer: 'shot' }],
        })
        let hits = 0
        world.watch('shot', 'rock', { begin: () => hits++ })
        for (let i = 0; i < 30; i++) {
          world.step()
          assert.ok(
            shot.at.x < 0.05 || Math.abs(shot.at.y) > 19,
            `it is at ${shot.at.x} ${shot.at.y} in tick ${world.tick}`,
          )
        }
        if (hits > 0) struck++
      },
    ),
    { numRuns: runs(2000) },
  )
  assert.ok(struck > 50, `${struck} struck`)
})

test('a bounce within one tick is told as one, with the time and the impulse', () => {
  const world = yard({ gravity: { x: 0, y: 0 } })
  world.add({
    type: 'static',
    at: { x: 10, y: 0 },
    colliders: [{ shape: box(0.02, 4), layer: 'rock', restitution: 1 }],
  })
  const shot = world.add({
    type: 'dynamic',
    at: { x: 4.99 - 0.5, y: 0 },
    velocity: { x: 600, y: 0 },
    mass: 2,
    colliders: [{ shape: circle(0.5), layer: 'shot' }],
  })
  const zone = world.add({ type: 'static', at: { x: 8, y: 0 }, colliders: [{ shape: box(0.1, 4), layer: 'zone' }] })
  const told: string[] = []
  world.watch(
    'shot',
    '*',
    {
      begin: (e) => told.push(`begin ${e.b === zone ? 'zone' : 'wall'} ${e.cause} ${e.when.toFixed(3)}`),
      end: (e) => told.push(`end ${e.b === zone ? 'zone' : 'wall'} ${e.cause}`),
      impact(e) {
        told.push(`impact ${e.impulse.toFixed(1)} ${e.closingSpeed.toFixed(0)} ${e.normal!.x}`)
        assert.equal(e.points.length, 1)
        assert.ok(Math.abs(e.points[0].x - 9.99) < 0.01 && Math.abs(e.points[0].impulse - 2400) < 1e-6)
      },
    },
    { over: { impulse: 100 } },
  )
  world.step()
  // 5 m there, 5 m back.
  assert.ok(Math.abs(shot.at.x - 4.49) < 0.01, `${shot.at.x}`)
  assert.equal(shot.velocity.x, -600)
  assert.deepEqual(told, [
    'begin zone crossed 0.296',
    'end zone crossed',
    'begin wall bounced 0.500',
    'impact 2400.0 600 1',
    'end wall bounced',
  ])
})

test('a fast ball rolls over seams without a trip: tiles, a polyline, a concave floor', () => {
  const floors: ((world: World) => void)[] = [
    (world) => {
      for (let i = 0; i < 60; i++)
        world.add({ type: 'static', at: { x: i - 5, y: -0.5 }, colliders: [{ shape: box(1, 1), layer: 'rock' }] })
    },
    (world) => {
      const points = Array.from({ length: 61 }, (_, i) => ({ x: 55 - i, y: 0 }))
      world.add({ type: 'static', colliders: [{ shape: polyline(points), layer: 'rock' }] })
    },
    (world) => {
      const points = [
        { x: -6, y: -2 },
        { x: 55, y: -2 },
        { x: 55, y: 0 },
        { x: 30, y: 0 },
        { x: 30, y: -1 },
      ]
      points.push({ x: 29.9, y: -1 }, { x: 29.9, y: 0 }, { x: -6, y: 0 })
      world.add({ type: 'static', colliders: [{ shape: polygon(points), layer: 'rock' }] })
    },
  ]
  for (const [index, floor] of floors.entries()) {
    for (const shape of [circle(0.5), box(1, 1), capsule({ x: -0.4, y: 0 }, { x: 0.4, y: 0 }, 0.3)]) {
      const world = yard()
      floor(world)
      const height = shape.bounds.max.y
      const body = crate(world, 0, height, shape, { friction: 0 }, { velocity: { x: 8, y: 0 } })
      for (let i = 0; i < 180; i++) {
        world.step()
        assert.ok(
          Math.abs(body.at.y - height) < 0.01,
          `floor ${index}: ${shape.kind} at ${body.at.x} is ${body.at.y} high`,
        )
      }
      assert.ok(Math.abs(body.velocity.x - 8) < 0.05, `floor ${index}: ${shape.kind} is ${body.velocity.x} fast`)
    }
  }
})

test('what sleeps wakes when it is struck, pushed, or loses what it stands on', () => {
  const make = () => {
    const world = yard()
    const floor = ground(world)
    const low = crate(world, 0, 0.5)
    const high = crate(world, 0, 1.5)
    const events: string[] = []
    world.watch('crate', '*', { begin: () => events.push('begin'), end: (e) => events.push(`end ${e.cause}`) })
    steps(world, 120)
    assert.ok(low.asleep && high.asleep)
    assert.deepEqual(events.splice(0), ['begin', 'begin'])
    return { world, floor, low, high, events }
  }
  {
    const { world, low, high } = make()
    low.remove()
    assert.ok(!high.asleep)
    steps(world, 120)
    assert.ok(Math.abs(high.at.y - 0.5) < 0.01)
  }
  {
    const { world, high, low } = make()
    high.applyImpulse({ x: 5, y: 0 })
    assert.ok(!high.asleep && !low.asleep)
    steps(world, 120)
    assert.ok(high.at.x > 0.5)
  }
  {
    const { world, high, floor } = make()
    floor.teleport({ x: 0, y: -4 })
    steps(world, 240)
    assert.ok(high.at.y < 0)
  }
  {
    const { world, high } = make()
    world.gravity = { x: 0, y: 3 }
    steps(world, 60)
    assert.ok(high.at.y > 2)
  }
  {
    const { world, high, low, events } = make()
    low.enabled = false
    steps(world, 120)
    assert.ok(high.at.y < 0.6)
    assert.ok(events.includes('end disabled'))
  }
  {
    const { world, high, low } = make()
    crate(world, 0, 6)
    steps(world, 240)
    assert.ok(high.asleep && low.asleep)
  }
})

test('a pair that rests is told once, with the weight as its impulse, and lasts through sleep', () => {
  const world = yard()
  ground(world)
  const low = crate(world, 0, 0.5)
  const told: string[] = []
  let during = 0
  world.watch('crate', 'rock', {
    begin: () => told.push('begin'),
    during(e) {
      during++
      if (world.tick > 30) assert.ok(Math.abs(e.impulse - G / 60) < 1e-3, `${e.impulse} in tick ${world.tick}`)
      assert.equal(e.points.length, 2)
      const sum = e.points.reduce((total, point) => total + point.impulse, 0)
      if (world.tick > 30) assert.ok(Math.abs(sum - e.impulse) < 1e-6, `${sum} at the points, ${e.impulse} in all`)
    },
    end: () => told.push('end'),
  })
  steps(world, 300)
  assert.ok(low.asleep)
  assert.deepEqual(told, ['begin'])
  assert.equal(during, 299)
  const [touch] = low.touching()
  assert.ok(Math.abs(touch.normal.y - 1) < 1e-9)
  assert.ok(Math.abs(touch.impulse - G / 60) < 1e-3)
})

test('a conveyor carries, a one-way ledge lets up and holds from above, and a hook changes the surface', () => {
  const world = yard()
  world.add({
    type: 'static',
    at: { x: 0, y: -1 },
    colliders: [{ shape: box(200, 2), layer: 'rock', surfaceSpeed: 2 }],
  })
  const load = crate(world, 0, 0.5)
  steps(world, 180)
  assert.ok(Math.abs(load.velocity.x - 2) < 0.01)

  const ledges = yard()
  ledges.add({
    type: 'static',
    colliders: [{ shape: box(4, 0.2), layer: 'rock', oneWay: { x: 0, y: 1 } }],
  })
  const jumper = crate(ledges, 0, -2, box(0.5, 0.5), {}, { velocity: { x: 0, y: 9 } })
  let highest = -2
  for (let i = 0; i < 180; i++) {
    ledges.step()
    highest = Math.max(highest, jumper.at.y)
  }
  assert.ok(highest > 1, 'it went up through the ledge')
  assert.ok(Math.abs(jumper.at.y - 0.35) < 0.01, `and stands on it: ${jumper.at.y}`)

  const ice = yard()
  ground(ice)
  ice.decide('crate', 'rock', (pair) => {
    pair.friction = 0
    return 'solid'
  })
  const slider = crate(ice, 0, 0.5, box(1, 1), {}, { velocity: { x: 5, y: 0 } })
  steps(ice, 60)
  assert.ok(Math.abs(slider.velocity.x - 5) < 1e-6)
})

test('a hook that lets go of what sleeps wakes it', () => {
  const world = yard()
  ground(world)
  world.add({
    type: 'static',
    at: { x: 0, y: 3 },
    colliders: [{ shape: box(4, 0.2), layer: 'zone', solidBits: 'crate' }],
  })
  const shelf = world.bodies()[1].colliders[0]
  shelf.layer = 'shot'
  const body = crate(world, 0, 3.6)
  steps(world, 120)
  assert.ok(body.asleep && body.at.y > 3.5)
  world.decide('crate', 'shot', () => 'pass')
  steps(world, 120)
  assert.ok(Math.abs(body.at.y - 0.5) < 0.01, `it has fallen to ${body.at.y}`)
})

test('the type of a body can be changed while it runs, and says so', () => {
  const world = yard()
  const floor = ground(world)
  const body = crate(world, 0, 0.5)
  const told: string[] = []
  world.watch('crate', 'rock', { begin: (e) => told.push(`begin ${e.cause}`), end: (e) => told.push(`end ${e.cause}`) })
  steps(world, 2)
  body.type = 'static'
  steps(world, 2)
  assert.deepEqual(told.splice(0), ['begin added', 'end retyped'])
  assert.equal(body.mass, 0)
  body.type = 'dynamic'
  steps(world, 60)
  assert.deepEqual(told.splice(0), ['begin retyped'])
  assert.equal(body.mass, 1)
  body.type = 'kinematic'
  body.velocity = { x: 0, y: 3 }
  steps(world, 60)
  assert.ok(Math.abs(body.at.y - 3.5) < 0.01)
  throwsKeen('bad-argument', /is kinematic/, () => body.applyImpulse({ x: 1, y: 0 }))
  throwsKeen('bad-shape', /halfspace/, () => {
    const plane = world.add({ type: 'static', colliders: [{ shape: halfspace({ x: 0, y: 1 }, -9), layer: 'rock' }] })
    plane.type = 'dynamic'
  })
  throwsKeen('bad-argument', /for dynamic bodies/, () => world.add({ type: 'static', mass: 3 }))
  throwsKeen('bad-number', /'mass'/, () => world.add({ type: 'dynamic', mass: -1 }))
  assert.equal(world.bodies().length, 3)
  void floor
})

test('a kinematic platform carries, pushes, and wakes', () => {
  const world = yard()
  ground(world)
  const lift = world.add({
    type: 'kinematic',
    at: { x: 0, y: 0.25 },
    colliders: [{ shape: box(4, 0.5), layer: 'rock' }],
  })
  const load = crate(world, 0.5, 1)
  steps(world, 100)
  assert.ok(load.asleep)
  lift.velocity = { x: 1, y: 1 }
  steps(world, 120)
  assert.ok(Math.abs(load.at.y - 3) < 0.03, `${load.at.y}`)
  assert.ok(Math.abs(load.at.x - 2.5) < 0.1, `${load.at.x}`)
})

/** Bodies that fall into a trough, one every half second; gives the numbers of all. */
function pile(seed: number, extra: boolean) {
  const world = yard()
  if (extra) {
    for (let i = 0; i < 7; i++) crate(world, 500 + 3 * i, 4)
    world.bodies()[3].remove()
  }
  ground(world)
  for (const x of [-6, 6]) {
    world.add({ type: 'static', at: { x, y: 3 }, colliders: [{ shape: box(1, 8), layer: 'rock' }] })
  }
  const bodies: ReturnType<typeof crate>[] = []
  let state = seed
  const random = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 2 ** 32
  }
  const step = (): void => {
    if (world.tick % 30 === 0 && bodies.length < 40) {
      const size = 0.3 + random()
      const shapes = [box(size, 0.5), circle(size / 2), capsule({ x: -size / 2, y: 0 }, { x: size / 2, y: 0 }, 0.2)]
      const shape = shapes[bodies.length % 3]
      // Rolling costs nothing by itself: without damping a capsule may rock on a ball for minutes.
      bodies.push(crate(world, random() * 8 - 4, 9, shape, {}, { angle: random() * 6, spinDamping: 0.5 }))
    }
    world.step()
  }
  const numbers = (): number[] =>
    bodies.flatMap((each) => [each.at.x, each.at.y, each.angle, each.velocity.x, each.spin])
  return { world, bodies, step, numbers }
}

test('random piles stay whole: no wild number, nothing sinks or leaves, what energy a tick adds is small', () => {
  let sleeping = 0
  let all = 0
  for (let seed = 1; seed <= runs(5); seed++) {
    const { bodies, step } = pile(seed, false)
    const energyOf = (each: Body2): number => {
      const { x, y } = each.velocity
      return each.mass * (G * each.centre.y + (x * x + y * y) / 2) + (each.inertia * each.spin * each.spin) / 2
    }
    let fallen = 0
    let grown = 0
    for (let i = 0; i < 1700; i++) {
      const count = bodies.length
      const before = bodies.reduce((sum, each) => sum + energyOf(each as never), 0)
      step()
      if (bodies.length > count) fallen += bodies[count].mass * G * 9
      const added = bodies.slice(count).reduce((sum, each) => sum + each.mass * G * 9, 0)
      const now = bodies.reduce((sum, each) => sum + energyOf(each as never), 0)
      if (now - before - added > 1e-3) grown += now - before - added
    }
    // Overlaps that an impact leaves are pushed apart, which lifts what lies on them.
    assert.ok(grown < 0.02 * fallen, `energy grew by ${grown} of ${fallen}`)
    for (const each of bodies) {
      assert.ok(Number.isFinite(each.at.x) && Number.isFinite(each.angle))
      assert.ok(each.at.y > 0.1 && Math.abs(each.at.x) < 5.6, `${each} is at ${each.at.x} ${each.at.y}`)
      for (const { other, mine } of each.overlapping()) {
        const [spot] = each.touching().filter((touch) => touch.other === other && touch.mine === mine)
        assert.ok(spot !== undefined, 'what overlaps touches')
      }
    }
    sleeping += bodies.filter((each) => each.asleep).length
    all += bodies.length
  }
  // One that still rocks keeps its whole pile awake.
  assert.ok(sleeping > 0.7 * all, `${sleeping} of ${all} sleep`)
})

test('a pyramid that lands is not thrown by what its rows push out, and comes to rest whole', () => {
  for (const [rows, gap] of [
    [12, 0.1],
    [40, 0.02],
  ]) {
    const world = yard()
    ground(world)
    const boxes: Body2[] = []
    for (let row = 0; row < rows; row++) {
      for (let i = 0; i < rows - row; i++) {
        boxes.push(crate(world, (i - (rows - row - 1) / 2) * 1.1, 0.5 + gap + row * (1 + gap), box(1, 1)))
      }
    }
    const top = boxes[boxes.length - 1]
    const start = top.at.y
    for (let tick = 0; tick < 240; tick++) {
      world.step()
      assert.ok(top.at.y <= start, `${rows} rows: the top is thrown to ${top.at.y} from ${start}`)
    }
    // Contacts are soft: each row gives way by a few millimetres.
    assert.ok(top.at.y > rows - 0.5 - 0.003 * rows, `${rows} rows sink to ${top.at.y}`)
    for (const each of boxes) assert.ok(Math.hypot(each.velocity.x, each.velocity.y) < 0.05)
  }
})

test('two runs give the same bits, and so does one with other bodies elsewhere', () => {
  const one = pile(5, false)
  const two = pile(5, false)
  const three = pile(5, true)
  for (let i = 0; i < 900; i++) {
    one.step()
    two.step()
    three.step()
    if (i % 50 === 49) {
      assert.deepEqual(one.numbers(), two.numbers())
      assert.deepEqual(one.numbers(), three.numbers())
    }
  }
})

test('swept against all, fast bodies strike each other and thin plates that can be moved', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 50, max: 800, noNaN: true }),
      fc.double({ min: -0.4, max: 0.4, noNaN: true }),
      fc.double({ min: 0, max: 9, noNaN: true }),
      fc.boolean(),
      (speed, aim, away, against) => {
        const world = yard({ gravity: { x: 0, y: 0 } })
        const plate = crate(world, 0, 0, box(0.05, 12), {}, { velocity: { x: against ? -speed / 2 : 0, y: 0 } })
        const shot = crate(
          world,
          -1 - away,
          0,
          circle(0.05),
          {},
          { velocity: { x: speed * Math.cos(aim), y: speed * Math.sin(aim) }, sweep: 'all', mass: 0.01 },
        )
        for (let i = 0; i < 20; i++) {
          world.step()
          // As the plate sees it, which turns when it is struck off its middle.
          const [dx, dy] = [shot.at.x - plate.at.x, shot.at.y - plate.at.y]
          const across = dx * Math.cos(plate.angle) + dy * Math.sin(plate.angle)
          const along = dy * Math.cos(plate.angle) - dx * Math.sin(plate.angle)
          assert.ok(across < 0 || Math.abs(along) > 5.9, `through it: ${across} ${along}`)
        }
      },
    ),
    { numRuns: runs(300) },
  )
})

test('gravity scaled, damping, locks and sleep do what they say', () => {
  const world = yard()
  const light = crate(world, 0, 0, box(1, 1), {}, { gravityScale: 0.5 })
  const slowed = crate(
    world,
    5,
    0,
    box(1, 1),
    {},
    { gravityScale: 0, damping: 2, velocity: { x: 3, y: 0 }, spin: 2, spinDamping: 1 },
  )
  const railed = crate(world, 9, 0, box(1, 1), {}, { locks: { y: true, turn: true }, velocity: { x: 1, y: 5 } })
  steps(world, 60)
  assert.ok(Math.abs(light.velocity.y + G / 2) < 1e-9)
  assert.ok(Math.abs(slowed.velocity.x - 3 * Math.exp(-2)) < 0.02)
  assert.ok(Math.abs(slowed.spin - 2 * Math.exp(-1)) < 0.02)
  assert.ok(railed.at.y === 0 && Math.abs(railed.at.x - 10) < 1e-9)
  const floor = yard()
  ground(floor)
  const alert = crate(floor, 0, 0.5, box(1, 1), {}, { sleeps: false })
  steps(floor, 120)
  assert.ok(!alert.asleep)
  alert.sleeps = true
  steps(floor, 60)
  assert.ok(alert.asleep)
  alert.wake()
  assert.ok(!alert.asleep)
})

test('grains thrown about in a wide room, with blasts, always come to the end of a tick, on finite places', () => {
  const random = new Random(3)
  for (const unit of [1, 64]) {
    const world = pileWorld(random, unit)
    for (let step = 0; step < 180; step++) {
      world.step()
      if (step % 60 === 59) blast(world, { at: { x: 6 * unit, y: unit }, reach: 4 * unit, strength: 30 * unit })
    }
    for (const { at, angle } of world.bodies()) assert.ok(Number.isFinite(at.x + at.y + angle))
  }
})

test('an end that is let down on lower ground is held there, while another one hangs over higher ground', () => {
  const heights = [0.041, 0.022, 0.018, 0.004, 0.014, 0.036]
  const ridge = heights.map((y, i) => ({ x: i / 2 - 1, y }))
  const below = ridge.map(({ x }) => ({ x, y: -1 }))
  const sections = ridge.slice(1).map((end, i) => ({ from: ridge[i], end, foot: below[i], next: below[i + 1] }))
  const grounds: Record<string, Shape2[]> = {
    'a polyline': [polyline(ridge)],
    segments: sections.map(({ from, end }) => segment(from, end)),
    polygons: sections.map(({ from, end, foot, next }) => polygon([from, foot, next, end])),
  }
  const hook = compound([
    { shape: box(0.24, 0.1) },
    { shape: box(0.1, 0.6), at: { x: 0.12, y: 0 } },
    { shape: circle(0.15), at: { x: -0.12, y: 0 } },
  ])
  for (const [name, shapes] of Object.entries(grounds)) {
    const world = yard({ gravity: { x: 0, y: -G } })
    for (const shape of shapes) world.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] })
    const fallen = crate(world, -0.018, 0.241, hook, {}, { angle: 0.51, velocity: { x: 0.11, y: -0.63 }, spin: -3.4 })
    for (let tick = 0; tick < 150; tick++) {
      world.step()
      for (const { depth } of world.overlap.all(
        { shape: hook, at: fallen.at, angle: fallen.angle, depth: true },
        { except: fallen },
      )) {
        assert.ok(depth < 0.02, `on ${name} it is ${depth} deep in tick ${tick}`)
      }
    }
    assert.ok(fallen.asleep, `on ${name} it does not come to rest`)
  }
})
