/** Bodies of 3D that fall, tumble, rest, slide, roll, bounce and strike, against closed forms. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  type AskingShape3,
  type Body3,
  box,
  type ColliderSpec3,
  capsule,
  compound,
  cone,
  createWorld,
  cylinder,
  defineLayers,
  halfspace,
  heightfield,
  hull,
  type Inertia,
  mesh,
  type Rotation,
  rotated,
  rotationAbout,
  type Shape3,
  sphere,
  type Vec3,
} from '../../src/3d/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'crate', 'shot', 'zone'], { pairs: [['zone', '*', 'sense']] })
const G = 9.8
const ORIGIN = { x: 0, y: 0, z: 0 }

function yard(options: Partial<Parameters<typeof createWorld>[0]> = {}) {
  return createWorld({ layers, ...options } as { layers: typeof layers })
}
type World = ReturnType<typeof yard>
type Layer = 'rock' | 'crate' | 'shot' | 'zone'
type Surface = Partial<ColliderSpec3>

function ground(world: World, more: Surface = {}): Body3 {
  const colliders = [{ shape: halfspace({ x: 0, y: 1, z: 0 }, 0), layer: 'rock' as Layer, ...(more as object) }]
  return world.add({ type: 'static', name: 'ground', colliders }) as unknown as Body3
}

function crate(world: World, at: Vec3, shape: Shape3 = box(1, 1, 1), more: Surface = {}, body: object = {}) {
  return world.add({
    type: 'dynamic',
    at,
    ...body,
    colliders: [{ shape, layer: 'crate' as Layer, ...(more as object) }],
  })
}

function steps(world: World, count: number): void {
  for (let i = 0; i < count; i++) world.step()
}

const near = (a: number, b: number, within: number, what = ''): void =>
  assert.ok(Math.abs(a - b) <= within, `${what} ${a} against ${b}`)
const size = ({ x, y, z }: Vec3): number => Math.hypot(x, y, z)
const back = ({ x, y, z, w }: Rotation): Rotation => ({ x: -x, y: -y, z: -z, w })

test('free fall is the closed form, with spin and any gravity', () => {
  const whole = fc.record({
    x: fc.integer({ min: -9, max: 9 }),
    y: fc.integer({ min: -9, max: 9 }),
    z: fc.integer({ min: -9, max: 9 }),
  })
  fc.assert(
    fc.property(whole, whole, fc.integer({ min: -5, max: 5 }), (gravity, velocity, speed) => {
      const world = yard({ gravity })
      const body = crate(world, { x: 1, y: 2, z: 3 }, sphere(1), {}, { velocity, spin: { x: 0, y: speed, z: 0 } })
      steps(world, 60)
      near(body.at.x, 1 + velocity.x + gravity.x / 2, 1e-9)
      near(body.at.y, 2 + velocity.y + gravity.y / 2, 1e-9)
      near(body.at.z, 3 + velocity.z + gravity.z / 2, 1e-9)
      const turned = rotated(body.rotation, { x: 1, y: 0, z: 0 })
      near(turned.x, Math.cos(speed), 1e-9)
      near(turned.z, -Math.sin(speed), 1e-9)
    }),
    { seed: 1, numRuns: runs(100) },
  )
})

/** Mass, centre and inertia by points strewn evenly over the bounds of a shape. */
function strewn(world: World, shape: Shape3): { volume: number; centre: Vec3; inertia: Inertia } {
  const body = world.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] })
  const { min, max } = shape.bounds
  const cells = 26
  const cell = { x: (max.x - min.x) / cells, y: (max.y - min.y) / cells, z: (max.z - min.z) / cells }
  const inside: Vec3[] = []
  for (let i = 0; i < cells ** 3; i++) {
    const point = {
      x: min.x + ((i % cells) + 0.5) * cell.x,
      y: min.y + ((Math.floor(i / cells) % cells) + 0.5) * cell.y,
      z: min.z + (Math.floor(i / cells ** 2) + 0.5) * cell.z,
    }
    const [hit] = world.nearest.all({ point, reach: 1e-9 })
    if (hit !== undefined && hit.distance <= 0) inside.push(point)
  }
  body.remove()
  const each = cell.x * cell.y * cell.z
  const mean = (of: (p: Vec3) => number): number => inside.reduce((sum, p) => sum + of(p), 0) / inside.length
  const centre = { x: mean((p) => p.x), y: mean((p) => p.y), z: mean((p) => p.z) }
  const second = (of: (p: Vec3) => number): number =>
    each * inside.reduce((sum, { x, y, z }) => sum + of({ x: x - centre.x, y: y - centre.y, z: z - centre.z }), 0)
  const inertia = {
    xx: second(({ y, z }) => y * y + z * z),
    yy: second(({ x, z }) => x * x + z * z),
    zz: second(({ x, y }) => x * x + y * y),
    xy: -second(({ x, y }) => x * y),
    xz: -second(({ x, z }) => x * z),
    yz: -second(({ y, z }) => y * z),
  }
  return { volume: each * inside.length, centre, inertia }
}

