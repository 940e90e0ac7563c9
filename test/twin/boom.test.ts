/** Camera arms, and shapes that are cast as a collider, with its one-way sides. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { defineLayers } from '../../src/2d/index.ts'
import { DIMENSIONS } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const layers = defineLayers(['rock', 'craft', 'kelp'], { otherwise: 'solid' })

for (const d of DIMENSIONS) {
  test(`${d.name}: an arm stops before what comes between, at once, and goes back softly`, () => {
    const world = d.createWorld({ layers })
    const craft = world.add({ type: 'kinematic', colliders: [{ shape: d.circle(0.5), layer: 'craft' }] })
    const wall = world.add({ type: 'static', at: d.at(4, 0), colliders: [{ shape: d.box(1, 4), layer: 'rock' }] })
    world.add({ type: 'static', at: d.at(2, 0), colliders: [{ shape: d.box(0.1, 4), layer: 'kelp' }] })
    const arm = d.boom(world, { radius: 0.3, margin: 0.2, halfLife: 0.5, filter: { layers: ['rock'], except: craft } })
    const view = arm.aim(craft.at, d.at(8, 0), 1 / 60)
    assert.ok(Math.abs(view.at.x - (3.5 - 0.3 - 0.2)) < 1e-9, `it is at ${view.at.x}`)
    assert.ok(Math.abs(view.length - 3) < 1e-9)
    assert.equal(view.heldBy, wall.colliders[0])
    wall.teleport(d.at(4, 50))
    arm.aim(craft.at, d.at(8, 0), 0.5)
    assert.ok(Math.abs(view.length - 5.5) < 1e-9, `half of the way back in a half life: ${view.length}`)
    assert.equal(view.heldBy, null)
    for (let i = 0; i < 600; i++) arm.aim(craft.at, d.at(8, 0), 1 / 60)
    assert.ok(view.length > 8 - 1e-3 && view.length <= 8, `all the way in the end: ${view.length}`)
    wall.teleport(d.at(2, 0))
    arm.aim(craft.at, d.at(8, 0), 1 / 60)
    assert.ok(Math.abs(view.length - 1) < 1e-9, 'near at once')
    wall.teleport(d.at(4, 50))
    arm.reset()
    assert.equal(arm.aim(craft.at, d.at(8, 0), 1 / 60).length, 8, 'after a cut it is there at once')
    assert.equal(arm.aim(craft.at, craft.at, 1 / 60).length, 0, 'a wish that is the target itself')
  })

  test(`${d.name}: an arm refuses what makes no sense, and keeps its least length`, () => {
    const world = d.createWorld({ layers })
    world.add({ type: 'static', colliders: [{ shape: d.box(3, 3), layer: 'rock' }] })
    const arm = d.boom(world, { radius: 0.3, least: 0.5 })
    assert.equal(arm.aim(d.at(0, 0), d.at(5, 0), 0).length, 0.5, 'from within a wall')
    throwsKeen('bad-number', /radius/, () => d.boom(world, { radius: 0 }))
    throwsKeen('bad-number', /margin/, () => d.boom(world, { radius: 1, margin: -1 }))
    throwsKeen('bad-argument', /softness/, () => d.boom(world, { radius: 1, softness: 1 } as never))
    throwsKeen('bad-argument', /world/, () => d.boom({} as never, { radius: 1 }))
    throwsKeen('bad-number', /seconds/, () => arm.aim(d.at(0, 0), d.at(5, 0), Number.NaN))
    throwsKeen('bad-argument', /target/, () => arm.aim(null as never, d.at(5, 0), 1))
  })

  test(`${d.name}: cast as a collider, a shape is held by one-way sides as that is`, () => {
    const world = d.createWorld({ layers })
    const ledge = world.add({
      type: 'static',
      ...d.turned(0, 0, Math.PI / 2),
      // About the body: along x of it, which is up in the world.
      colliders: [{ shape: d.box(0.2, 6), layer: 'rock', oneWay: d.at(1, 0) }],
    })
    const body = world.add({ type: 'kinematic', at: d.at(9, 9), colliders: [{ shape: d.circle(0.5), layer: 'craft' }] })
    const [own] = body.colliders
    const cast = (fromY: number, toY: number) => ({ shape: d.circle(0.5), from: d.at(0, fromY), to: d.at(0, toY) })
    assert.equal(world.shapecast.first(cast(-3, 3), { as: own }), null, 'up it passes')
    assert.equal(world.shapecast.first(cast(3, -3), { as: own })?.body, ledge, 'down it is held')
    assert.equal(world.shapecast.any(cast(0.1, -3), { as: own }), false, 'half way through it falls')
    assert.equal(world.shapecast.all(cast(-3, 3), { as: 'craft' }).length, 1, 'as a layer it knows no sides')
    assert.equal(world.shapecast.first(cast(-3, 3))?.body, ledge, 'nor as nobody')
    own.oneWay = d.at(0, -1)
    assert.equal(world.shapecast.any(cast(3, -3), { as: own }), true, 'its own side holds what comes against it')
    own.oneWay = d.at(0, 1)
    assert.equal(world.shapecast.any(cast(3, -3), { as: own }), false, 'and lets through what comes along it')
  })
}
