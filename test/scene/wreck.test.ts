/** The story of the wreck: cargo slides out and piles up, pebbles roll into the pit, a pod comes down, a charge bursts a stack. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'

const file: unknown = JSON.parse(readFileSync(new URL('../../scenes/wreck.json', import.meta.url), 'utf8'))

test('nothing is wrong with the scene of the wreck', () => {
  assert.deepEqual(check(file), [])
})

test('the story of the wreck', () => {
  const player = playScene(readScene(file, '3d'))
  const told: { time: number; kind: string; a: string; b: string; impulse: number }[] = []
  const height = (name: string): number => player.world.find(name)!.at.y
  let blown = 0
  while (player.world.tick < player.ticks) {
    const { actions, events } = player.step()
    for (const { time, kind, a, b, impulse } of events) told.push({ time, kind, a: String(a), b: String(b), impulse })
    if (actions.some((each) => each.do === 'blast')) blown = player.world.time
    for (const { at, velocity } of player.world.bodies()) {
      assert.ok([at.x, at.y, at.z, velocity.x, velocity.y, velocity.z].every(Number.isFinite))
      assert.ok(at.y > -4 && at.y < 15, 'nothing sinks through the sea bed, or is thrown out of sight')
    }
  }
  const out = new Set(told.filter((each) => each.kind === 'end' && each.b === 'wreck').map((each) => each.a))
  assert.ok(out.size >= 6, `${out.size} pieces of cargo slid out`)
  const pebbles = new Set(told.filter((each) => each.b === 'pit' && each.kind === 'begin').map((each) => each.a))
  assert.ok(pebbles.size >= 12, `${pebbles.size} pebbles rolled into the pit`)
  const [blow] = told.filter((each) => each.a === 'pod' && each.b === 'sea bed')
  assert.ok(blow.impulse > 500 && blow.time > 2 && blow.time < 3, `the pod strikes with ${blow.impulse} Ns`)
  assert.ok(
    blown > 6.9 && !told.some((each) => each.a.startsWith('box') && each.time > 1 && each.time < 6.9),
    'the stack stands',
  )
  assert.ok(
    told.some((each) => each.a.startsWith('box') && each.time > blown),
    'and is burst',
  )
  assert.ok(height('box 4.1') < 3.5)
})

test('a scene runs to the same bits twice', () => {
  const run = (): string => {
    const player = playScene(readScene(file, '3d'))
    for (let tick = 0; tick < 250; tick++) player.step()
    return JSON.stringify(player.world.bodies().map((body) => [body.at, body.rotation, body.velocity, body.spin]))
  }
  assert.equal(run(), run())
})