test('mass, centre and inertia come from the shapes, with products, and can be given', () => {
  const world = yard({ gravity: ORIGIN })
  const tilted = rotationAbout({ x: 1, y: 2, z: 3 }, 0.7)
  const shapes: Shape3[] = [
    sphere(0.8),
    capsule({ x: -0.6, y: 0.1, z: 0 }, { x: 0.6, y: 0.3, z: 0.2 }, 0.5),
    cylinder(1.4, 0.6),
    cone(1.5, 0.8),
    hull([
      ORIGIN,
      { x: 1, y: 0, z: 0.2 },
      { x: 0, y: 1.2, z: 0 },
      { x: 0.1, y: 0, z: 0.9 },
      { x: 0.9, y: 0.8, z: 0.9 },
    ]),
    compound([
      { shape: box(0.5, 1, 0.8), at: { x: 1, y: 0, z: 0 } },
      { shape: sphere(0.4), at: { x: -0.7, y: 0.5, z: 0.3 } },
    ]),
  ]
  for (const shape of shapes) {
    const found = strewn(world, shape)
    const body = world.add({
      type: 'dynamic',
      colliders: [{ shape, layer: 'crate', density: 3, at: { x: 0.5, y: -1, z: 2 }, rotation: tilted }],
    })
    const { inertia, centre, mass } = body
    // Of several parts the grid of points is coarse.
    const rough = shape.kind === 'compound' ? 0.09 : 0.03
    near(mass, 3 * found.volume, rough * mass, shape.kind)
    const moved = rotated(tilted, found.centre)
    const part = rough * size(shape.bounds.max)
    near(centre.x, 0.5 + moved.x, part)
    near(centre.y, -1 + moved.y, part)
    near(centre.z, 2 + moved.z, part)
    // What turns it about an axis is the same seen from the shape.
    for (const axis of [
      { x: 1, y: 0, z: 0 },
      { x: 0, y: 1, z: 0 },
      { x: 0.6, y: 0, z: 0.8 },
      { x: 0, y: 0.6, z: -0.8 },
    ]) {
      const about = (of: Inertia, { x, y, z }: Vec3): number =>
        of.xx * x * x + of.yy * y * y + of.zz * z * z + 2 * (of.xy * x * y + of.xz * x * z + of.yz * y * z)
      const want = 3 * about(found.inertia, rotated(back(tilted), axis))
      near(about(inertia, axis), want, rough * want, shape.kind)
    }
    body.remove()
  }
  const body = crate(world, ORIGIN, box(1, 2, 3), { density: 2 })
  near(body.mass, 12, 1e-12)
  near(body.inertia.xx, (12 * (4 + 9)) / 12, 1e-12)
  const [own] = body.colliders
  own.sensor = true
  assert.equal(body.mass, 1, 'of shapes that weigh nothing')
  own.sensor = false
  body.mass = 6
  near(body.inertia.zz, (6 * (1 + 4)) / 12, 1e-12)
  body.inertia = { x: 1, y: 2, z: 3 }
  assert.deepEqual(body.inertia, { xx: 1, yy: 2, zz: 3, xy: 0, xz: 0, yz: 0 })
  body.inertia = { xx: 2, yy: 2, zz: 3, xy: 0.5, xz: 0, yz: 0 }
  body.applySpinImpulse({ x: 1, y: 0, z: 0 })
  near(2 * body.spin.x + 0.5 * body.spin.y, 1, 1e-12)
  near(0.5 * body.spin.x + 2 * body.spin.y, 0, 1e-12)
  body.inertia = null
  body.mass = null
  near(body.mass, 12, 1e-12)
  throwsKeen('bad-argument', /of nothing/, () => {
    body.inertia = { xx: 1, yy: 1, zz: 1, xy: 2, xz: 0, yz: 0 }
  })
  throwsKeen('bad-number', /'z' of 'inertia'/, () => {
    body.inertia = { x: 1, y: 1 } as never
  })
})

test('pushes at a point, forces and torques act by mass and inertia; a point has the velocity of the body there', () => {
  const world = yard({ gravity: ORIGIN })
  const rod = crate(world, { x: 0, y: 0, z: 5 }, box(2, 0.2, 0.2))
  rod.applyImpulse({ x: 0, y: 3, z: 0 }, { x: 1, y: 0, z: 5 })
  near(rod.velocity.y, 3 / rod.mass, 1e-12)
  near(rod.spin.z, 3 / rod.inertia.zz, 1e-12)
  near(rod.velocityAt({ x: 1, y: 0, z: 5 }).y, 3 / rod.mass + 3 / rod.inertia.zz, 1e-12)
  const block = crate(world, { x: 9, y: 0, z: 0 }, box(1, 2, 3))
  for (let i = 0; i < 60; i++) {
    block.applyForce({ x: 6, y: 0, z: 0 })
    block.applyForce({ x: 0, y: 0, z: 12 }, { x: 9 + 0, y: 0, z: 0 })
    world.step()
  }
  near(block.velocity.x, 1, 1e-12)
  near(block.velocity.z, 2, 1e-9)
  const wheel = crate(world, { x: -9, y: 0, z: 0 }, cylinder(0.2, 1))
  for (let i = 0; i < 60; i++) {
    wheel.applyTorque({ x: 0, y: 2, z: 0 })
    world.step()
  }
  near(wheel.spin.y, 2 / wheel.inertia.yy, 1e-9)
})

test('a box slides down a slope as friction has it, in any direction, and a held one stands', () => {
  for (const turn of [0, 0.3, 0.785398, 1.2, 2.9]) {
    for (const friction of [0.2, 0.4, 0.8]) {
      const lean = 0.5
      const along = { x: Math.cos(turn), z: Math.sin(turn) }
      const pull = G * Math.sin(lean)
      const world = yard({ gravity: { x: pull * along.x, y: -G * Math.cos(lean), z: pull * along.z } })
      ground(world, { friction })
      const body = crate(world, { x: 0, y: 0.5, z: 0 }, box(1, 1, 1), { friction })
      steps(world, 120)
      const want = Math.max(0, 2 * (pull - friction * G * Math.cos(lean)))
      near(body.velocity.x, want * along.x, 0.01 * want + 1e-9, `${friction}`)
      near(body.velocity.z, want * along.z, 0.01 * want + 1e-9, `${friction}`)
      if (want === 0) assert.ok(size({ ...body.at, y: 0 }) < 1e-3, 'it does not creep')
    }
  }
})

test('what slides comes to rest after v squared over 2 mu g, straight on, whatever the direction', () => {
  for (let turn = 0; turn < 3; turn += 0.4) {
    const world = yard()
    ground(world, { friction: 0.5 })
    const velocity = { x: 6 * Math.cos(turn), y: 0, z: 6 * Math.sin(turn) }
    const body = crate(world, { x: 0, y: 0.15, z: 0 }, box(1, 0.3, 1), { friction: 0.5 }, { velocity })
    steps(world, 120)
    const { x, z } = body.at
    near(Math.hypot(x, z), 36 / (2 * 0.5 * G), 0.02)
    near(x * Math.sin(turn) - z * Math.cos(turn), 0, 0.002, 'beside its line')
  }
})

