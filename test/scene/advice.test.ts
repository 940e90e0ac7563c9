/** The demo scenes, played with advice: nothing is worth a look. One that was spoilt is told, by the command too. */
import assert from 'node:assert/strict'
import { readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'
import { loadModels, playScene, readScene } from '../../scenes-package/src/scene/index.ts'

const folder = new URL('../../scenes/', import.meta.url)
const read = (name: string) => JSON.parse(readFileSync(new URL(name, folder), 'utf8'))

for (const name of readdirSync(folder).filter((file) => file.endsWith('.json'))) {
  test(`${name}: nothing is worth a look`, async () => {
    const scene = readScene(read(name))
    const models = await loadModels(scene, (file) => readFileSync(new URL(file, folder)))
    const player = playScene(scene, models, { advise: true })
    while (player.world.tick < player.ticks) player.step()
    assert.deepEqual(player.world.advice(), [])
  })
}

test('the reef with a pair that lets pass: the watch that goes silent is told, with the cure', () => {
  const scene = read('lantern-reef.json')
  scene.layers.pairs.push(['fauna', 'zone', 'pass'])
  scene.watches = [{ name: 'lobby', a: 'fauna', b: 'zone' }]
  const player = playScene(readScene(scene, '2d'), undefined, { advise: true })
  while (player.world.tick < 600) player.step()
  const [advice, ...rest] = player.world.advice()
  assert.deepEqual(rest, [])
  assert.equal(advice.code, 'silent-watch')
  assert.match(advice.text, /watch lobby has told nothing in 600 ticks/)
  assert.match(advice.cure, /setPair\('(fauna', 'zone|zone', 'fauna)'/)
})
