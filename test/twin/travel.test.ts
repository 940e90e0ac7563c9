/** Travel in both dimensions: what stops, slides and bounces; what walks, rides and pushes; what is told of the way. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { type Body2, defineLayers, type TravelResult2, type Vec2, type WatchEvent2 } from '../../src/2d/index.ts'
import { DIMENSIONS, type Dimension } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { otherwise: 'solid', pairs: [['zone', '*', 'sense']] })
type World = ReturnType<typeof newWorld>

function newWorld(d: Dimension) {
  return d.createWorld({ layers })
}

function rock(world: World, d: Dimension, x: number, y: number, width: number, height: number, angle = 0): Body2 {
  return world.add({
    type: 'static',
    ...d.turned(x, y, angle),
    colliders: [{ shape: d.box(width, height), layer: 'rock' }],
  })
}

function diver(world: World, d: Dimension, x: number, y: number, shape = d.circle(0.5)) {
  return world.add({ type: 'kinematic', name: 'diver', at: d.at(x, y), colliders: [{ shape, layer: 'craft' }] })
}

function near(value: number, wanted: number, most = 1e-9, what = ''): void {
  assert.ok(Math.abs(value - wanted) <= most, `${what} ${value} is not ${wanted} within ${most}`)
}

function lengthOf({ x, y }: Vec2): number {
  return Math.sqrt(x * x + y * y)
}

/** The length of the way that a travel tells: from hit to hit, and what is left. */
function wayOf(body: { readonly at: Vec2 }, result: TravelResult2): number {
  const points = [
    { x: body.at.x - result.moved.x, y: body.at.y - result.moved.y },
    ...result.hits.map((hit) => hit.at),
    body.at,
  ]
  let length = lengthOf(result.remainder)
  for (let i = 1; i < points.length; i++) {
    length += lengthOf({ x: points[i].x - points[i - 1].x, y: points[i].y - points[i - 1].y })
  }
  return length
}