test('balls roll down at five sevenths, and what slides comes to roll at five sevenths of its speed', () => {
  const lean = 0.3
  const down = yard({ gravity: { x: G * Math.sin(lean), y: -G * Math.cos(lean), z: 0 } })
  ground(down, { friction: 1 })
  const rolling = crate(down, { x: 0, y: 0.5, z: 0 }, sphere(0.5), { friction: 1 })
  const ring = crate(
    down,
    { x: 0, y: 0.5, z: 5 },
    cylinder(1, 0.5),
    { friction: 1 },
    {
      rotation: rotationAbout({ x: 1, y: 0, z: 0 }, Math.PI / 2),
    },
  )
  steps(down, 120)
  near(rolling.velocity.x, (5 / 7) * G * Math.sin(lean) * 2, 0.002)
  near(ring.velocity.x, (2 / 3) * G * Math.sin(lean) * 2, 0.02, 'a cylinder at two thirds')
  near(rolling.spin.z, -rolling.velocity.x / 0.5, 0.002)
  const flat = yard()
  ground(flat, { friction: 0.3 })
  const slid = crate(
    flat,
    { x: 0, y: 0.5, z: 0 },
    sphere(0.5),
    { friction: 0.3 },
    { velocity: { x: 4.2, y: 0, z: -5.6 } },
  )
  steps(flat, 240)
  near(slid.velocity.x, (5 / 7) * 4.2, 0.002)
  near(slid.velocity.z, (-5 / 7) * 5.6, 0.002)
})

test('a disc that lies and spins is stopped by its friction; a ball on one spot takes far longer', () => {
  const world = yard()
  ground(world, { friction: 0.5 })
  const disc = crate(world, { x: 0, y: 0.1, z: 0 }, cylinder(0.2, 1), { friction: 0.5 }, { spin: { x: 0, y: 5, z: 0 } })
  const ball = crate(world, { x: 5, y: 1, z: 0 }, sphere(1), { friction: 0.5 }, { spin: { x: 0, y: 5, z: 0 } })
  let ticks = 0
  while (disc.spin.y > 0.01 && ticks < 200) {
    world.step()
    ticks++
  }
  // Torque two thirds of mu m g R, inertia m R R / 2.
  near(ticks / 60, 5 / ((4 / 3) * 0.5 * G), 0.03)
  near(Math.hypot(disc.at.x, disc.at.z), 0, 0.01, 'it stays where it is')
  assert.ok(ball.spin.y > 4 && ball.spin.y < 5)
  steps(world, 2400)
  assert.equal(ball.spin.y, 0)
})

test('a ball that loses nothing keeps its height over ten bounces; half the speed is a quarter of the height', () => {
  const world = yard()
  ground(world)
  const ball = crate(world, { x: 0, y: 3.5, z: 0 }, sphere(0.5), { restitution: 1 })
  const half = crate(world, { x: 5, y: 3.5, z: 0 }, sphere(0.5), { restitution: 0.5 })
  let highest = 0
  let bounced = 0
  for (let i = 0, falling = true; bounced < 11 && i < 2000; i++) {
    world.step()
    if (falling && ball.velocity.y > 0) bounced++
    falling = ball.velocity.y < 0
    if (bounced === 10) highest = Math.max(highest, ball.at.y)
    if (bounced === 1) assert.ok(half.at.y < 0.5 + 0.25 * 3 * 1.02)
  }
  near(highest, 3.5, 0.06)
})

test('in a free collision momentum is kept to rounding, and energy as the restitution says', () => {
  const random = new Random(5)
  for (let i = 0; i < runs(60); i++) {
    const restitution = i % 3 === 0 ? 1 : random.next()
    const world = yard({ gravity: ORIGIN })
    const at = () => ({ x: 0, y: random.between(-0.3, 0.3), z: random.between(-0.3, 0.3) })
    const surface = { restitution, friction: 0 }
    const one = crate(world, { ...at(), x: -2 }, sphere(0.5), { ...surface, density: random.between(0.5, 5) })
    const two = crate(world, { ...at(), x: 2 }, sphere(0.6), { ...surface, density: random.between(0.5, 5) })
    one.velocity = { x: random.between(2, 9), y: 0, z: 0 }
    two.velocity = { x: random.between(-9, -2), y: random.between(-1, 1), z: 0 }
    const momentum = () => {
      const [a, b] = [one, two].map(({ velocity: v, mass }) => ({ x: v.x * mass, y: v.y * mass, z: v.z * mass }))
      return [a.x + b.x, a.y + b.y, a.z + b.z]
    }
    const before = momentum()
    let closing = 0
    let normal = ORIGIN
    world.watch(one, two, {
      begin(event) {
        closing = event.closingSpeed
        normal = { ...event.normal! }
      },
    })
    steps(world, 100)
    assert.ok(closing > 1)
    const [u, w] = [one.velocity, two.velocity]
    const apart = (w.x - u.x) * normal.x + (w.y - u.y) * normal.y + (w.z - u.z) * normal.z
    // The normal turns a little between the start of the tick and the touch.
    near(apart, restitution * closing, 0.05 * closing)
    for (const [k, sum] of momentum().entries()) near(sum, before[k], 1e-11 * (1 + Math.abs(before[k])))
  }
})

test('struck off its centre, a rod turns and goes as the impulse says', () => {
  for (const sweep of ['statics', 'all']) {
    const world = yard({ gravity: ORIGIN })
    const rod = crate(world, { x: 0, y: 0, z: 0 }, box(0.2, 0.2, 4), { restitution: 1, friction: 0 })
    const ball = crate(
      world,
      { x: -3, y: 0, z: 1 },
      sphere(0.1),
      { restitution: 1, friction: 0 },
      {
        velocity: { x: 10, y: 0, z: 0 },
        mass: 0.05,
        sweep,
      },
    )
    steps(world, 40)
    // One impulse along x at an arm of 1 m: by energy and momentum.
    const inverse = 1 / ball.mass + 1 / rod.mass + 1 / rod.inertia.yy
    const impulse = (2 * 10) / inverse
    near(ball.velocity.x, 10 - impulse / ball.mass, 0.05, sweep)
    near(rod.velocity.x, impulse / rod.mass, 0.02, sweep)
    near(rod.spin.y, impulse / rod.inertia.yy, 0.05, sweep)
  }
})

/** Euler's equations about the principal axes, in small steps of the fourth order. */
function euler(moments: readonly number[], spin: readonly number[], seconds: number): number[] {
  const rate = (w: readonly number[]): number[] => [
    ((moments[1] - moments[2]) / moments[0]) * w[1] * w[2],
    ((moments[2] - moments[0]) / moments[1]) * w[2] * w[0],
    ((moments[0] - moments[1]) / moments[2]) * w[0] * w[1],
  ]
  const h = 1e-4
  let w = [...spin]
  for (let i = 0; i < Math.round(seconds / h); i++) {
    const to = (k: readonly number[], part: number): number[] => w.map((each, axis) => each + part * h * k[axis])
    const k1 = rate(w)
    const k2 = rate(to(k1, 0.5))
    const k3 = rate(to(k2, 0.5))
    const k4 = rate(to(k3, 1))
    w = w.map((each, axis) => each + (h / 6) * (k1[axis] + 2 * k2[axis] + 2 * k3[axis] + k4[axis]))
  }
  return w
}

