/** Joints in both dimensions, against closed forms; in 3D in the plane z = 0. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import type { Body2, Joint2, JointSpec2 } from '../../src/2d/index.ts'
import { defineLayers } from '../../src/core/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { Random } from '../helpers/random.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'crate'])
const G = 10

for (const { name, createWorld, box, circle, at, turned, spin, about, wheel } of DIMENSIONS) {
  const ORIGIN = at(0, 0)
  const room = (gravity = -G) => createWorld({ layers, gravity: at(0, gravity) })
  type World = ReturnType<typeof room>
  /** A small ball of a mass, that hardly minds being turned. */
  const bob = (world: World, x: number, y: number, mass = 1): Body2 => {
    const inertia = (name === '2D' ? 1e-9 : { x: 1e-9, y: 1e-9, z: 1e-9 }) as number
    return world.add({
      type: 'dynamic',
      at: at(x, y),
      mass,
      inertia,
      sleeps: false,
      colliders: [{ shape: circle(0.02), layer: 'crate' }],
    }) as Body2
  }
  const plank = (world: World, x: number, y: number, width = 0.2, height = 0.05, mass = 1): Body2 =>
    world.add({
      type: 'dynamic',
      at: at(x, y),
      mass,
      colliders: [{ shape: box(width, height), layer: 'crate' }],
    }) as Body2
  const hinge = (world: World, spec: object): Joint2 =>
    world.join({ type: 'hinge', ...spec, ...about } as JointSpec2) as Joint2
  const join = (world: World, spec: JointSpec2): Joint2 => world.join(spec) as Joint2
  const run = (world: World, ticks: number): void => {
    for (let i = 0; i < ticks; i++) world.step()
  }
  const speedOf = ({ velocity: { x, y } }: Body2): number => Math.hypot(x, y)
  const near = (found: number, wanted: number, within: number, what: string): void =>
    assert.ok(Math.abs(found - wanted) <= within, `${what}: ${found} instead of ${wanted}`)

  test(`${name}: a pendulum swings in its time, at a small and a large angle, and its rod keeps its length`, () => {
    for (const most of [0.05, 1.5, 2.8]) {
      const world = room()
      const ball = bob(world, Math.sin(most), -Math.cos(most))
      const rod = join(world, { type: 'distance', a: ball, atB: ORIGIN })
      const crossings: number[] = []
      let longest = 0
      let before = ball.at.x
      for (let tick = 0; tick < 1200; tick++) {
        world.step()
        const { x } = ball.at
        if (before < 0 && x >= 0) crossings.push((tick - before / (x - before)) / 60)
        before = x
        longest = Math.max(longest, Math.abs(rod.distance - 1))
      }
      // The arithmetic and geometric mean give the exact time.
      let [a, b] = [1, Math.cos(most / 2)]
      for (let i = 0; i < 20; i++) [a, b] = [(a + b) / 2, Math.sqrt(a * b)]
      const exact = (2 * Math.PI) / Math.sqrt(G) / a
      const found = (crossings[crossings.length - 1] - crossings[0]) / (crossings.length - 1)
      near(found, exact, exact * 1e-3, `time of a swing at ${most}`)
      assert.ok(longest < 1e-4, `the rod is off by ${longest}`)
    }
  })

  test(`${name}: a double pendulum keeps to a high-order integration for two seconds`, () => {
    const world = room()
    const upper = bob(world, 1, 0)
    const lower = bob(world, 2, 0)
    join(world, { type: 'distance', a: upper, atB: ORIGIN })
    join(world, { type: 'distance', a: upper, b: lower })
    const slope = ([p, q, u, v]: readonly number[]): number[] => {
      const d = p - q
      const whole = 3 - Math.cos(2 * d)
      const one = -3 * G * Math.sin(p) - G * Math.sin(p - 2 * q) - 2 * Math.sin(d) * (v * v + u * u * Math.cos(d))
      const two = 2 * Math.sin(d) * (2 * u * u + 2 * G * Math.cos(p) + v * v * Math.cos(d))
      return [u, v, one / whole, two / whole]
    }
    const step = (s: readonly number[], k: readonly number[], h: number): number[] =>
      s.map((each, i) => each + h * k[i])
    let state: number[] = [Math.PI / 2, Math.PI / 2, 0, 0]
    const h = 1 / 6000
    let worst = 0
    for (let tick = 0; tick < 120; tick++) {
      world.step()
      for (let i = 0; i < 100; i++) {
        const one = slope(state)
        const two = slope(step(state, one, h / 2))
        const three = slope(step(state, two, h / 2))
        const four = slope(step(state, three, h))
        state = state.map((each, k) => each + (h / 6) * (one[k] + 2 * two[k] + 2 * three[k] + four[k]))
      }
      const [p, q] = state
      worst = Math.max(
        worst,
        Math.hypot(Math.sin(p) + Math.sin(q) - lower.at.x, -Math.cos(p) - Math.cos(q) - lower.at.y),
      )
    }
    assert.ok(worst < 0.03, `off by ${worst} m`)
  })

  test(`${name}: a spring swings at its frequency and dies down by its damping, whatever the mass and the rate`, () => {
    for (const [frequency, damping, mass] of [
      [1, 0.1, 1],
      [2, 0.1, 300],
      [2, 1, 0.01],
      [3, 0.3, 5],
    ]) {
      for (const rate of [60, 120]) {
        const world = createWorld({ layers, gravity: ORIGIN, rate })
        const ball = bob(world, 2, 0, mass)
        const spring = join(world, { type: 'spring', a: ball, atB: ORIGIN, length: 1.5, frequency, damping })
        const omega = 2 * Math.PI * frequency
        const turns = omega * Math.sqrt(1 - damping * damping)
        let worst = 0
        for (let tick = 1; tick <= 2 * rate; tick++) {
          world.step()
          const t = tick / rate
          const swing =
            damping < 1 ? Math.cos(turns * t) + ((damping * omega) / turns) * Math.sin(turns * t) : 1 + omega * t
          const exact = 1.5 + 0.5 * Math.exp(-damping * omega * t) * swing
          worst = Math.max(worst, Math.abs(spring.distance - exact))
        }
        assert.ok(worst < 0.02, `${frequency} Hz, damping ${damping}, rate ${rate}: off by ${worst} m of 0.5`)
      }
    }
  })

  test(`${name}: what hangs on a spring hangs m g / k below, and pulls with its weight`, () => {
    const world = room()
    const ball = bob(world, 0, -1, 7)
    const spring = join(world, { type: 'spring', a: ball, atB: ORIGIN, length: 1, frequency: 1.5, damping: 1 })
    run(world, 400)
    near(spring.distance - 1, G / (2 * Math.PI * 1.5) ** 2, 1e-6, 'it hangs lower by')
    near(spring.force, 7 * G, 1e-3, 'it bears')
    // Stiffer, while it hangs: it wakes, and hangs higher.
    spring.frequency = 3
    run(world, 400)
    near(spring.distance - 1, G / (2 * Math.PI * 3) ** 2, 1e-6, 'then by')
  })

  test(`${name}: a chain of a hundred links hangs still, its top bears all of it, and it falls asleep`, () => {
    const world = room()
    const links: Body2[] = []
    const joints: Joint2[] = []
    for (let i = 0; i < 100; i++) {
      const link = plank(world, 0, -0.1 - 0.2 * i, 0.05, 0.2)
      joints.push(hinge(world, i === 0 ? { a: link, at: ORIGIN } : { a: links[i - 1], b: link, at: at(0, -0.2 * i) }))
      links.push(link)
    }
    run(world, 60)
    for (const [i, joint] of joints.entries()) near(joint.force, (100 - i) * G, 0.1, `joint ${i} bears`)
    assert.ok(
      links.every((link) => link.asleep),
      'all of it sleeps',
    )
    near(links[99].at.y, -19.9, 1e-6, 'its end is at')
    // One link is pushed: all of it wakes.
    links[60].applyImpulse(at(2, 0))
    assert.ok(
      links.every((link) => !link.asleep),
      'all of it is awake',
    )
    run(world, 60)
    const gap = Math.max(...joints.map((joint) => joint.distance))
    assert.ok(gap < 1e-3, `a hinge is off by ${gap} m`)
  })

  test(`${name}: twenty links with a hundred times a link's mass at their end stretch by less than a hundredth as they swing`, () => {
    const world = room()
    let last: Body2 | null = null
    for (let i = 0; i < 20; i++) {
      const link = plank(world, 0, -0.1 - 0.2 * i, 0.05, 0.2)
      hinge(world, last === null ? { a: link, at: ORIGIN } : { a: last, b: link, at: at(0, -0.2 * i) })
      last = link
    }
    const load = plank(world, 0, -4.3, 0.6, 0.6, 100)
    hinge(world, { a: last!, b: load, at: at(0, -4) })
    load.applyImpulse(at(300, 0))
    let most = 0
    for (let tick = 0; tick < 600; tick++) {
      world.step()
      most = Math.max(most, Math.hypot(load.at.x, load.at.y))
    }
    assert.ok(most < 4.3 * 1.001, `it comes as far as ${most} m`)
  })

  test(`${name}: a chain between two points hangs as a catenary does, and pulls at its ends as that does`, () => {
    const world = room()
    const [count, length, span] = [40, 0.2, 4.6]
    const half = (count * length) / 2
    const depth = Math.sqrt(half * half - (span / 2) ** 2)
    const along = (s: number): [number, number] =>
      s <= half
        ? [(span / 2) * (s / half), -depth * (s / half)]
        : [span - along(2 * half - s)[0], along(2 * half - s)[1]]
    const ends: Joint2[] = []
    let last: Body2 | null = null
    for (let i = 0; i < count; i++) {
      const [x0, y0] = along(i * length)
      const [x1, y1] = along((i + 1) * length)
      const link = world.add({
        type: 'dynamic',
        ...turned((x0 + x1) / 2, (y0 + y1) / 2, Math.atan2(y1 - y0, x1 - x0)),
        mass: 1,
        damping: 1,
        spinDamping: 1,
        colliders: [{ shape: box(length, 0.04), layer: 'crate' }],
      }) as Body2
      const joint = hinge(world, last === null ? { a: link, at: at(x0, y0) } : { a: last, b: link, at: at(x0, y0) })
      if (i === 0) ends.push(joint)
      last = link
    }
    ends.push(hinge(world, { a: last!, at: at(span, 0) }))
    run(world, 600)
    let a = 1.5
    for (let i = 0; i < 100; i++) {
      const off = 2 * a * Math.sinh(span / (2 * a)) - count * length
      a -= off / (2 * Math.sinh(span / (2 * a)) - (span / a) * Math.cosh(span / (2 * a)))
    }
    const pull = (G / length) * a * Math.cosh(span / (2 * a))
    for (const end of ends) near(end.force, pull, pull * 0.015, 'an end pulls')
    const lowest = Math.min(...world.bodies().map((body) => body.at.y))
    near(lowest, a - a * Math.cosh(span / (2 * a)), 0.03, 'it hangs down to')
  })

  test(`${name}: a net of rods hangs together`, () => {
    const world = room()
    const rows: Body2[][] = []
    for (let x = 0; x < 8; x++) {
      rows.push([])
      for (let y = 0; y < 8; y++) {
        const knot = bob(world, 0.2 * x, -0.2 * y, 0.1)
        rows[x].push(knot)
        if (y === 0 && (x === 0 || x === 7)) join(world, { type: 'distance', a: knot, atB: at(0.2 * x, 0.2) })
        if (y > 0) join(world, { type: 'distance', a: rows[x][y - 1], b: knot })
        if (x > 0) join(world, { type: 'distance', a: rows[x - 1][y], b: knot })
      }
    }
    let worst = 0
    for (let tick = 0; tick < 240; tick++) {
      world.step()
      for (const joint of world.joints()) worst = Math.max(worst, Math.abs(joint.distance - 0.2))
    }
    assert.ok(worst < 0.01, `a rod is off by ${worst} m`)
    const fastest = Math.max(...rows.flat().map(speedOf))
    assert.ok(fastest < 4, `a knot moves at ${fastest} m/s`)
  })

  test(`${name}: free bodies that are joined keep their momentum, along and about`, () => {
    const random = new Random(5)
    const world = room(0)
    const bodies = Array.from({ length: 9 }, (_, i) => {
      const body = plank(world, i, 0.3 * random.between(-1, 1), 0.8, 0.3, random.between(0.5, 4))
      body.velocity = at(random.between(-2, 2), random.between(-2, 2))
      body.spin = spin(random.between(-3, 3))
      return body
    })
    for (let i = 1; i < bodies.length; i++) {
      const [a, b] = [bodies[i - 1], bodies[i]]
      const point = at(i - 0.5, 0)
      if (i % 3 === 0) join(world, { type: 'spring', a, b })
      else if (i % 3 === 1) hinge(world, { a, b, at: point })
      else join(world, { type: 'fixed', a, b, at: point })
    }
    // It closes a loop, and is not of the tree.
    join(world, { type: 'distance', a: bodies[0], b: bodies[8], min: 0, max: 8.2 })
    const sums = (): number[] => {
      const found = [0, 0, 0]
      for (const { mass, velocity, centre, spin: turns, inertia } of bodies) {
        found[0] += mass * velocity.x
        found[1] += mass * velocity.y
        const about =
          typeof turns === 'number'
            ? inertia * turns
            : (inertia as unknown as { zz: number }).zz * (turns as { z: number }).z
        found[2] += mass * (centre.x * velocity.y - centre.y * velocity.x) + about
      }
      return found
    }
    const before = sums()
    run(world, 240)
    for (const [k, found] of sums().entries()) near(found, before[k], k === 2 ? 0.02 : 1e-9, `momentum ${k}`)
  })

  test(`${name}: a motor turns at its speed; too weak it is stalled by its load, strong it lifts it to its limit, beyond a whole turn`, () => {
    const world = room()
    const arm = plank(world, 0.5, 0, 1, 0.1, 2)
    const joint = hinge(world, { a: arm, at: ORIGIN, limits: { min: -0.4, max: 7 }, motor: { speed: 2, torque: 5 } })
    run(world, 300)
    near(joint.angle, -0.4, 1e-3, 'the weak motor leaves it at')
    near(joint.torque, 2 * G * 0.5 * Math.cos(0.4), 0.05, 'what holds it')
    assert.match(
      joint.explain(),
      /motor gives 5 Nm at most and turns at \S+ of 2 rad\/s; what hangs on it takes 9\.2\d? Nm: the motor is too weak/,
    )
    joint.motor = { speed: 2, torque: 50 }
    run(world, 30)
    near(joint.speed, 2, 1e-3, 'the strong one turns it at')
    run(world, 270)
    near(joint.angle, 7, 1e-3, 'and stops at its limit')
    joint.limits = null
    run(world, 120)
    near(joint.speed, 2, 1e-3, 'without limits it turns on at')
    assert.ok(joint.angle > 10, `the angle is not wrapped: ${joint.angle}`)
    joint.motor = null
    joint.enabled = false
    run(world, 60)
    assert.ok(arm.at.y < -2, 'switched off it holds nothing')
  })

  test(`${name}: limits are not overshot at speed`, () => {
    const world = room(0)
    const arm = plank(world, 0.5, 0, 1, 0.1)
    const joint = hinge(world, { a: arm, at: ORIGIN, limits: { min: -1, max: 1 } })
    arm.spin = spin(80)
    arm.velocity = at(0, 40)
    let most = 0
    for (let tick = 0; tick < 60; tick++) {
      world.step()
      most = Math.max(most, joint.angle)
    }
    assert.ok(most < 1.02, `it comes as far as ${most}`)
  })

  test(`${name}: a slide goes along its axis only, between its limits, and its motor lifts what it can`, () => {
    const world = room()
    const crate = plank(world, 10, 3, 1, 1, 2)
    const slide = join(world, { type: 'slide', a: crate, at: at(10, 3), axis: at(3, 4), limits: { min: -1, max: 2 } })
    run(world, 200)
    near(slide.offset, -1, 1e-4, 'it slides down to')
    near(crate.at.x, 9.4, 1e-4, 'x')
    near(crate.at.y, 2.2, 1e-4, 'y')
    near(slide.force, 2 * G, 1e-3, 'and bears')
    slide.motor = { speed: 1, force: 15 }
    run(world, 60)
    near(slide.offset, -1, 1e-3, '15 N against 16 do not lift it')
    slide.motor = { speed: 1, force: 17 }
    run(world, 120)
    assert.ok(slide.offset > 0, '17 N do')
    near(slide.speed, 1, 1e-3, 'at')
    run(world, 200)
    near(slide.offset, 2, 1e-3, 'up to its limit')
  })

  test(`${name}: wheels on axles carry a hull, sag as their springs say, and drive it`, () => {
    const world = room()
    world.add({ type: 'static', at: at(0, -0.5), colliders: [{ shape: box(200, 1), layer: 'rock' }] })
    const hull = plank(world, 0, 1, 2, 0.4, 20)
    const axles = [-0.8, 0.8].map((x) => {
      const tyre = world.add({
        type: 'dynamic',
        at: at(x, 0.3),
        mass: 2,
        colliders: [{ shape: circle(0.3), layer: 'crate', friction: 1 }],
      }) as Body2
      return join(world, {
        type: 'axle',
        a: hull,
        b: tyre,
        at: at(x, 0.3),
        axis: at(0, 1),
        frequency: 5,
        damping: 0.7,
        ...wheel,
      } as JointSpec2)
    })
    run(world, 300)
    // The mass that counts is that of both, at the wheel: k = w^2 / (1 / m + 1 / M + arm^2 / I).
    const inertia = hull.inertia as unknown
    const about = typeof inertia === 'number' ? inertia : (inertia as { zz: number }).zz
    const k = (2 * Math.PI * 5) ** 2 / (1 / 2 + 1 / 20 + 0.8 ** 2 / about)
    for (const axle of axles) near(axle.offset, (20 * G) / 2 / k, 0.004, 'a wheel is pressed up by')
    assert.ok(hull.asleep, 'it comes to rest')
    for (const axle of axles) axle.motor = { speed: -10, torque: 20 }
    run(world, 240)
    near(hull.velocity.x, 3, 0.05, 'it drives at the speed of its wheels')
    assert.ok(Math.abs(hull.at.y - 0.9) < 0.2, 'upright')
  })

  test(`${name}: a soft weld gives and comes back; a rigid one is as one body`, () => {
    const world = room()
    const beam = plank(world, 0.5, 0, 1, 0.1, 1)
    const weld = join(world, { type: 'fixed', a: beam, at: ORIGIN })
    const tip = plank(world, 1.5, 0, 1, 0.1, 1)
    join(world, { type: 'fixed', a: beam, b: tip, at: at(1, 0) })
    run(world, 120)
    near(tip.at.y, 0, 1e-4, 'rigid, its tip is at')
    near(weld.force, 2 * G, 1e-3, 'the wall bears')
    near(weld.torque, 2 * G, 0.02, 'and is twisted by')
    weld.frequency = 6
    run(world, 200)
    assert.ok(tip.at.y < -0.02 && tip.at.y > -0.8, `soft, its tip is at ${tip.at.y}`)
  })

  test(`${name}: it breaks within a twentieth of what it bears, in the tick of the load, and is told of once`, () => {
    const world = room()
    const told: string[] = []
    const ball = bob(world, 0, -1, 2)
    const rope = join(world, {
      type: 'distance',
      a: ball,
      atB: ORIGIN,
      min: 0,
      max: 1,
      name: 'rope',
      breaks: { force: 100 },
      end: (e) => told.push(`own ${e.cause} ${e.joint} ${Math.round(e.force)}`),
    })
    const watch = world.watchJoints({ end: (e) => told.push(`watch ${e.cause} ${e.a === ball} ${e.b}`) })
    run(world, 60)
    let pull = 0
    let broke = -1
    for (let tick = 0; tick < 200 && broke < 0; tick++) {
      pull += 1
      ball.applyForce(at(0, -pull))
      world.step()
      const ends = world.events().filter((event) => event.joint !== null)
      if (ends.length === 0) continue
      broke = pull + 2 * G
      assert.equal(ends[0].kind, 'end')
      assert.equal(ends[0].cause, 'broken')
      assert.equal(ends[0].joint, rope)
      assert.equal(ends[0].tick, world.tick)
      assert.match(JSON.stringify(ends[0]), /"kind":"end".*"cause":"broken","joint":"rope"/)
    }
    near(broke, 100, 5, 'it breaks at')
    assert.equal(told[0].slice(0, 15), 'own broken rope')
    assert.equal(told[1], 'watch broken true null')
    assert.equal(rope.alive, false)
    assert.match(
      rope.explain(),
      /broke: it bore 1\d\d N and 0 Nm in its last tick, and bears 100 N and Infinity Nm at most/,
    )
    assert.deepEqual(world.joints(), [])
    const falls = ball.velocity.y
    run(world, 60)
    assert.equal(told.length, 2, 'once')
    near(ball.velocity.y, falls - G, 1e-6, 'then it falls')
    throwsKeen('dead-handle', /rope has ended/, () => rope.remove())
    watch.stop()
    join(world, { type: 'distance', a: ball, atB: ORIGIN }).remove()
    world.step()
    assert.equal(told.length, 2, 'a watch that was stopped hears nothing')
  })

  test(`${name}: removing a joint, or a body, ends joints, each told once with cause removed, in a handler too`, () => {
    const world = room()
    const [a, b, c] = [0, 1, 2].map((x) => plank(world, x, 0, 0.5, 0.5))
    const told: string[] = []
    world.watchJoints({ end: (e) => told.push(`${e.joint} ${e.cause} ${e.tick}`) })
    const one = hinge(world, { a, b, at: at(0.5, 0), name: 'one', end: () => c.remove() })
    hinge(world, { a: b, b: c, at: at(1.5, 0), name: 'two' })
    join(world, { type: 'spring', a: c, atB: at(2, 3), name: 'three' })
    assert.deepEqual(b.joints().map(String), ['one', 'two'])
    world.step()
    one.remove()
    assert.deepEqual(told, [], 'not before the step')
    world.step()
    assert.deepEqual(told, ['one removed 2', 'two removed 2', 'three removed 2'])
    assert.equal(world.events().filter((event) => event.joint !== null).length, 3)
    assert.deepEqual(world.joints(), [])
    world.step()
    assert.equal(told.length, 3)
  })

  test(`${name}: two that are joined do not touch, unless they may; the causes say so, and explain names the joint`, () => {
    const world = room(0)
    const [a, b] = [0, 0.9].map((x) => plank(world, x, 0, 1, 1))
    a.sleeps = b.sleeps = false
    const told: string[] = []
    world.watch('crate', 'crate', {
      begin: (e) => told.push(`begin ${e.cause}`),
      end: (e) => told.push(`end ${e.cause}`),
    })
    run(world, 2)
    const weld = join(world, { type: 'fixed', a, b, name: 'weld' })
    run(world, 2)
    const again = join(world, { type: 'fixed', a, b, name: 'again' })
    weld.remove()
    run(world, 2)
    assert.deepEqual(told, ['begin added', 'end joined'], 'the second joint keeps them apart still')
    assert.equal(world.explain(a, b).refusedBy, 'joined')
    assert.match(String(world.explain(a, b)), /NO {2}joined .*the fixed 'again' of/)
    again.touching = true
    run(world, 2)
    assert.deepEqual(told, ['begin added', 'end joined', 'begin unjoined'])
    again.remove()
    run(world, 2)
    assert.equal(told.length, 3)
  })

  test(`${name}: what hangs on a static or kinematic body follows it when it is moved, and wakes`, () => {
    const world = room()
    const hook = world.add({ type: 'static', at: ORIGIN, colliders: [] }) as Body2
    const ball = plank(world, 0, -1, 0.2, 0.2)
    join(world, { type: 'distance', a: hook, b: ball, atA: ORIGIN, min: 0, max: 1 })
    run(world, 120)
    assert.ok(ball.asleep)
    hook.teleport(at(0.5, 0))
    run(world, 2)
    assert.ok(!ball.asleep, 'it wakes')
    hook.type = 'kinematic'
    run(world, 900)
    hook.velocity = at(1, 0)
    run(world, 60)
    assert.ok(!ball.asleep && ball.at.x > 0.8, `it is drawn along, to ${ball.at.x}`)
  })

  test(`${name}: a hand carries with so much force and no more, never through a wall, and lets go with the load's own speed`, () => {
    const world = room()
    world.add({ type: 'static', at: at(2, 0), colliders: [{ shape: box(0.2, 10), layer: 'rock' }] })
    const crate = plank(world, 0, 0, 0.5, 0.5, 2)
    const hand = join(world, { type: 'carry', a: crate, target: at(0, 1), force: 200 })
    run(world, 90)
    near(crate.at.y, 1 - G / (2 * Math.PI * 4) ** 2, 1e-3, 'it holds it at')
    near(hand.force, 2 * G, 0.01, 'with its weight')
    hand.target = turned(30, 1, 0)
    run(world, 120)
    assert.ok(crate.at.x < 1.9, `the wall holds it at ${crate.at.x}`)
    assert.ok(hand.force < 201, `with ${hand.force} N`)
    hand.target = turned(-20, 1, 0.5)
    hand.hold = { force: 60 }
    run(world, 30)
    const before = crate.velocity.x
    assert.ok(before < -2, `it is drawn off at ${before} m/s`)
    hand.remove()
    world.step()
    near(crate.velocity.x, before, 1e-9, 'let go it flies on at')
    const weak = join(world, { type: 'carry', a: crate, target: at(0, 20), force: 15 })
    run(world, 60)
    assert.ok(crate.velocity.y < 0, '15 N do not lift 20')
    weak.hold = {}
    run(world, 120)
    assert.ok(crate.at.y > 15, 'without a bound it comes')
  })

  test(`${name}: a tangle of joints, loops and all, adds no energy, loses nothing, and moves to the same bits twice`, () => {
    const play = (seed: number): { world: World; bodies: Body2[]; trace: number[] } => {
      const random = new Random(seed)
      const world = room()
      world.add({ type: 'static', at: at(3, -0.5), colliders: [{ shape: box(60, 1), layer: 'rock' }] })
      const bodies = Array.from({ length: 16 }, () => {
        const body = plank(world, random.between(0, 6), random.between(1, 6), 0.6, 0.25)
        body.spinDamping = 0.2
        return body
      })
      for (let i = 0; i < 20; i++) {
        const a = bodies[random.below(16)]
        const b = bodies[random.below(16)]
        if (a === b) continue
        const middle = at((a.at.x + b.at.x) / 2, (a.at.y + b.at.y) / 2)
        const kind = random.below(4)
        if (kind === 0) hinge(world, { a, b, at: middle })
        else if (kind === 1) join(world, { type: 'distance', a, b })
        else if (kind === 2) join(world, { type: 'spring', a, b })
        else join(world, { type: 'fixed', a, b, at: middle, frequency: 4 })
      }
      const trace: number[] = []
      const start = energyOf(bodies)
      for (let tick = 0; tick < 300; tick++) {
        world.step()
        trace.push(...bodies.flatMap((body) => [body.at.x, body.at.y, body.velocity.x]))
        const now = energyOf(bodies)
        assert.ok(now < start * 1.02, `seed ${seed}, tick ${tick}: ${now} J of ${start}`)
      }
      return { world, bodies, trace }
    }
    const energyOf = (bodies: readonly Body2[]): number =>
      bodies.reduce((sum, { mass, velocity, at: place }) => {
        return sum + 0.5 * mass * (velocity.x ** 2 + velocity.y ** 2) + mass * G * place.y
      }, 0)
    for (let seed = 1; seed <= 3; seed++) {
      const { bodies, trace, world } = play(seed)
      assert.deepEqual(play(seed).trace, trace, 'the same bits')
      for (const body of bodies) assert.ok(body.at.y > -0.3 && body.at.y < 12, `a body is at ${body.at.y}`)
      const hinges = world.joints().filter((joint) => joint.type === 'hinge')
      for (const joint of hinges) assert.ok(joint.distance < 0.05, `a hinge is off by ${joint.distance}`)
    }
  })

  test(`${name}: a joint is checked before anything of it is made`, () => {
    const world = room()
    const a = plank(world, 0, 0)
    const b = plank(world, 1, 0)
    const wall = world.add({ type: 'static', colliders: [] }) as Body2
    const far = room()
    const other = plank(far, 0, 0)
    const bad = (
      spec: object,
      code: 'bad-argument' | 'bad-number' | 'foreign-handle' | 'dead-handle',
      message: RegExp,
    ) => throwsKeen(code, message, () => world.join(spec as JointSpec2))
    bad({ type: 'gear', a, b }, 'bad-argument', /'type' of a joint .*'hinge'/)
    bad({ type: 'hinge', a, b }, 'bad-argument', /needs 'at'/)
    bad({ type: 'hinge', a, b: a, at: ORIGIN, ...about }, 'bad-argument', /is one/)
    bad({ type: 'hinge', a: wall, at: ORIGIN, ...about }, 'bad-argument', /never moves/)
    bad({ type: 'hinge', a, b, at: ORIGIN, ...about, limits: { min: 1, max: 0 } }, 'bad-number', /other way round/)
    bad({ type: 'hinge', a, b, at: ORIGIN, ...about, motor: { speed: 1 } }, 'bad-argument', /needs 'torque'/)
    bad({ type: 'hinge', a, b, at: ORIGIN, ...about, frequency: 3 }, 'bad-argument', /frequency/)
    bad({ type: 'distance', a }, 'bad-argument', /'atB'/)
    bad({ type: 'distance', a, b, min: 3, max: 2 }, 'bad-number', /more than 'max'/)
    bad({ type: 'distance', a, b, min: -3, max: 2 }, 'bad-number', /negative/)
    bad({ type: 'spring', a, b, frequency: 0 }, 'bad-number', /frequency/)
    bad({ type: 'slide', a, b, at: ORIGIN, axis: ORIGIN }, 'bad-argument', /zero/)
    bad({ type: 'slide', a, b, at: ORIGIN, axis: at(1, 0), motor: { speed: 1, torque: 2 } }, 'bad-argument', /torque/)
    bad({ type: 'carry', a }, 'bad-argument', /'target'/)
    bad({ type: 'carry', a, target: Number.NaN }, 'bad-argument', /'target'/)
    bad({ type: 'fixed', a, b, breaks: { force: -1 } }, 'bad-number', /'force'/)
    bad({ type: 'fixed', a, b: other }, 'foreign-handle', /./)
    bad({ type: 'fixed', a, b: {} }, 'bad-argument', /is a body/)
    assert.deepEqual(world.joints(), [])
    join(world, { type: 'fixed', a, b, name: 'weld' })
    throwsKeen('duplicate-name', /weld/, () => join(world, { type: 'fixed', a, b, name: 'weld' }))
    const [weld] = world.joints()
    throwsKeen('bad-argument', /'motor' of a joint: a 'fixed' has none/, () => {
      weld.motor = null
    })
    throwsKeen('bad-argument', /'offset'/, () => weld.offset)
    b.remove()
    bad({ type: 'fixed', a, b }, 'dead-handle', /./)
    assert.equal(weld.alive, false)
  })
}

