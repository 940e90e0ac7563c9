/** The story of the sluice: joints of every type in a scene, driven, aimed, broken and let go. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'
import { drawWorld2, drawWorld3, toSvg } from '../../src/draw/index.ts'
import { jointLine, logJsonSchema } from '../../src/record/index.ts'

const file = JSON.parse(readFileSync(new URL('../../scenes/sluice.json', import.meta.url), 'utf8'))

test('nothing is wrong with the scene of the sluice', () => {
  assert.deepEqual(check(file), [])
})

test('the story of the sluice: rope and weld break, the claw lets go, the boulders lie on the walkway, the trolley drives', () => {
  const player = playScene(readScene(file, '2d'))
  const ends: string[] = []
  let broken = 0
  while (player.world.tick < player.ticks) {
    const { joints } = player.step()
    for (const end of joints) {
      const line = jointLine(end)
      ends.push(`${line.joint} ${line.cause}`)
      assert.ok(line.force > 0 && line.tick === player.world.tick)
      if (end.cause === 'broken') {
        broken++
        assert.match(
          toSvg(drawWorld2(player.world)),
          /#ff5c5c/,
          'a joint that broke is marked in the picture of its tick',
        )
      }
    }
  }
  assert.deepEqual(ends, ['winch rope broken', 'claw removed', 'weld broken'])
  assert.equal(broken, 2)
  const { world } = player
  assert.ok(world.find('trolley')!.at.x > 22, 'the trolley has driven')
  const kept = world.bodies().filter((body) => body.name?.startsWith('boulder') && body.at.y > 1 && body.at.y < 4.5)
  assert.ok(kept.length >= 4, `${kept.length} boulders lie on the walkway`)
  for (const joint of world.joints()) {
    if (joint.type === 'hinge') assert.ok(joint.distance < 0.02, `${joint} is off by ${joint.distance} m`)
  }
  const gate = world.joints().find((joint) => joint.name === 'gate hinge')!
  assert.ok(Math.abs(gate.angle - 1.9) < 0.01, `the gate is open by ${gate.angle}`)
  assert.match(JSON.stringify(logJsonSchema()), /the end of a joint/)
})

test('mistakes with joints are found before the scene runs', () => {
  const broken = (change: (scene: typeof file) => void): string => {
    const scene = structuredClone(file)
    change(scene)
    return check(scene)
      .filter((problem) => problem.level === 'error')
      .map((problem) => `${problem.code} ${problem.place}: ${problem.message}`)
      .join('\n')
  }
  assert.match(
    broken((s) => (s.joints[0].b = 'gait')),
    /unknown-body joints\[0\]\.b: .*"gait".*gate/,
  )
  assert.match(
    broken((s) => (s.joints[0].a = s.joints[0].b)),
    /bad-value joints\[0\]\.b: .*itself/,
  )
  assert.match(
    broken((s) => (s.joints[0].limits = { min: 2, max: 1 })),
    /other way round/,
  )
  assert.match(
    broken((s) => s.joints.push({ ...s.joints[0] })),
    /duplicate-name/,
  )
  assert.match(
    broken((s) => s.joints.push({ type: 'fixed', name: 'x', a: 'winch', b: 'roof' })),
    /both-ends-static/,
  )
  assert.match(
    broken((s) => s.joints.push({ type: 'fixed', name: 'x', a: 'winch' })),
    /both-ends-static .*the world/,
  )
  assert.match(
    broken((s) => (s.actions[0].joint = 'gate hing')),
    /unknown-joint actions\[0\]\.joint/,
  )
  assert.match(
    broken((s) => (s.actions[0].motor = { speed: 1, force: 3 })),
    /has a torque/,
  )
  assert.match(
    broken((s) => (s.actions[0].joint = 'weld')),
    /no motor/,
  )
  assert.match(
    broken((s) => (s.actions[2].joint = 'weld')),
    /only a 'carry' has a target/,
  )
  assert.match(
    broken((s) => (s.joints[0].motr = {})),
    /motr/,
  )
})

test('joints of 3D in a scene: hinge with its axis, ball, axle with its wheel, a hand with a rotation; all drawn', () => {
  const part = (name: string, at: number[], size = [1, 1, 1]) => ({
    name,
    type: 'dynamic',
    at,
    mass: 2,
    colliders: [{ shape: { kind: 'box', x: size[0], y: size[1], z: size[2] }, layer: 'part' }],
  })
  const scene = {
    format: 'keen-sentry-scene',
    version: 1,
    name: 'Lantern Reef: a shed of joints',
    dimension: '3d',
    layers: { names: ['part'] },
    bodies: [
      part('door', [1, 5, 0]),
      part('lamp', [5, 5, 0]),
      part('hull', [10, 5, 0], [3, 0.4, 2]),
      part('wheel', [9, 4.5, 1.2], [0.4, 0.4, 0.2]),
      part('load', [20, 5, 0]),
    ],
    joints: [
      { type: 'hinge', name: 'door hinge', a: 'door', at: [0.4, 5, 0], axis: [0, 1, 0], limits: { min: 0, max: 1 } },
      { type: 'ball', name: 'lamp hook', a: 'lamp', at: [5, 6, 0], swing: 0.5, twist: { min: -1, max: 1 } },
      { type: 'fixed', name: 'stand', a: 'hull', at: [10, 5, 0] },
      { type: 'axle', name: 'axle', a: 'hull', b: 'wheel', at: [9, 4.5, 1.2], axis: [0, 1, 0], turn: [0, 0, 1] },
      {
        type: 'carry',
        name: 'crane',
        a: 'load',
        target: { at: [20, 7, 1], rotation: { axis: [0, 1, 0], angle: 1 } },
        force: 400,
      },
    ],
    actions: [
      { time: 1, do: 'motor', joint: 'door hinge', motor: { speed: 1, torque: 50 } },
      { time: 2, do: 'aim', joint: 'crane', target: [20, 9, 0] },
    ],
  }
  assert.deepEqual(
    check(scene).filter(({ level }) => level !== 'hint'),
    [],
  )
  const player = playScene(readScene(scene, '3d'))
  while (player.world.tick < 300) player.step()
  const [door, lamp, , axle, crane] = player.world.joints()
  assert.ok(Math.abs(door.angle - 1) < 0.01, `the door is open by ${door.angle}`)
  assert.ok(lamp.lean < 0.52)
  assert.ok(axle.offset < 0 && axle.offset > -0.5, `the wheel hangs by ${axle.offset}`)
  assert.ok(Math.abs(player.world.find('load')!.at.y - 9) < 0.1 && crane.alive)
  const { items } = drawWorld3(player.world, { labels: false })
  assert.ok(items.filter(({ kind }) => kind === 'line').length > 30, 'arcs and springs are lines')
  assert.ok(items.filter(({ kind }) => kind === 'mark').length >= 5, 'and every joint has its mark')
})