test('what tumbles freely goes by the equations of Euler, keeps energy and momentum for long, and flips about its middle axis', () => {
  for (const spin of [
    { x: 0.1, y: 3, z: 0.05 },
    { x: 2, y: 1, z: 3 },
    { x: 0.3, y: 0.2, z: 5 },
  ]) {
    const world = yard({ gravity: ORIGIN })
    const body = crate(world, ORIGIN, box(1, 2, 3), {}, { spin, sleeps: false })
    const { xx, yy, zz } = body.inertia
    for (let second = 1; second <= 5; second++) {
      steps(world, 60)
      const own = rotated(back(body.rotation), body.spin)
      const [x, y, z] = euler([xx, yy, zz], [spin.x, spin.y, spin.z], second)
      near(size({ x: own.x - x, y: own.y - y, z: own.z - z }), 0, 0.02 * size(spin), `after ${second} s`)
    }
  }
  const world = yard({ gravity: ORIGIN })
  // The moments of y lie between: it turns over again and again.
  const body = crate(world, ORIGIN, box(1, 2, 3), {}, { spin: { x: 0.01, y: 6, z: 0.01 }, sleeps: false })
  const { xx, yy, zz } = body.inertia
  const measure = () => {
    const w = rotated(back(body.rotation), body.spin)
    const energy = (xx * w.x * w.x + yy * w.y * w.y + zz * w.z * w.z) / 2
    return { energy, momentum: rotated(body.rotation, { x: xx * w.x, y: yy * w.y, z: zz * w.z }), side: w.y }
  }
  const start = measure()
  let flips = 0
  let side = 1
  for (let i = 0; i < 60 * 300; i++) {
    world.step()
    if (i % 5 !== 0) continue
    const now = measure()
    near(now.energy, start.energy, 1e-3 * start.energy)
    for (const axis of ['x', 'y', 'z'] as const)
      near(now.momentum[axis], start.momentum[axis], 1e-9 * size(start.momentum))
    if (Math.sign(now.side) === -side && Math.abs(now.side) > 3) {
      side = -side
      flips++
    }
  }
  assert.ok(flips > 30, `${flips} flips in 5 minutes`)
})

test('a stack of twenty stands, sleeps, and sinks by less than 2 mm a box; a heavy one rests on a light one', () => {
  const world = yard()
  ground(world)
  const stack = Array.from({ length: 20 }, (_, i) =>
    crate(world, { x: 0, y: 0.25 + 0.5 * i, z: 0 }, box(0.5, 0.5, 0.5)),
  )
  const pair = [1, 100, 1].map((mass, i) =>
    crate(world, { x: 5, y: 0.25 + 0.5 * i, z: 0 }, box(0.5, 0.5, 0.5), {}, { mass }),
  )
  const wide = [1, 100].map((mass, i) =>
    crate(
      world,
      { x: 9, y: 0.25 + 0.5 * i, z: 0 },
      i === 0 ? sphere(0.25) : box(2, 0.5, 2),
      {},
      { mass, locks: { turn: true } },
    ),
  )
  steps(world, 600)
  const [top] = stack.slice(-1)
  assert.deepEqual([top.asleep, pair[2].asleep, wide[1].asleep], [true, true, true], 'all sleep')
  assert.ok(top.at.y > 9.75 - 0.04 && top.at.y < 9.75, `${top.at.y}`)
  near(Math.hypot(top.at.x, top.at.z), 0, 0.02)
  for (const [i, { at }] of pair.entries()) near(at.y, 0.25 + 0.5 * i, 0.02)
})

test('a tower of flat slabs that never sleeps comes to stand as good as still', () => {
  const world = yard()
  ground(world)
  const tower = Array.from({ length: 20 }, (_, i) =>
    crate(world, { x: 0, y: 0.2 * (i + 0.5), z: 0 }, box(1, 0.2, 1), {}, { sleeps: false }),
  )
  steps(world, 400)
  for (let tick = 0; tick < 200; tick++) {
    world.step()
    for (const { velocity } of tower) assert.ok(size(velocity) < 0.1, `it trembles at ${size(velocity)} m/s`)
  }
  const [top] = tower.slice(-1)
  near(Math.hypot(top.at.x, top.at.z), 0, 0.02)
})

test('a pyramid that lands is not thrown, and comes to rest whole', () => {
  const world = yard()
  ground(world)
  const rows = 12
  const boxes: Body3[] = []
  for (let row = 0; row < rows; row++) {
    for (let i = 0; i < rows - row; i++) {
      const at = { x: (i - (rows - row - 1) / 2) * 1.1, y: 0.52 + row * 1.02, z: 0 }
      boxes.push(crate(world, at) as unknown as Body3)
    }
  }
  const top = boxes[boxes.length - 1]
  const start = top.at.y
  for (let i = 0; i < 240; i++) {
    world.step()
    assert.ok(top.at.y <= start, 'the top is thrown')
  }
  assert.ok(top.at.y > rows - 0.5 - 0.003 * rows, `it sinks to ${top.at.y}`)
  for (const each of boxes) assert.ok(size(each.velocity) < 0.05 && Math.abs(each.at.z) < 0.01, `${each} moves`)
})

/** Random shapes thrown into a bin of four walls. */
function pile(seed: number, count: number, floor: (world: World) => void) {
  const random = new Random(seed)
  const world = yard()
  floor(world)
  for (const [x, z] of [
    [2.2, 0],
    [-2.2, 0],
    [0, 2.2],
    [0, -2.2],
  ]) {
    const shape = x === 0 ? box(5, 12, 0.4) : box(0.4, 12, 5)
    world.add({ type: 'static', at: { x, y: 5, z }, colliders: [{ shape, layer: 'rock' }] })
  }
  const wedge = hull([
    ORIGIN,
    { x: 0.6, y: 0, z: 0 },
    { x: 0, y: 0.6, z: 0 },
    { x: 0, y: 0, z: 0.6 },
    { x: 0.5, y: 0.5, z: 0.5 },
  ])
  const shapes = [
    box(0.6, 0.5, 0.7),
    sphere(0.3),
    capsule({ x: -0.2, y: 0, z: 0 }, { x: 0.2, y: 0, z: 0 }, 0.2),
    cylinder(0.5, 0.3),
    cone(0.6, 0.35),
    wedge,
  ]
  const bodies = Array.from({ length: count }, (_, i) => {
    const axis = { x: random.between(-1, 1), y: random.between(-1, 1), z: random.between(-1, 1) + 1.1 }
    const at = { x: random.between(-1.5, 1.5), y: 0.8 + i * 0.15, z: random.between(-1.5, 1.5) }
    const more = { friction: random.between(0.3, 1), restitution: random.next() / 2 }
    return crate(world, at, shapes[i % shapes.length], more, { rotation: rotationAbout(axis, random.between(0, 6)) })
  })
  return { world, bodies }
}