test('machines of joints hold the same angles in 2D and in 3D', () => {
  const tracks = DIMENSIONS.map(({ name, createWorld, box, circle, at, about, wheel }) => {
    const world = createWorld({ layers, gravity: at(0, -G) })
    const inertia = (value: number): number => (name === '2D' ? value : { x: value, y: value, z: value }) as number
    const part = (x: number, y: number, width: number, height: number, mass: number): Body2 =>
      world.add({
        type: 'dynamic',
        at: at(x, y),
        mass,
        inertia: inertia(mass * 0.1),
        sleeps: false,
        colliders: [{ shape: box(width, height), layer: 'crate' }],
      }) as Body2
    const upper = part(0.5, 5, 1, 0.1, 2)
    const lower = part(1.5, 5, 1, 0.1, 1)
    const first = world.join({ type: 'hinge', a: upper, at: at(0, 5), ...about } as JointSpec2)
    const second = world.join({
      type: 'hinge',
      a: upper,
      b: lower,
      at: at(1, 5),
      limits: { min: -0.8, max: 0.8 },
      ...about,
    } as JointSpec2)
    const arm = part(6, 5, 2, 0.2, 3)
    const driven = world.join({
      type: 'hinge',
      a: arm,
      at: at(5, 5),
      motor: { speed: 3, torque: 40 },
      ...about,
    } as JointSpec2)
    world.add({ type: 'static', at: at(12, -0.5), colliders: [{ shape: box(8, 1), layer: 'rock' }] })
    const hull = part(12, 1, 2, 0.4, 10)
    const axles = [-0.7, 0.7].map((x) => {
      const b = world.add({
        type: 'dynamic',
        at: at(12 + x, 0.5),
        mass: 1,
        inertia: inertia(0.05),
        colliders: [{ shape: circle(0.3), layer: 'crate' }],
      })
      const spring = { frequency: 4, damping: 0.4, axis: at(0, 1), ...wheel }
      return world.join({ type: 'axle', a: hull, b, at: at(12 + x, 0.5), ...spring } as JointSpec2)
    })
    const track: number[][] = []
    for (let tick = 0; tick < 150; tick++) {
      world.step()
      track.push([first.angle, second.angle, driven.angle, ...axles.map((axle) => axle.offset), hull.at.y])
    }
    return track
  })
  const [flat, space] = tracks
  for (const [tick, values] of flat.entries()) {
    for (const [k, value] of values.entries()) {
      const off = Math.abs(value - space[tick][k])
      assert.ok(off < 2e-3, `tick ${tick}, number ${k}: ${value} in 2D, ${space[tick][k]} in 3D`)
    }
  }
})
