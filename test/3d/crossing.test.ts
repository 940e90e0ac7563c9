/** In and out within one tick, in 3D: nothing that is sensed passes unseen. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import {
  box,
  capsule,
  cone,
  createWorld,
  cylinder,
  defineLayers,
  distance,
  heightfield,
  mesh,
  rotationAbout,
  type Shape3,
  sphere,
  type Vec3,
} from '../../src/3d/index.ts'
import { runs } from '../helpers/arbitrary3.ts'
import { Random } from '../helpers/random.ts'
import { add, type Q, scale } from '../oracle/solid.ts'

const layers = defineLayers(['craft', 'zone'], { pairs: [['zone', '*', 'sense']] })
const UPRIGHT: Q = { x: 0, y: 0, z: 0, w: 1 }

interface Heard {
  kind: string
  cause: string
  when: number
}

/** A craft in a world with one zone, and what is told of the two. */
function scene(shape: Shape3, at: Vec3, zone: Shape3, zoneAt: Vec3, rotation: Q = UPRIGHT) {
  const world = createWorld({ layers, rate: 1 })
  const craft = world.add({ type: 'kinematic', at, rotation, colliders: [{ shape, layer: 'craft' }] })
  const gate = world.add({ type: 'static', at: zoneAt, colliders: [{ shape: zone, layer: 'zone' }] })
  const heard: Heard[] = []
  const hear = ({ kind, cause, when }: Heard): void => {
    heard.push({ kind, cause, when })
  }
  world.watch('craft', 'zone', { begin: hear, end: hear })
  return { world, craft, gate, heard }
}

const v = (x: number, y: number, z: number): Vec3 => ({ x, y, z })

test('a thin zone crossed within one tick begins and ends, with the times', () => {
  for (const zone of [box(0.5, 4, 4), cylinder(4, 0.25), mesh({ positions: [0, -3, -3, 0, -3, 3, 0, 3, 0] })]) {
    const { world, craft, heard } = scene(sphere(0.1), v(0, 0, 0), zone, v(5, 0, 0))
    craft.arriveAt(v(10, 0, 0))
    world.step()
    assert.deepEqual(
      heard.map(({ kind, cause }) => [kind, cause]),
      [
        ['begin', 'crossed'],
        ['end', 'crossed'],
      ],
      zone.kind,
    )
    const half = zone.kind === 'mesh' ? 0 : 0.25
    assert.ok(Math.abs(heard[0].when - (5 - half - 0.1) / 10) < 1e-6, `${zone.kind} begins at ${heard[0].when}`)
    assert.ok(Math.abs(heard[1].when - (5 + half + 0.1) / 10) < 1e-6, `${zone.kind} ends at ${heard[1].when}`)
    world.step()
    assert.equal(heard.length, 2)
  }
})

test('a sweep of the arm, a whole turn within a tick, is followed all the way round', () => {
  const { world, craft, heard } = scene(capsule(v(1, 0, 0), v(4, 0, 0), 0.1), v(0, 0, 0), sphere(0.3), v(0, 0, 3))
  // Five turns: it is met and left on the way, and stands where it stood.
  craft.spin = v(0, 10 * Math.PI, 0)
  world.step()
  assert.deepEqual(
    heard.map(({ kind, cause }) => [kind, cause]),
    [
      ['begin', 'crossed'],
      ['end', 'crossed'],
    ],
  )
})

test('a teleport sweeps nothing, and what moves past sweeps by relative motion', () => {
  const { world, craft, gate, heard } = scene(sphere(0.2), v(0, 0, 0), box(0.4, 4, 4), v(5, 0, 0))
  craft.teleport(v(10, 0, 0))
  world.step()
  assert.deepEqual(heard, [])
  gate.type = 'kinematic'
  // Side by side they do not meet; towards each other they do.
  gate.arriveAt(v(15, 0, 0))
  craft.arriveAt(v(20, 0, 0))
  world.step()
  assert.deepEqual(heard, [])
  gate.arriveAt(v(25, 0, 0))
  craft.arriveAt(v(5, 0, 0))
  world.step()
  assert.deepEqual(
    heard.map(({ cause }) => cause),
    ['crossed', 'crossed'],
  )
})

test('what is told agrees with walking the way in small steps', () => {
  const random = new Random(31)
  const size = (): number => random.between(0.1, 1.5)
  const vec = (reach: number): Vec3 =>
    v(random.between(-reach, reach), random.between(-reach, reach), random.between(-reach, reach))
  const convex = (): Shape3 =>
    random.pick([
      () => sphere(size()),
      () => box(size(), size(), size()),
      () => capsule(vec(1), vec(1), size() / 2),
      () => cylinder(size(), size()),
      () => cone(size(), size()),
    ])()
  const zones = (): Shape3 =>
    random.chance(0.7)
      ? convex()
      : heightfield({ columns: 3, rows: 3, heights: Array.from({ length: 9 }, () => size()), cell: size() })
  let crossed = 0
  for (let i = 0; i < runs(400); i++) {
    const [shape, zone, at, zoneAt] = [convex(), zones(), vec(4), vec(1)]
    const rotation = rotationAbout(vec(1), random.between(-3, 3))
    const { world, craft, heard } = scene(shape, at, zone, zoneAt, rotation)
    const velocity = vec(10)
    const spin = random.chance(0.4) ? vec(4) : v(0, 0, 0)
    const gapAt = (t: number): number => {
      const turn = rotationAbout(
        spin.x === 0 && spin.y === 0 ? v(1, 0, 0) : spin,
        t * Math.hypot(spin.x, spin.y, spin.z),
      )
      return distance(shape, { at: add(at, scale(velocity, t)), rotation: product(turn, rotation) }, zone, {
        at: zoneAt,
        rotation: UPRIGHT,
      }).distance
    }
    world.step()
    // Where they meet at the start it was told, and the next tick would speak of its end.
    if (gapAt(0) <= 1e-6 || heard.length > 0) continue
    craft.velocity = velocity
    craft.spin = spin
    world.step()
    const gaps = Array.from({ length: 201 }, (_, k) => gapAt(k / 200))
    const least = Math.min(...gaps)
    const kinds = heard.map(({ kind }) => kind).join(' ')
    const told = `${shape.kind} past ${zone.kind}, case ${i}: ${kinds || 'nothing'} told`
    if (gaps[200] < -1e-6) assert.equal(kinds, 'begin', told)
    else if (gaps[200] > 1e-6 && least < -1e-3) assert.equal(kinds, 'begin end', `${told}, ${-least} deep`)
    else if (least > 0.02 * (Math.hypot(velocity.x, velocity.y, velocity.z) + 1)) assert.equal(kinds, '', told)
    if (kinds === 'begin end') {
      crossed++
      assert.deepEqual([heard[0].cause, heard[1].cause], ['crossed', 'crossed'])
    }
    for (const { when, kind } of heard) {
      assert.ok(Math.abs(gapAt(when)) < 1e-5, `${told}: ${gapAt(when)} apart at the ${kind}, ${when}`)
    }
  }
  assert.ok(crossed > runs(400) / 40, `${crossed} were crossed`)
})

function product(a: Q, b: Q): Q {
  return {
    x: a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y,
    y: a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x,
    z: a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w,
    w: a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z,
  }
}