const FLOORS: readonly ((world: World) => void)[] = [
  (world) => ground(world),
  (world) =>
    world.add({ type: 'static', at: { x: 0, y: -1, z: 0 }, colliders: [{ shape: box(20, 2, 20), layer: 'rock' }] }),
  (world) => {
    const heights = Array.from({ length: 121 }, (_, i) => 0.1 * Math.sin(i) * Math.cos(i / 7))
    const shape = heightfield({ columns: 11, rows: 11, heights, cell: 0.7 })
    world.add({ type: 'static', colliders: [{ shape, layer: 'rock' }] })
  },
]

test('random piles stay whole: no wild number, nothing sinks or leaves, what energy a tick adds is small', () => {
  let asleep = 0
  FLOORS.forEach((floor, which) => {
    const { world, bodies } = pile(which + 1, 40, floor)
    const energyOf = (each: (typeof bodies)[number]): number => {
      const w = rotated(back(each.rotation), each.spin)
      const { xx, yy, zz, xy, xz, yz } = each.inertia
      const turning =
        xx * w.x ** 2 + yy * w.y ** 2 + zz * w.z ** 2 + 2 * (xy * w.x * w.y + xz * w.x * w.z + yz * w.y * w.z)
      return each.mass * (G * each.centre.y + size(each.velocity) ** 2 / 2) + turning / 2
    }
    const sum = (): number => bodies.reduce((all, each) => all + energyOf(each), 0)
    const first = sum()
    let grown = 0
    let before = first
    for (let i = 0; i < 1000; i++) {
      world.step()
      const now = sum()
      if (now > before + 1e-3) grown += now - before
      before = now
    }
    assert.ok(grown < 0.02 * (first - before), `energy grew by ${grown} of ${first - before} on floor ${which}`)
    for (const each of bodies) {
      const { x, y, z } = each.at
      assert.ok(Number.isFinite(x + y + z + size(each.spin)))
      assert.ok(y > -0.1 && Math.abs(x) < 2.2 && Math.abs(z) < 2.2, `${each} is at ${x} ${y} ${z} on floor ${which}`)
    }
    asleep += bodies.filter((each) => each.asleep).length
  })
  // One that rolls on keeps its whole pile awake.
  assert.ok(asleep > 0.5 * 40 * FLOORS.length, `${asleep} sleep`)
})

test('two runs give the same bits', () => {
  const [one, two] = [0, 1].map(() => {
    const { world, bodies } = pile(9, 24, FLOORS[2])
    steps(world, 150)
    return bodies.map(({ at, rotation, velocity, spin }) => ({ at, rotation, velocity, spin }))
  })
  assert.deepEqual(one, two)
})

/** Thin things that stand in the plane x = 0, as wide as a house. */
function walls(): Shape3[] {
  const corners = [0, -9, -9, 0, 9, -9, 0, 9, 9, 0, -9, 9]
  const many: number[] = []
  const indices: number[] = []
  for (let i = 0; i <= 9; i++) for (let k = 0; k <= 9; k++) many.push(0, 2 * i - 9, 2 * k - 9)
  for (let i = 0; i < 9; i++) {
    for (let k = 0; k < 9; k++)
      indices.push(10 * i + k, 10 * i + k + 1, 10 * i + k + 10, 10 * i + k + 10, 10 * i + k + 1, 10 * i + k + 11)
  }
  return [
    box(0.01, 18, 18),
    mesh({ positions: corners, indices: [0, 1, 2, 0, 2, 3] }),
    mesh({ positions: many, indices }),
  ]
}

test('a shot never goes through a thin wall, whatever its speed, shape and angle', () => {
  const random = new Random(3)
  const shots: Shape3[] = [
    sphere(0.1),
    box(0.3, 0.1, 0.2),
    capsule({ x: -0.2, y: 0, z: 0 }, { x: 0.2, y: 0, z: 0 }, 0.05),
    cylinder(0.3, 0.1),
    hull([
      { x: 0.2, y: 0, z: 0 },
      { x: -0.1, y: 0.1, z: 0 },
      { x: -0.1, y: -0.1, z: 0.1 },
      { x: -0.1, y: 0, z: -0.1 },
    ]),
  ]
  for (const wall of walls()) {
    for (let i = 0; i < runs(60); i++) {
      const world = yard({ gravity: ORIGIN })
      world.add({ type: 'static', colliders: [{ shape: wall, layer: 'rock' }] })
      const speed = random.pick([20, 200, 1000, 9000])
      const y = random.between(-4, 4)
      const z = random.between(-4, 4)
      const at = { x: -random.between(0.5, 30), y, z }
      const to = { x: -at.x, y: random.between(-4, 4) - y, z: random.between(-4, 4) - z }
      const way = size(to)
      const velocity = { x: (to.x / way) * speed, y: (to.y / way) * speed, z: (to.z / way) * speed }
      const axis = { x: random.between(-1, 1), y: random.between(-1, 1), z: random.between(-1, 1) + 1.1 }
      const body = crate(
        world,
        at,
        random.pick(shots),
        { restitution: random.pick([0, 0.5, 1]) },
        {
          velocity,
          rotation: rotationAbout(axis, 3),
          spin: random.chance(0.5) ? ORIGIN : { x: 20, y: random.between(-30, 30), z: 9 },
        },
      )
      let met = false
      world.watch(body, '*', { begin: () => (met = true) })
      for (let tick = 0; tick < 1 + (2 * way) / (speed / 60) && tick < 200; tick++) {
        world.step()
        // It may slide off beyond the wall's end.
        const { x, y: up, z: aside } = body.at
        const beside = Math.max(Math.abs(up), Math.abs(aside)) > 8.5
        assert.ok(
          x < 0.2 || beside,
          `${wall.kind} ${i}: ${body.colliders[0].shape.kind} at ${speed} m/s went through, to ${x}`,
        )
      }
      assert.ok(met, `${wall.kind} ${i}: it struck the wall, from ${JSON.stringify(at)} at ${speed}`)
    }
  }
})

