/** What only joints of 3D do: axes, cones and twists, wheels, hands that turn. What both dimensions do stands in `test/twin/joints.test.ts`. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import {
  type Body3,
  box,
  capsule,
  createWorld,
  cylinder,
  defineLayers,
  halfspace,
  rotated,
  rotationAbout,
  type Vec3,
} from '../../src/3d/index.ts'
import { Random } from '../helpers/random.ts'

const layers = defineLayers(['rock', 'crate'])
const v = (x: number, y: number, z: number): Vec3 => ({ x, y, z })
const room = (gravity = -10) => createWorld({ layers, gravity: v(0, gravity, 0) })
type World = ReturnType<typeof room>
const dot = (a: Vec3, b: Vec3): number => a.x * b.x + a.y * b.y + a.z * b.z
const near = (found: number, wanted: number, within: number, what: string): void =>
  assert.ok(Math.abs(found - wanted) <= within, `${what}: ${found} instead of ${wanted}`)
const crate = (world: World, at: Vec3, size = v(1, 1, 1), mass = 1): Body3 =>
  world.add({ type: 'dynamic', at, mass, colliders: [{ shape: box(size.x, size.y, size.z), layer: 'crate' }] })
const run = (world: World, ticks: number): void => {
  for (let i = 0; i < ticks; i++) world.step()
}

test('a door turns about its hinge alone, however it is struck; the angle goes on beyond a turn', () => {
  const random = new Random(3)
  for (let round = 0; round < 6; round++) {
    const world = room(0)
    const axis = v(random.between(-1, 1), random.between(-1, 1), random.between(0.2, 1))
    const length = Math.hypot(axis.x, axis.y, axis.z)
    const unit = v(axis.x / length, axis.y / length, axis.z / length)
    const door = crate(world, v(0.6, 0, 0), v(1, 1.8, 0.1), 10)
    const hinge = world.join({ type: 'hinge', a: door, at: v(0, 0, 0), axis })
    let turned = 0
    for (let tick = 0; tick < 240; tick++) {
      if (tick % 40 === 0) {
        const push = v(random.between(-20, 20), random.between(-20, 20), random.between(-20, 20))
        door.applyImpulse(push, v(door.at.x, door.at.y + 0.3, door.at.z))
      }
      world.step()
      const along = dot(rotated(door.rotation, unit), unit)
      assert.ok(along > 1 - 1e-4, `round ${round}: the axis leans by ${Math.acos(along)}`)
      assert.ok(hinge.distance < 2e-3, `round ${round}: off by ${hinge.distance}`)
      turned += dot(door.spin, unit) / 60
    }
    near(hinge.angle, turned, 0.05 + 0.02 * Math.abs(turned), `round ${round}: the angle`)
  }
})

test('a ball joint leans within its cone and is twisted within its limits, at speed and for long', () => {
  const world = room()
  const arm = world.add({
    type: 'dynamic',
    at: v(0, -0.5, 0),
    spinDamping: 0.1,
    colliders: [{ shape: capsule(v(0, 0.4, 0), v(0, -0.4, 0), 0.08), layer: 'crate' }],
  })
  const joint = world.join({
    type: 'ball',
    a: arm,
    at: v(0, 0, 0),
    axis: v(0, -1, 0),
    swing: 0.5,
    twist: { min: -0.4, max: 0.6 },
  })
  const random = new Random(8)
  let leans = 0
  let twists = 0
  for (let tick = 0; tick < 600; tick++) {
    if (tick % 60 === 0) {
      arm.spin = v(random.between(-8, 8), random.between(-20, 20), random.between(-8, 8))
    }
    world.step()
    leans = Math.max(leans, joint.lean)
    twists = Math.max(twists, Math.abs(joint.angle))
    assert.ok(joint.lean < 0.53, `tick ${tick}: it leans by ${joint.lean}`)
    assert.ok(joint.angle < 0.65 && joint.angle > -0.45, `tick ${tick}: it is twisted by ${joint.angle}`)
    assert.ok(joint.distance < 1e-3, 'the point is held')
  }
  assert.ok(leans > 0.45, `it comes to its cone: ${leans}`)
  assert.ok(twists > 0.4, `and to its twist: ${twists}`)
  joint.swing = null
  joint.twist = null
  arm.velocity = v(3, 0, 0)
  run(world, 20)
  assert.equal(joint.swing, null)
})

test('a slide keeps its turn under a twist, and a weld is one body with what it holds', () => {
  const world = room(0)
  const drawer = crate(world, v(0, 0, 0), v(1, 0.4, 0.6), 5)
  const slide = world.join({ type: 'slide', a: drawer, at: v(0, 0, 0), axis: v(0, 0, 1), limits: { min: 0, max: 0.8 } })
  for (let tick = 0; tick < 240; tick++) {
    drawer.applyTorque(v(30, -20, 10))
    drawer.applyForce(v(10, 5, 4))
    world.step()
  }
  near(slide.offset, 0.8, 1e-3, 'it is out by')
  near(drawer.at.x, 0, 1e-3, 'and not aside')
  near(drawer.rotation.w, 1, 1e-6, 'nor turned')
  near(slide.torque, Math.hypot(30, 20, 10), 0.5, 'it is twisted by')
  const post = crate(world, v(5, 0, 0), v(0.2, 2, 0.2), 3)
  const beam = crate(world, v(6, 1, 0), v(2, 0.2, 0.2), 2)
  world.join({ type: 'fixed', a: post, b: beam, at: v(5, 1, 0) })
  beam.applyImpulse(v(0, 3, 8), v(7, 1, 0))
  run(world, 240)
  const apart = v(beam.at.x - post.at.x, beam.at.y - post.at.y, beam.at.z - post.at.z)
  const own = rotated({ x: -post.rotation.x, y: -post.rotation.y, z: -post.rotation.z, w: post.rotation.w }, apart)
  near(own.x, 1, 5e-3, 'x of the beam about the post')
  near(own.y, 1, 5e-3, 'y')
  near(own.z, 0, 5e-3, 'z')
})

test('wheels of a cart turn about their own axles, spring along theirs, and drive it straight on', () => {
  const world = room()
  world.add({ type: 'static', colliders: [{ shape: halfspace(v(0, 1, 0), 0), layer: 'rock', friction: 1 }] })
  const hull = crate(world, v(0, 0.9, 0), v(2.4, 0.4, 1.2), 30)
  const flat = rotationAbout(v(1, 0, 0), Math.PI / 2)
  const axles = [-0.9, 0.9].flatMap((x) =>
    [-0.75, 0.75].map((z) => {
      const wheel = world.add({
        type: 'dynamic',
        at: v(x, 0.4, z),
        rotation: flat,
        mass: 3,
        colliders: [{ shape: cylinder(0.2, 0.4), layer: 'crate', friction: 1 }],
      })
      const at = v(x, 0.4, z)
      const spring = { frequency: 5, damping: 0.7, axis: v(0, 1, 0), turn: v(0, 0, 1) }
      return world.join({ type: 'axle', a: hull, b: wheel, at, ...spring })
    }),
  )
  run(world, 90)
  for (const axle of axles) {
    assert.ok(axle.offset > 0.01 && axle.offset < 0.2, `a wheel is pressed up by ${axle.offset}`)
    axle.motor = { speed: -6, torque: 20 }
  }
  run(world, 240)
  near(hull.velocity.x, 2.4, 0.05, 'it drives at')
  near(hull.at.z, 0, 0.05, 'straight on')
  for (const axle of axles) {
    near(axle.speed, -6, 0.05, 'a wheel turns at')
    const { turn } = axle.anchors
    near(Math.abs(dot(rotated(axle.b!.rotation, v(0, 1, 0)), turn)), 1, 1e-4, 'about its axle')
  }
})

test('a hand turns its load to the rotation that it is given, by the short way', () => {
  const world = room(0)
  const load = crate(world, v(0, 0, 0), v(1, 0.3, 0.5), 4)
  const target = { at: v(1, 2, 3), rotation: rotationAbout(v(1, 2, -0.5), 2.2) }
  const hand = world.join({ type: 'carry', a: load, target, force: 500, torque: 60 })
  assert.equal(hand.target.rotation!.w.toFixed(6), target.rotation.w.toFixed(6))
  run(world, 180)
  near(load.at.y, 2, 1e-3, 'it is at')
  const { x, y, z, w } = target.rotation
  const q = load.rotation
  near(Math.abs(q.x * x + q.y * y + q.z * z + q.w * w), 1, 1e-5, 'turned as it should be')
  hand.target = v(0, 0, 0)
  assert.equal(hand.target.rotation, null)
  load.spin = v(0, 3, 0)
  run(world, 60)
  assert.ok(Math.hypot(load.spin.x, load.spin.y, load.spin.z) > 2, 'a point leaves its turn alone')
})
