/** The story of the mine: charges open caverns, boulders come down into the sump, a roof that lost its pillar falls. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'
import type { Tiles } from '../../src/2d/index.ts'
import { drawWorld2, toSvg } from '../../src/draw/index.ts'

const file = JSON.parse(readFileSync(new URL('../../scenes/mine.json', import.meta.url), 'utf8'))

test('nothing is wrong with the mine, and it is as large as it says', () => {
  assert.deepEqual(check(file), [])
  const { rows } = file.bodies[0].colliders[0].shape
  assert.deepEqual([rows[0].length, rows.length], [200, 120])
})

test('the story of the mine', () => {
  const player = playScene(readScene(file, '2d'))
  const { world } = player
  const mine = world.find('mine')!
  const tilesOf = () => mine.colliders.reduce((sum, { shape }) => sum + (shape as Tiles).count, 0)
  const counts = [tilesOf()]
  const wet = new Set<string>()
  let lantern = 0
  while (world.tick < player.ticks) {
    const { actions, events } = player.step()
    if (actions.some((action) => action.do === 'carve')) counts.push(tilesOf())
    for (const event of events) if (event.kind === 'begin' && String(event.b) === 'mine') wet.add(String(event.a))
    if (world.tick === 300) {
      lantern = world.find('lantern')!.at.y
      assert.match(toSvg(drawWorld2(world)), /1[78],\d{3} tiles in [67]\d\d edges/)
    }
  }
  for (let i = 1; i < counts.length; i++) assert.ok(counts[i] < counts[i - 1], `blast ${i}: ${counts}`)
  assert.ok([...wet].filter((name) => name.startsWith('boulder')).length >= 2, `in the sump: ${[...wet]}`)
  const roof = world.find('mine piece 1')!
  assert.ok(roof.type === 'dynamic' && Math.abs(roof.spin) < 0.01, 'the roof has come to rest on its foot')
  assert.ok(world.find('lantern')!.at.y < lantern - 2, 'the lantern came down with it')
  for (const body of world.bodies()) {
    if (body.type === 'dynamic') assert.ok(body.at.x > 1 && body.at.x < 199 && body.at.y > 1, `${body} left the mine`)
  }
})