test('a body in a closed room of triangles never leaves it', () => {
  const p = [-2, -2, -2, 2, -2, -2, 2, 2, -2, -2, 2, -2, -2, -2, 2, 2, -2, 2, 2, 2, 2, -2, 2, 2]
  const i = [0, 1, 2, 0, 2, 3, 4, 6, 5, 4, 7, 6, 0, 4, 5, 0, 5, 1, 1, 5, 6, 1, 6, 2, 2, 6, 7, 2, 7, 3, 3, 7, 4, 3, 4, 0]
  const random = new Random(8)
  for (const sides of ['both', 'front'] as const) {
    const world = yard()
    const room = mesh({ positions: p, indices: i, sides })
    assert.ok(room.closed)
    world.add({ type: 'static', colliders: [{ shape: room, layer: 'rock', restitution: 0.9 }] })
    const bodies = [
      sphere(0.3),
      box(0.5, 0.4, 0.6),
      capsule({ x: -0.3, y: 0, z: 0 }, { x: 0.3, y: 0, z: 0 }, 0.2),
      cone(0.6, 0.3),
    ].map((shape, n) => crate(world, { x: n - 1.5, y: 0, z: 0 }, shape, { restitution: 0.9 }))
    for (let tick = 0; tick < 400; tick++) {
      for (const body of bodies) {
        if (tick % 40 === 0) {
          const speed = random.pick([5, 50, 900])
          body.velocity = {
            x: random.between(-speed, speed),
            y: random.between(-speed, speed),
            z: random.between(-speed, speed),
          }
          body.spin = { x: random.between(-30, 30), y: random.between(-30, 30), z: random.between(-30, 30) }
        }
      }
      world.step()
      for (const { at, colliders } of bodies) {
        const most = Math.max(Math.abs(at.x), Math.abs(at.y), Math.abs(at.z))
        assert.ok(most < 2, `${colliders[0].shape.kind} is at ${at.x} ${at.y} ${at.z} in tick ${tick}, ${sides}`)
      }
    }
  }
})

test('plates, planks and bars that fall on rough ground come to rest on it, none within it and none below', () => {
  for (const [seed, kind, height] of [
    [1, 'mesh', 0.15],
    [2, 'field', 0.05],
  ] as const) {
    const random = new Random(seed)
    const world = yard()
    // Half a metre a cell, with a rim that nothing leaves.
    const count = 37
    const heights = Array.from({ length: count * count }, (_, i) => {
      const [row, column] = [Math.floor(i / count), i % count]
      const isRim = Math.min(row, column, count - 1 - row, count - 1 - column) < 3
      return random.between(0, height) + (isRim ? 3 : 0)
    })
    const field = heightfield({ columns: count, rows: count, heights, cell: 0.5 })
    const positions = heights.flatMap((y, i) => [((i % count) - 18) * 0.5, y, (Math.floor(i / count) - 18) * 0.5])
    const indices = Array.from({ length: (count - 1) ** 2 }, (_, i) => {
      const at = Math.floor(i / (count - 1)) * count + (i % (count - 1))
      return [at, at + count, at + 1, at + 1, at + count, at + count + 1]
    })
    const rough = kind === 'field' ? field : mesh({ positions, indices: indices.flat() })
    world.add({ type: 'static', colliders: [{ shape: rough, layer: 'rock' }] })
    const bodies = Array.from({ length: 12 }, (_, i) => {
      const [long, thin] = [random.between(0.4, 1), random.between(0.06, 0.1)]
      const shape = i % 3 === 0 ? box(long, thin, long) : i % 3 === 1 ? box(long, thin, 0.3) : cylinder(long, 0.05)
      const place = { x: random.between(-5, 5), y: random.between(2, 5), z: random.between(-5, 5) }
      const body = crate(world, place, shape, {})
      const way = { x: random.next(), y: random.next(), z: random.next() + 0.1 }
      body.teleport({ at: place, rotation: rotationAbout(way, random.between(0, 6)) })
      body.velocity = { x: random.between(-4, 4), y: random.between(-10, 0), z: random.between(-4, 4) }
      body.spin = { x: random.between(-9, 9), y: random.between(-9, 9), z: random.between(-9, 9) }
      body.spinDamping = 0.5
      return body
    })
    for (let tick = 0; tick < 420; tick++) world.step()
    for (const [i, body] of bodies.entries()) {
      const said = `${kind} ${seed}, body ${i}, at ${body.at.x} ${body.at.y} ${body.at.z}`
      assert.ok(body.at.y > -0.01, `${said}: below the ground`)
      const { velocity: v } = body
      assert.ok(Math.hypot(v.x, v.y, v.z) < 0.5, `${said}: as fast as ${Math.hypot(v.x, v.y, v.z)}`)
      const [{ shape }] = body.colliders
      const asked = { shape: shape as AskingShape3, at: body.at, rotation: body.rotation, depth: true } as const
      for (const { depth } of world.overlap.all(asked, { except: body })) {
        assert.ok(depth < 0.02, `${said}: ${depth} deep`)
      }
    }
  }
})