for (const d of DIMENSIONS) {
  const walk = { onHit: 'slide', up: d.at(0, 1), stepHeight: 0.3, snap: 0.2 } as const

  test(`${d.name}: it stops, slides and bounces, at once, and tells what it hit`, () => {
    const world = newWorld(d)
    const wall = rock(world, d, 5, 0, 2, 20)
    const body = diver(world, d, 0, 0)
    const stopped = body.travel(d.at(8, 2))
    near(body.at.x, 3.5)
    near(body.at.y, 0.875)
    near(stopped.moved.x, 3.5)
    near(stopped.remainder.x, 4.5, 1e-9, 'what is left')
    near(lengthOf(stopped.heading), 1, 1e-15)
    assert.equal(stopped.hits.length, 1)
    const [hit] = stopped.hits
    assert.equal(hit.body, wall)
    assert.equal(hit.mine, body.colliders[0])
    near(hit.point.x, 4)
    near(hit.normal.x, -1, 1e-12)
    near(hit.distance, lengthOf(stopped.moved))
    assert.equal(hit.startedInside, false)
    assert.deepEqual(body.overlapping(), [], 'it does not even touch')
    assert.ok(4 - 0.5 - body.at.x < 1e-13, `a few last places away: ${4 - 0.5 - body.at.x}`)

    const slid = body.travel(d.at(8, 2), { onHit: 'slide' })
    near(slid.moved.x, 0)
    near(slid.moved.y, 2)
    near(slid.heading.y, 1)
    assert.equal(lengthOf(slid.remainder), 0)

    const away = body.travel(d.at(-1, 0))
    assert.equal(away.hits.length, 0, 'what it touches does not hold it')
    const bounced = body.travel(d.at(3, 1), { onHit: 'bounce' })
    near(bounced.moved.x, -1)
    near(bounced.moved.y, 1)
    near(bounced.heading.x, -3 / Math.sqrt(10))
    assert.equal(bounced.ground, null)
  })

  test(`${d.name}: a way that ends exactly at a wall, and one of no length at it`, () => {
    const world = newWorld(d)
    rock(world, d, 8, 1, 1, 2)
    rock(world, d, 0, -0.5, 40, 1)
    for (const onHit of ['stop', 'slide', 'bounce'] as const) {
      const body = diver(world, d, 6.9, 1)
      const result = body.travel(d.at(0.1, 0), { onHit })
      near(body.at.x, 7, 1e-12)
      if (result.hits.length > 0) near(result.heading.x, onHit === 'bounce' ? -1 : 1, 1e-12, onHit)
      near(body.travel(d.at(0.1, 0), { onHit }).moved.x, onHit === 'bounce' ? -0.1 : 0, 1e-12, onHit)
      assert.deepEqual({ ...body.travel(d.at(0, 0), { onHit }).heading }, d.at(0, 0), 'nothing leads nowhere')
      body.remove()
    }
    // Every length of a tick: some of them end within rounding of the wall.
    const ball = diver(world, d, 5, 0.5)
    for (const ticks of [30, 60, 90, 120]) {
      ball.teleport(d.at(5, 0.5))
      let heading: Vec2 = d.at(3 / Math.sqrt(10), 1 / Math.sqrt(10))
      for (let i = 0; i < ticks; i++) {
        const far = Math.sqrt(40) / ticks
        heading = {
          ...ball.travel({ ...heading, x: heading.x * far, y: heading.y * far }, { onHit: 'bounce' }).heading,
        }
      }
      near(ball.at.x, 3, 1e-9, `in ${ticks} ticks`)
      near(ball.at.y, 2.5, 1e-9)
    }
  })

  test(`${d.name}: hits up to maxHits, and what is left lies along the heading`, () => {
    const world = newWorld(d)
    rock(world, d, -2, 0, 1, 9)
    rock(world, d, 2, 0, 1, 9)
    const body = diver(world, d, 0, 0)
    const result = body.travel(d.at(100, 0), { onHit: 'bounce', maxHits: 4 })
    assert.equal(result.hits.length, 4)
    near(wayOf(body, result), 100)
    near(lengthOf(result.remainder), 100 - 1 - 2 - 2 - 2)
    near(result.remainder.x, lengthOf(result.remainder) * result.heading.x)
    const none = body.travel(d.at(1, 0), { maxHits: 0 })
    assert.deepEqual([none.moved.x, none.remainder.x, none.hits.length], [0, 1, 0])
  })

  test(`${d.name}: in closed rooms of turned walls it bounces ten thousand times, keeps its way, and never leaves`, () => {
    for (const [walls, speed] of [
      [5, 600],
      [7, 10_000],
      [4, 60],
    ] as const) {
      const world = newWorld(d)
      for (let i = 0; i < walls; i++) {
        const angle = (2 * Math.PI * i) / walls + 0.1
        rock(world, d, 100 + 5 * Math.cos(angle), -30 + 5 * Math.sin(angle), 1, 12, angle)
      }
      const corner = 4.5 / Math.cos(Math.PI / walls)
      for (const shape of [d.circle(0.4), d.box(0.7, 0.5)]) {
        const body = diver(world, d, 100.3, -29.8, shape)
        const out = d.travelResult()
        const far = speed / 60
        let heading: Vec2 = d.at(Math.cos(1), Math.sin(1))
        let [hits, travels, way] = [0, 0, 0]
        while (hits < 10_000 / (walls - 2)) {
          const by = { ...heading, x: heading.x * far, y: heading.y * far }
          const result = body.travel(by, { onHit: 'bounce', maxHits: 1000, out })
          hits += result.hits.length
          travels++
          way += wayOf(body, result)
          heading = { ...result.heading }
          assert.ok(lengthOf({ x: body.at.x - 100, y: body.at.y + 30 }) < corner, `it is out at ${hits}`)
          if (travels % 16 === 0) assert.deepEqual(body.overlapping(), [], `it overlaps after ${hits} hits`)
        }
        near(way / (travels * far), 1, 1e-9, `the way of ${walls} walls at ${speed} m/s`)
        body.remove()
      }
    }
  })

  test(`${d.name}: along a thousand flush boxes it keeps its speed and its height`, () => {
    for (const [x, y, angle] of [
      [0, 0, 0],
      [3.3, -7.7, 0.3],
      [-20_000, 400, 0.1],
    ] as const) {
      const world = newWorld(d)
      const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
      const place = (along: number, up: number): Vec2 => d.at(x + cos * along - sin * up, y + sin * along + cos * up)
      for (let i = 0; i < 1000; i++) {
        const at = place(i, -0.5)
        rock(world, d, at.x, at.y, 1, 1, angle)
      }
      for (const shape of [d.circle(0.5), d.box(1, 1)]) {
        for (const down of [0, -3]) {
          const body = world.add({
            type: 'kinematic',
            ...d.turned(place(0, 0.5).x, place(0, 0.5).y, angle),
            colliders: [{ shape, layer: 'craft' }],
          })
          body.travel(d.at(sin * 0.1, -cos * 0.1), { onHit: 'slide' })
          const from = body.at
          const result = body.travel(d.at(cos * 990 - sin * down, sin * 990 + cos * down), { onHit: 'slide' })
          const room = 1e-9 * Math.max(1, Math.abs(x) / 1000)
          near((body.at.x - from.x) * cos + (body.at.y - from.y) * sin, 990, 990 * room, 'it went')
          near((body.at.y - from.y) * cos - (body.at.x - from.x) * sin, 0, room, 'its height changed')
          assert.ok(result.hits.length <= (down === 0 ? 0 : 1), `held by ${result.hits.length}`)
          body.remove()
        }
      }
    }
  })

  test(`${d.name}: ledges and slopes below their limits are climbed, above them they are walls`, () => {
    for (const shape of [d.circle(0.5), d.box(0.6, 1)]) {
      for (const high of [0.1, 0.2999, 0.3, 0.3001, 0.6]) {
        for (const down of [0, -0.1]) {
          const world = newWorld(d)
          rock(world, d, 0, -0.5, 20, 1)
          rock(world, d, 7, high / 2, 10, high)
          const body = diver(world, d, 0, 0.5, shape)
          let stood = 0
          for (let i = 0; i < 60; i++) if (body.travel(d.at(0.1, down), walk).ground !== null) stood++
          assert.equal(stood, 60, 'it always stands')
          if (high <= 0.3) near(body.at.x, 6, 1e-9, `a ledge of ${high} is taken without loss of speed`)
          else assert.ok(body.at.x < 2, `a ledge of ${high} is a wall`)
          near(body.at.y, high <= 0.3 ? 0.5 + high : 0.5, 1e-9, 'its height')
        }
      }
      for (const slope of [0.3, 0.6999, 0.7001]) {
        const world = newWorld(d)
        rock(world, d, 0, -0.5, 20, 1)
        rock(world, d, 8, 0, 10, 1, slope)
        const body = diver(world, d, 0, 0.5, shape)
        const options = { ...walk, stepHeight: 0, steepest: 0.7 }
        let last = body.travel(d.at(0, -0.1), options)
        for (let i = 0; i < 80; i++) last = body.travel(d.at(0.1, -0.1), options)
        if (slope < 0.7) {
          near(body.at.x, 8, 1e-9, 'a slope costs nothing of the level way')
          near(last.ground?.slope ?? 0, slope, 1e-9, 'the slope')
          for (let i = 0; i < 70; i++) last = body.travel(d.at(-0.1, 0), options)
          near(body.at.x, 1, 1e-9, 'and back')
          near(body.at.y, 0.5, 1e-9, 'it follows the ground down')
          assert.notEqual(last.ground, null)
        } else {
          assert.ok(body.at.x < 7.5, 'what is too steep holds')
          near(body.at.y, 0.5, 1e-9, 'and is not climbed')
        }
      }
    }
  })

  test(`${d.name}: a low ceiling, a gap as wide as itself, and a ledge's edge`, () => {
    const world = newWorld(d)
    rock(world, d, 0, -0.5, 10, 1)
    rock(world, d, 9, -0.35, 8, 1)
    // Over the ledge there is no room to stand.
    rock(world, d, 9, 1.55, 8, 1)
    const body = diver(world, d, 0, 0.5, d.box(0.6, 1))
    for (let i = 0; i < 80; i++) body.travel(d.at(0.1, 0), walk)
    near(body.at.x, 4.7, 1e-9, 'it does not step where it does not fit')
    near(body.at.y, 0.5)

    const gap = newWorld(d)
    rock(gap, d, 0, -0.5, 40, 1)
    rock(gap, d, 9, 2, 8, 2)
    const tight = diver(gap, d, 0, 0.5, d.box(0.6, 1))
    for (let i = 0; i < 150; i++) tight.travel(d.at(0.1, 0), walk)
    near(tight.at.x, 15, 1e-9, 'it passes where it just fits')

    const edge = newWorld(d)
    rock(edge, d, 0, -0.5, 10, 1)
    const half = diver(edge, d, 5.2, 0.5)
    for (let i = 0; i < 30; i++) half.travel(d.at(0, -0.1), walk)
    assert.ok(half.at.y > 0.4, `half over an edge it stands: ${half.at.y}`)
    for (let i = 0; i < 10; i++) half.travel(d.at(-0.1, -0.1), walk)
    near(half.at.y, 0.5, 1e-9, 'and comes back onto it')
    for (let i = 0; i < 20; i++) half.travel(d.at(0.1, -0.1), walk)
    assert.ok(half.at.y < 0, `beyond it, it falls: ${half.at.y}`)
  })

  test(`${d.name}: leaving the ground and landing are told, and snap only follows what falls away`, () => {
    const world = newWorld(d)
    rock(world, d, 0, -0.5, 10, 1)
    rock(world, d, 8.03, -0.65, 6, 1)
    rock(world, d, 14.03, -1.5, 6, 1)
    const body = diver(world, d, 4, 0.5, d.box(0.6, 1))
    assert.equal(body.travel(d.at(0, -0.1), walk).landed, false, 'nothing was known before')
    const told: string[] = []
    for (let i = 0; i < 100; i++) {
      const { ground, landed, leftGround } = body.travel(d.at(0.1, ground0(i)), walk)
      if (landed) told.push(`landed at ${body.at.x.toFixed(1)}`)
      if (leftGround) told.push(`left at ${body.at.x.toFixed(1)}`)
      if (body.at.x < 10.9) assert.notEqual(ground, null, `it follows a step of 0.15 down, at ${body.at.x}`)
    }
    function ground0(i: number): number {
      return i < 75 ? 0 : -0.2
    }
    assert.deepEqual(told, ['left at 11.4', 'landed at 12.0'])
    body.teleport(d.at(0, 0.5))
    body.travel(d.at(0, -0.1), walk)
    const jump = body.travel(d.at(0, 0.05), walk)
    assert.equal(jump.leftGround, true)
    near(jump.moved.y, 0.05, 1e-9, 'what moves up is not drawn back')
  })

  test(`${d.name}: lifts, turning platforms and belts carry whoever rides, without a lag`, () => {
    for (const how of ['velocity', 'arriveAt', 'travel', 'joint', 'turn', 'belt', 'stacked'] as const) {
      const world = newWorld(d)
      const lift = world.add({
        type: how === 'joint' ? 'dynamic' : how === 'belt' ? 'static' : 'kinematic',
        at: d.at(0, -0.5),
        colliders: [{ shape: d.box(30, 1), layer: 'rock', ...(how === 'belt' ? d.belt(3) : {}) }],
      })
      if (how === 'velocity' || how === 'stacked') lift.velocity = d.at(1, 2)
      if (how === 'turn') lift.spin = d.spin(0.3) as number
      if (how === 'joint') {
        world.join({ type: 'slide', a: lift, at: d.at(0, -0.5), axis: d.at(0, 1), motor: { speed: 2, force: 1e6 } })
      }
      const raft = how === 'stacked' ? diver(world, d, 1, 0.5, d.box(2, 1)) : null
      raft?.travel(d.at(0, -0.1), { ...walk, ride: true })
      const body = world.add({
        type: 'kinematic',
        at: d.at(1, raft === null ? 0.5 : 1.5),
        colliders: [{ shape: d.circle(0.5), layer: 'craft', friction: 0 }],
      })
      body.travel(d.at(0, -0.1), { ...walk, ride: true })
      const [x, y] = [body.at.x, body.at.y]
      const from = { ...lift.at }
      for (let i = 1; i <= 60; i++) {
        if (how === 'arriveAt') lift.arriveAt(d.at(i / 60, -0.5 + (2 * i) / 60))
        if (how === 'travel') assert.equal(lift.travel(d.at(1 / 60, 2 / 60)).hits.length, 0, 'a rider is no wall')
        world.step()
        if (how === 'turn') {
          assert.ok(Math.abs(gapTo(world, body, lift)) < 1e-3, `it keeps to what turns: ${gapTo(world, body, lift)}`)
          continue
        }
        near(body.at.x - x, how === 'belt' ? (3 * i) / 60 : lift.at.x - from.x, 1e-9, `${how}: along`)
        near(body.at.y - y, lift.at.y - from.y, 1e-9, `${how}: up`)
      }
      if (how !== 'belt' && how !== 'turn') near(lift.at.y, 1.5, 1e-6, 'the lift itself went on')
      if (how === 'velocity') near(body.velocity.y, 2, 1e-9, 'its velocity is what it did')
    }
  })

  test(`${d.name}: a rider is not carried into a wall, nor after it has jumped`, () => {
    const world = newWorld(d)
    const raft = world.add({
      type: 'kinematic',
      at: d.at(0, -0.5),
      velocity: d.at(2, 0),
      colliders: [{ shape: d.box(30, 1), layer: 'rock' }],
    })
    rock(world, d, 4, 1, 1, 2)
    const body = diver(world, d, 0, 0.5)
    body.travel(d.at(0, -0.1), { ...walk, ride: true })
    for (let i = 0; i < 200; i++) world.step()
    near(body.at.x, 3, 1e-9, 'held by the wall')
    near(raft.at.x, 400 / 60, 1e-9)
    body.teleport(d.at(20, 0.5))
    world.step()
    near(body.at.x, 20, 0, 'what was put somewhere does not ride')
    body.travel(d.at(0, -0.1), { ...walk, ride: true })
    body.travel(d.at(0, 0.1), { ...walk, ride: true })
    world.step()
    near(body.at.x, 20, 0, 'nor what has jumped')
  })

  test(`${d.name}: dynamic bodies are walls, unless it may push them`, () => {
    for (const [push, mass, pushes] of [
      [0, 10, false],
      [40, 10, true],
      [5, 1000, false],
    ] as const) {
      const world = newWorld(d)
      rock(world, d, 0, -0.5, 60, 1)
      rock(world, d, 10, 1, 1, 2)
      const crate = world.add({
        type: 'dynamic',
        at: d.at(3, 0.5),
        mass,
        colliders: [{ shape: d.box(1, 1), layer: 'rock', friction: 0.6 }],
      })
      const body = diver(world, d, 1, 0.5)
      let pushed = 0
      for (let i = 0; i < 120; i++) {
        const result = body.travel(d.at(2 / 60, -0.05), { ...walk, push })
        pushed += result.hits.filter((hit) => hit.pushed && hit.body === crate).length
        world.step()
        assert.ok(body.at.x + 1 <= crate.at.x + 0.02, `it is in the crate: ${body.at.x} ${crate.at.x}`)
      }
      assert.equal(pushed > 0, pushes, `push ${push} of ${mass} kg`)
      if (pushes) assert.ok(crate.at.x > 5.5, `it did not go: ${crate.at.x}`)
      else near(crate.at.x, 3, 0.02, 'it stays')
      for (let i = 0; i < 240; i++) {
        body.travel(d.at(2 / 60, -0.05), { ...walk, push })
        world.step()
      }
      assert.ok(crate.at.x < 9.03, `it is in the wall: ${crate.at.x}`)
    }
  })

  test(`${d.name}: on a platform that starts at 2 m/s dynamic bodies slip as far as friction says, and no further`, () => {
    for (const how of ['velocity', 'arriveAt', 'travel'] as const) {
      for (const [friction, up] of [
        [0.6, 0],
        [0.3, 0],
        [0.6, 2],
      ] as const) {
        const world = newWorld(d)
        const along = up === 0 ? 2 : 0
        const lift = world.add({
          type: 'kinematic',
          at: d.at(0, -0.5),
          colliders: [{ shape: d.box(60, 1), layer: 'rock', friction }],
        })
        const crate = world.add({
          type: 'dynamic',
          at: d.at(0, 0.5),
          colliders: [{ shape: d.box(1, 1), layer: 'rock', friction }],
        })
        for (let i = 0; i < 30; i++) world.step()
        const settled = crate.at.y
        if (how === 'velocity') lift.velocity = d.at(along, up)
        for (let i = 1; i <= 90; i++) {
          if (how === 'arriveAt') lift.arriveAt(d.at((along * i) / 60, -0.5 + (up * i) / 60))
          // Without a push the crate on it is a wall to a platform that travels up.
          if (how === 'travel') lift.travel(d.at(along / 60, up / 60), { onHit: 'slide', push: 1e4 })
          world.step()
        }
        // It slips while friction brings it to the speed: v² / (2 µ g).
        const slipped = lift.at.x - crate.at.x
        const wanted = (along * along) / (2 * friction * 9.8)
        near(slipped, wanted, 0.05 * wanted + 0.01, `${how}, friction ${friction}: it slipped`)
        near(crate.at.y - settled, (up * 90) / 60, 0.03, `${how}: it is lifted along`)
      }
    }
  })

  test(`${d.name}: it is told what crushes it, and against what`, () => {
    const world = newWorld(d)
    rock(world, d, 0, -0.5, 60, 1)
    const wall = rock(world, d, 3, 1, 1, 2)
    const press = world.add({
      type: 'kinematic',
      at: d.at(-3, 1),
      velocity: d.at(1, 0),
      colliders: [{ shape: d.box(1, 2), layer: 'rock' }],
    })
    const body = diver(world, d, 0, 0.5)
    let ticks = 0
    for (; ticks < 400; ticks++) {
      const { crushed, hits } = body.travel(d.at(0, -0.05), walk)
      world.step()
      if (crushed === null) {
        assert.ok(body.at.x <= 2 + 1e-9, 'it is never in the wall')
        if (ticks > 125)
          assert.ok(
            hits.some((hit) => hit.startedInside && hit.body === press),
            'it was pushed along',
          )
        continue
      }
      assert.equal(crushed.a, press)
      assert.equal(crushed.b, wall)
      assert.equal(crushed.aCollider, press.colliders[0])
      break
    }
    assert.ok(ticks > 200 && ticks < 250, `crushed after ${ticks}`)
  })

  test(`${d.name}: filters, ignored pairs, one-way sides and decide hooks count`, () => {
    const world = newWorld(d)
    rock(world, d, 0, -0.5, 60, 1)
    const ledge = world.add({
      type: 'static',
      at: d.at(0, 2),
      colliders: [{ shape: d.box(4, 0.2), layer: 'rock', oneWay: d.at(0, 1) }],
    })
    const body = diver(world, d, 0, 0.5)
    assert.equal(body.travel(d.at(0, 3)).hits.length, 0, 'up through the ledge')
    near(body.travel(d.at(0, -3)).moved.y, 2.6 - 3.5, 1e-9, 'and down onto it')
    body.teleport(d.at(0, 2.2))
    assert.equal(body.travel(d.at(0, -1)).hits.length, 0, 'half way through it falls')
    body.teleport(d.at(-4, 2))
    assert.equal(body.travel(d.at(8, 0)).hits.length, 0, 'and goes through it sideways')

    ledge.colliders[0].oneWay = null
    body.teleport(d.at(0, 0.5))
    const asked: number[] = []
    const hook = world.decide('craft', ledge, (pair) => {
      asked.push(pair.approach.y)
      assert.equal(pair.a, body)
      return pair.approach.y > 0 ? 'pass' : 'solid'
    })
    assert.equal(body.travel(d.at(0, 3)).hits.length, 0, 'the hook lets it up')
    world.step()
    assert.equal(body.travel(d.at(0, -3)).hits[0]?.body, ledge, 'and holds it')
    assert.deepEqual([...new Set(asked.map(Math.round))], [180, -180])
    hook.stop()
    const thrower = world.decide('craft', ledge, () => {
      throw new Error('no')
    })
    body.teleport(d.at(0, 4))
    world.step()
    throwsKeen('callback-failed', /travel|no|dead|removed|number/, () => body.travel(d.at(0, -3)))
    thrower.stop()
    world.step()

    body.ignore(ledge)
    body.teleport(d.at(0, 4))
    near(body.travel(d.at(0, -9)).moved.y, -3.5, 1e-9, 'what it ignores does not hold it')
    body.unignore(ledge)
    body.teleport(d.at(0, 4))
    near(body.travel(d.at(0, -9), { filter: { except: ledge } }).moved.y, -3.5)
    body.teleport(d.at(0, 4))
    near(body.travel(d.at(0, -9), { filter: { where: (collider) => collider.body === ledge } }).moved.y, -1.4)
    body.teleport(d.at(0, 4))
    near(body.travel(d.at(0, -9), { filter: { layers: 'zone' } }).moved.y, -9)
    body.teleport(d.at(0, 4))
    const lamp = world.add({
      type: 'static',
      at: d.at(0, 3),
      colliders: [{ shape: d.circle(0.2), layer: 'zone', sensor: true }],
    })
    assert.equal(body.travel(d.at(0, -9)).hits[0]?.body, ledge, 'a sensor is no wall')
    lamp.remove()
  })

  test(`${d.name}: sensors of its own go along, and hold nothing`, () => {
    const world = newWorld(d)
    rock(world, d, 5, 0, 1, 9)
    const body = world.add({
      type: 'kinematic',
      at: d.at(0, 0),
      colliders: [
        { shape: d.circle(0.5), layer: 'craft' },
        { shape: d.circle(2), layer: 'craft', sensor: true },
        { shape: d.circle(0.5), layer: 'craft', at: d.at(0.7, 0) },
      ],
    })
    near(body.travel(d.at(9, 0)).moved.x, 4.5 - 1.2, 1e-9, 'the foremost of its colliders holds')
  })

  test(`${d.name}: watches hear of zones crossed and of what was hit, in the next step`, () => {
    const world = newWorld(d)
    const events: WatchEvent2[] = []
    const keep = (event: WatchEvent2): void => {
      events.push(event.keep() as WatchEvent2)
    }
    world.watch('craft', 'zone', { begin: keep, end: keep })
    world.watch('craft', 'rock', { begin: keep, end: keep })
    const zone = world.add({
      type: 'static',
      name: 'zone',
      at: d.at(2, 0),
      colliders: [{ shape: d.box(0.1, 9), layer: 'zone' }],
    })
    const wall = rock(world, d, 5, 0, 1, 9)
    const body = diver(world, d, 0, 0)
    world.step()
    // 4 to the wall, and a little back.
    body.travel(d.at(4.6, 0), { onHit: 'bounce' })
    world.step()
    const line = ({ kind, b, cause }: WatchEvent2): string => `${kind} ${b === wall ? 'wall' : b} ${cause}`
    assert.deepEqual(events.map(line), [
      'begin zone crossed',
      'end zone crossed',
      'begin wall crossed',
      'end wall crossed',
    ])
    near(events[0].when, 1.45 / 4.6, 1e-6, 'when it came into the zone')
    near(events[2].when, 4 / 4.6, 1e-6, 'when it hit the wall')
    near(events[2].normal?.x ?? 0, 1, 1e-9)
    near(events[2].points[0]?.x ?? 0, 4.5, 1e-6)
    near(events[2].closingSpeed, 4.6 * 60, 1e-6)
    world.step()
    assert.equal(events.length, 4, 'once')

    events.length = 0
    body.teleport(d.at(0, 0))
    world.step()
    events.length = 0
    body.travel(d.at(3.5, 0))
    body.teleport(d.at(50, 50))
    body.travel(d.at(1, 0))
    world.step()
    assert.deepEqual(events.map(line), ['begin zone crossed', 'end zone crossed'], 'also when a teleport follows')
    near(body.velocity.x, 60, 1e-6, 'the tick begins where the teleport ended')
    assert.equal(events[0].b, zone)
  })

  test(`${d.name}: velocity reads as what a led body did, and a dynamic body sees it so`, () => {
    const world = newWorld(d)
    const body = diver(world, d, 0, 0.5, d.box(4, 1))
    const crate = world.add({ type: 'dynamic', at: d.at(0, 1.5), colliders: [{ shape: d.box(1, 1), layer: 'rock' }] })
    body.velocity = d.at(0, 0)
    for (let i = 0; i < 60; i++) {
      body.travel(d.at(0.5 / 60, 0))
      world.step()
    }
    near(body.velocity.x, 0.5, 1e-9)
    near(body.velocityAt(d.at(0, 9)).x, 0.5, 1e-9)
    near(crate.velocity.x, 0.5, 0.02, 'friction has taken the crate along')
    body.arriveAt(d.turned(body.at.x, body.at.y + 0.01, 0.01))
    world.step()
    near(body.velocity.y, 0.6, 1e-9)
    world.step()
    assert.equal(body.velocity.y, 0, 'what is led no more stands')
    body.velocity = d.at(3, 0)
    near(body.velocity.x, 3, 0)
    body.travel(d.at(0, 0))
    world.step()
    near(body.velocity.x, 0, 0, 'a travel of nothing is one, too')
    world.step()
    near(body.velocity.x, 3, 0, 'its own velocity is back')
  })

  test(`${d.name}: what cannot travel says so, and a refused call leaves nothing behind`, () => {
    const world = newWorld(d)
    const fixed = rock(world, d, 0, -5, 1, 1)
    const crate = world.add({ type: 'dynamic', at: d.at(0, 9), colliders: [{ shape: d.box(1, 1), layer: 'rock' }] })
    const body = diver(world, d, 0, 0)
    throwsKeen('bad-argument', /travel|no|dead|removed|number/, () => fixed.travel(d.at(1, 0)))
    throwsKeen('bad-argument', /travel|no|dead|removed|number/, () => crate.travel(d.at(1, 0)))
    throwsKeen('bad-number', /travel|no|dead|removed|number/, () => body.travel(d.at(Number.NaN, 0)))
    throwsKeen('bad-number', /travel|no|dead|removed|number/, () => body.travel(d.at(1e13, 0)))
    throwsKeen('bad-argument', /travel|no|dead|removed|number/, () => body.travel(null as never))
    for (const options of [
      null,
      { onHit: 'stick' },
      { maxHits: -1 },
      { steepest: 2 },
      { steepest: Number.NaN },
      { stepHeight: -0.1 },
      { snap: Number.POSITIVE_INFINITY },
      { push: -1 },
      { ride: 1 },
      { up: d.at(0, 0) },
      { slopes: 1 },
      { out: {} },
      { onHit: 'bounce', snap: 0.1 },
      { filter: { layers: ['rok'] } },
      { filter: { except: 3 } },
    ]) {
      assert.throws(() => body.travel(d.at(1, 0), options as never), { name: 'KeenError' }, JSON.stringify(options))
    }
    assert.equal(body.at.x, 0)
    body.remove()
    throwsKeen('dead-handle', /travel|no|dead|removed|number/, () => body.travel(d.at(1, 0)))
    const other = diver(world, d, 0, 0)
    world.watch(other, '*', {})
    const locked = world.decide(crate, fixed, () => {
      throwsKeen('locked', /travel|no|dead|removed|number/, () => other.travel(d.at(1, 0)))
      return 'solid'
    })
    locked.stop()
    other.enabled = false
    near(other.travel(d.at(9, 0)).moved.x, 9, 0, 'what is disabled meets nothing')
    world.step()
    near(other.at.x, 9, 0)
  })

  test(`${d.name}: removed, disabled or made static between travel and step, it ends well`, () => {
    const world = newWorld(d)
    const events: string[] = []
    const zone = world.add({ type: 'static', at: d.at(2, 0), colliders: [{ shape: d.box(0.1, 9), layer: 'zone' }] })
    world.watch('craft', zone, {
      begin: (e) => events.push(`begin ${e.cause}`),
      end: (e) => events.push(`end ${e.cause}`),
    })
    for (const change of ['remove', 'disable', 'static', 'dynamic'] as const) {
      const body = diver(world, d, 0, 0)
      world.step()
      body.travel(d.at(4, 0))
      if (change === 'remove') body.remove()
      else if (change === 'disable') body.enabled = false
      else body.type = change
      world.step()
      if (body.alive) near(body.at.x, 4, 0.01, change)
      if (body.alive) body.remove()
      world.step()
    }
    assert.deepEqual(events, [])
  })
}

function gapTo(world: World, body: { readonly at: Vec2 }, other: object): number {
  const [hit] = world.nearest.all({ point: body.at }, { where: (collider) => collider.body === other })
  return (hit?.distance ?? Number.NaN) - 0.5
}
