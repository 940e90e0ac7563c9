/** The story of the salvage scene: crates that pile up and slide, pebbles through the grate, a struck craft, a mine. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'

const file: unknown = JSON.parse(readFileSync(new URL('../../scenes/salvage.json', import.meta.url), 'utf8'))

test('nothing is wrong with the salvage scene', () => {
  assert.deepEqual(check(file), [])
})

test('the story of the salvage scene', () => {
  const player = playScene(readScene(file, '2d'))
  const told: { time: number; kind: string; a: string; b: string; impulse: number; cause: string }[] = []
  while (player.world.tick < player.ticks) {
    for (const { time, kind, a, b, impulse, cause } of player.step().events) {
      told.push({ time, kind, a: String(a), b: String(b), impulse, cause })
    }
  }
  const first = (kind: string, a: RegExp, b: RegExp) =>
    told.find((each) => each.kind === kind && a.test(each.a) && b.test(each.b))
  const pebbles = new Set(told.filter((each) => each.b === 'bin' && each.kind === 'begin').map((each) => each.a))
  assert.ok(pebbles.size >= 6, `${pebbles.size} pebbles fell into the bin`)
  assert.ok(!told.some((each) => each.b === 'bin' && each.a.startsWith('crate')), 'the grate stops crates')
  assert.ok(
    first('begin', /^crate/, /^grate$/)!.time > first('begin', /^crate/, /^belt$/)!.time,
    'the belt brings them',
  )
  const blow = first('impact', /^lantern$/, /^crate/)!
  assert.ok(blow.impulse > 20 && blow.time < 5, 'a crate strikes the craft')
  const ledge = first('begin', /^float$/, /^silt ledge$/)!
  assert.ok(ledge.time > 5.5 && ledge.time < 9, 'the float goes up through the ledge, and comes down on it')
  assert.equal(player.world.find('mine'), null)
  assert.ok(first('end', /^float$/, /^silt ledge$/)!.time > 10, 'and is thrown off by the mine')
})

test('a scene runs to the same bits twice', () => {
  const run = (): string => {
    const player = playScene(readScene(file, '2d'))
    for (let tick = 0; tick < 400; tick++) player.step()
    return JSON.stringify(player.world.bodies().map((body) => [body.at, body.angle, body.velocity]))
  }
  assert.equal(run(), run())
})