/** A floor at the height 0 from x = -4 on, of pieces of a metre along x. */
const SEAMED: readonly [string, (world: World) => void][] = [
  [
    'boxes',
    (world) => {
      for (let i = 0; i < 30; i++)
        world.add({
          type: 'static',
          at: { x: i - 4, y: -0.5, z: 0 },
          colliders: [{ shape: box(1, 1, 6), layer: 'rock', friction: 0 }],
        })
    },
  ],
  [
    'one body of boxes',
    (world) => {
      const colliders = Array.from({ length: 30 }, (_, i) => ({
        shape: box(1, 1, 6),
        at: { x: i - 4, y: -0.5, z: 0 },
        layer: 'rock' as Layer,
        friction: 0,
      }))
      world.add({ type: 'static', colliders })
    },
  ],
  [
    'a mesh',
    (world) => {
      const positions: number[] = []
      const indices: number[] = []
      for (let i = 0; i <= 30; i++) for (let k = 0; k <= 6; k++) positions.push(i - 4.5, 0, k - 3)
      for (let i = 0; i < 30; i++) {
        for (let k = 0; k < 6; k++) {
          const a = 7 * i + k
          indices.push(a, a + 1, a + 7, a + 7, a + 1, a + 8)
        }
      }
      world.add({ type: 'static', colliders: [{ shape: mesh({ positions, indices }), layer: 'rock', friction: 0 }] })
    },
  ],
  [
    'a heightfield',
    (world) => {
      const shape = heightfield({ columns: 31, rows: 7, heights: new Array(31 * 7).fill(0), cell: 1 })
      world.add({ type: 'static', at: { x: 10.5, y: 0, z: 0 }, colliders: [{ shape, layer: 'rock', friction: 0 }] })
    },
  ],
  [
    'boxes and hulls by turns',
    (world) => {
      for (let i = 0; i < 30; i++) {
        const corners = [-0.5, 0.5].flatMap((x) => [-1, 0].flatMap((y) => [-3, 3].map((z) => ({ x, y, z }))))
        const shape = i % 2 === 0 ? hull(corners) : box(1, 1, 6)
        world.add({
          type: 'static',
          at: { x: i - 4, y: i % 2 === 0 ? 0 : -0.5, z: 0 },
          colliders: [{ shape, layer: 'rock', friction: 0 }],
        })
      }
    },
  ],
]

test('what slides or rolls over flush pieces goes on as over one, and no impact is told', () => {
  const sliders: Shape3[] = [
    sphere(0.25),
    box(0.5, 0.5, 0.5),
    capsule({ x: 0, y: 0, z: -0.3 }, { x: 0, y: 0, z: 0.3 }, 0.25),
    cylinder(0.5, 0.4),
  ]
  for (const [name, floor] of SEAMED) {
    for (const shape of sliders) {
      for (const speed of [1, 6, 40]) {
        const world = yard()
        floor(world)
        const half = 0.25
        const body = crate(
          world,
          { x: -3.7, y: half, z: 0.13 },
          shape,
          { friction: 0 },
          { velocity: { x: speed, y: 0, z: 0.05 }, sleeps: false },
        )
        let struck = 0
        steps(world, 2)
        world.watch(body, 'rock', { impact: () => struck++ }, { over: { speed: 0.2 } })
        const what = `${shape.kind} over ${name} at ${speed} m/s`
        for (let i = 0; i < 60 && body.at.x < 18; i++) {
          world.step()
          near(body.at.y, half, 0.002, what)
        }
        near(body.velocity.x, speed, 0.001 * speed, what)
        assert.equal(struck, 0, what)
      }
    }
  }
})

test('a step of five millimetres trips a box, and a wall that rises from the floor stops it', () => {
  for (const [rise, stops] of [
    [0.0002, false],
    [0.005, true],
    [2, true],
  ] as const) {
    const world = yard()
    for (let i = 0; i < 6; i++) {
      const y = i < 3 ? -2 : rise - 2
      world.add({
        type: 'static',
        at: { x: 2 * i, y, z: 0 },
        colliders: [{ shape: box(2, 4, 6), layer: 'rock', friction: 0 }],
      })
    }
    const body = crate(
      world,
      { x: 1, y: 0.25, z: 0 },
      box(0.5, 0.5, 0.5),
      { friction: 0 },
      { velocity: { x: 3, y: 0, z: 0 }, locks: { turn: true } },
    )
    steps(world, 120)
    assert.equal(body.at.x < 4.8, stops, `a step of ${rise} m: it is at ${body.at.x}`)
  }
})

test('what sleeps wakes when it is struck, pushed, turned loose, or loses what it stands on', () => {
  const world = yard()
  const floor = ground(world)
  const low = crate(world, { x: 0, y: 0.5, z: 0 })
  const high = crate(world, { x: 0, y: 1.5, z: 0 })
  const alone = crate(world, { x: 5, y: 0.5, z: 0 })
  steps(world, 120)
  assert.ok(low.asleep && high.asleep && alone.asleep)
  const still = { ...high.at }
  steps(world, 30)
  assert.deepEqual(high.at, still, 'nothing of it moves')
  high.applyImpulse({ x: 0.1, y: 0, z: 0 })
  assert.ok(!low.asleep && !high.asleep && alone.asleep, 'its island wakes, no other')
  steps(world, 120)
  assert.ok(low.asleep)
  low.remove()
  steps(world, 60)
  near(high.at.y, 0.5, 0.01, 'it fell')
  crate(world, { x: 5, y: 4, z: 0 }, sphere(0.3))
  steps(world, 60)
  assert.ok(!alone.asleep, 'struck')
  world.gravity = { x: 0, y: 0, z: 5 }
  assert.ok(!high.asleep)
  steps(world, 30)
  assert.ok(high.velocity.z > 1)
  floor.remove()
})

test('a belt carries in any direction, a one-way floor lets up and holds from above, and a hook changes the surface', () => {
  const world = yard()
  ground(world, { surfaceVelocity: { x: 1.5, y: 0, z: -2 } })
  const body = crate(world, { x: 0, y: 0.5, z: 0 })
  steps(world, 120)
  near(body.velocity.x, 1.5, 0.01)
  near(body.velocity.z, -2, 0.01)
  assert.ok(size(body.spin) < 0.01, 'it is not turned')

  const ledge = yard()
  ledge.add({
    type: 'static',
    at: { x: 0, y: 3, z: 0 },
    colliders: [{ shape: box(9, 0.2, 9), layer: 'rock', oneWay: { x: 0, y: 1, z: 0 } }],
  })
  const jumper = crate(ledge, { x: 0, y: 1, z: 0 }, sphere(0.3), {}, { velocity: { x: 0, y: 9, z: 0 } })
  const faller = crate(ledge, { x: 3, y: 6, z: 0 }, sphere(0.3))
  steps(ledge, 180)
  near(jumper.at.y, 3.4, 0.01)
  near(faller.at.y, 3.4, 0.01)

  const hooked = yard()
  const floor = ground(hooked, { friction: 1 })
  const told: Vec3[] = []
  hooked.decide('crate', 'rock', (pair) => {
    told.push(pair.surfaceVelocity)
    pair.friction = 0.8
    pair.surfaceVelocity = { x: 0, y: 0, z: 3 }
    return 'solid'
  })
  const carried = crate(hooked, { x: 0, y: 0.5, z: 0 })
  steps(hooked, 90)
  assert.deepEqual(told[0], ORIGIN)
  near(carried.velocity.z, 3, 0.02)
  assert.ok(floor.alive)
})

test('gravity scaled, damping, locks and types do what they say', () => {
  const world = yard()
  const half = crate(world, ORIGIN, sphere(0.5), {}, { gravityScale: 0.5 })
  const slow = crate(
    world,
    { x: 3, y: 0, z: 0 },
    sphere(0.5),
    {},
    { gravityScale: 0, damping: 1, spinDamping: 2, velocity: { x: 0, y: 0, z: 1 }, spin: { x: 0, y: 1, z: 0 } },
  )
  steps(world, 60)
  near(half.velocity.y, -G / 2, 1e-9)
  near(slow.velocity.z, Math.exp(-1), 0.005)
  near(slow.spin.y, Math.exp(-2), 0.005)
  const rail = crate(
    world,
    { x: 6, y: 0, z: 0 },
    box(1, 2, 3),
    {},
    { locks: { y: true, turn: { x: true, z: true } }, velocity: { x: 1, y: 5, z: 0 }, spin: { x: 1, y: 2, z: 3 } },
  )
  assert.deepEqual(rail.locks, { x: false, y: true, z: false, turn: { x: true, y: false, z: true } })
  assert.deepEqual({ ...rail.velocity }, { x: 1, y: 0, z: 0 })
  rail.applyImpulse({ x: 0, y: 9, z: 1 }, { x: 7, y: 1, z: 1 })
  steps(world, 30)
  near(rail.at.y, 0, 1e-12)
  assert.ok(rail.spin.x === 0 && rail.spin.z === 0 && rail.spin.y !== 0)
  rail.type = 'kinematic'
  assert.equal(rail.mass, 0)
  throwsKeen('bad-argument', /is kinematic; only a dynamic body/, () => rail.applyForce(ORIGIN))
  rail.type = 'dynamic'
  near(rail.mass, 6, 1e-12)
  const soup = mesh({ positions: [-1, 0, -1, 1, 0, -1, 0, 0, 1] })
  throwsKeen('bad-shape', /hull\(\) of their points/, () => crate(world, ORIGIN, soup))
  const sheet = world.add({ type: 'static', colliders: [{ shape: soup, layer: 'rock' }] })
  throwsKeen('bad-shape', /hull\(\)/, () => {
    sheet.type = 'dynamic'
  })
  assert.equal(sheet.type, 'static')
  throwsKeen('bad-argument', /'mass' of a body is for dynamic bodies/, () => world.add({ type: 'kinematic', mass: 1 }))
})

test('a kinematic platform carries, pushes and turns what lies on it', () => {
  const world = yard()
  const lift = world.add({
    type: 'kinematic',
    velocity: { x: 1, y: 0.5, z: 0 },
    colliders: [{ shape: box(6, 0.4, 6), layer: 'rock', friction: 1 }],
  })
  const rider = crate(world, { x: 0, y: 0.7, z: 0 }, box(1, 1, 1), { friction: 1 })
  steps(world, 120)
  near(rider.velocity.x, 1, 0.01)
  near(rider.at.y - lift.at.y, 0.7, 0.01)
  lift.velocity = ORIGIN
  lift.spin = { x: 0, y: 0.5, z: 0 }
  steps(world, 60)
  near(rider.spin.y, 0.5, 0.03)
  const ram = yard({ gravity: ORIGIN })
  const wall = ram.add({
    type: 'kinematic',
    at: { x: -50, y: 0, z: 0 },
    colliders: [{ shape: box(1, 4, 4), layer: 'rock' }],
  })
  const ball = crate(ram, ORIGIN, sphere(0.3))
  wall.arriveAt({ x: 20, y: 0, z: 0 })
  ram.step()
  assert.ok(ball.at.x > 20, `taken along, not passed: it is at ${ball.at.x}`)
})

test('a pair that rests is told once, with the weight as its impulse and points that share it, and lasts through sleep', () => {
  const world = yard()
  ground(world)
  const body = crate(world, { x: 0, y: 0.5, z: 0 }, box(1, 1, 1), { density: 4 })
  const told: string[] = []
  world.watch(body, 'rock', { begin: () => told.push('begin'), end: () => told.push('end') })
  steps(world, 60)
  const [touch] = body.touching()
  near(touch.impulse, (4 * G) / 60, 1e-6)
  near(touch.normal.y, 1, 1e-12)
  let sum = 0
  world.watch(body, 'rock', {
    during({ points, impulse, normal }) {
      assert.equal(points.length, 4)
      sum = points.reduce((all, point) => all + point.impulse, 0)
      near(sum, impulse, 1e-9)
      near(normal!.y, -1, 1e-12)
    },
  })
  steps(world, 3)
  assert.ok(sum > 0)
  steps(world, 100)
  assert.ok(body.asleep)
  assert.deepEqual(told, ['begin'])
  near(body.touching()[0].impulse, (4 * G) / 60, 1e-6)
})

test('a fast bounce within one tick is told as one, with time, impulse and points', () => {
  const world = yard({ gravity: ORIGIN, rate: 60 })
  world.add({
    type: 'static',
    name: 'wall',
    at: { x: 5, y: 0, z: 0 },
    colliders: [{ shape: box(1, 9, 9), layer: 'rock' }],
  })
  const shot = crate(world, ORIGIN, sphere(0.25), { restitution: 1, friction: 0 }, { velocity: { x: 600, y: 0, z: 0 } })
  const told: { kind: string; cause: string; when: number; impulse: number; speed: number; x: number }[] = []
  const note = (e: {
    kind: string
    cause: string
    when: number
    impulse: number
    closingSpeed: number
    points: readonly Vec3[]
  }) =>
    told.push({
      kind: e.kind,
      cause: e.cause,
      when: e.when,
      impulse: e.impulse,
      speed: e.closingSpeed,
      x: e.points[0]?.x,
    })
  world.watch(shot, 'rock', { begin: note, end: note })
  world.step()
  assert.deepEqual(
    told.map(({ kind, cause }) => [kind, cause]),
    [
      ['begin', 'bounced'],
      ['end', 'bounced'],
    ],
  )
  near(told[0].when, 4.25 / 10, 0.001)
  near(told[0].impulse, 2 * 600 * shot.mass, 1)
  near(told[0].speed, 600, 1e-6)
  near(told[0].x, 4.5, 0.001)
  near(shot.velocity.x, -600, 1e-6)
  near(shot.at.x, 4.25 - (1 - told[0].when) * 10, 0.01)
})
