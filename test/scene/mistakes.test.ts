/** One scene for each mistake, and its twin put right: `check` names the first, with place and cure, and is silent on the second. */
import assert from 'node:assert/strict'
import { readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'
import { nothingText } from '../../scripts/write-nothing.ts'
import { MISTAKES_FOLDER as folder, readMistake as read, SCENE_MISTAKES } from '../helpers/sceneMistakes.ts'

test('every file of mistakes is expected, and has its twin', () => {
  const names = readdirSync(folder).map((name) => name.replace(/(\.right)?\.json$/, ''))
  assert.deepEqual([...new Set(names)].sort(), Object.keys(SCENE_MISTAKES).sort())
  assert.equal(names.length, 2 * Object.keys(SCENE_MISTAKES).length)
})

for (const [name, [code, place]] of Object.entries(SCENE_MISTAKES)) {
  test(`${name}: named with its place; put right, there is nothing to say`, () => {
    const problems = check(read(`${name}.json`))
    const found = problems.find((problem) => problem.code === code && problem.place === place)
    assert.ok(found, `got ${JSON.stringify(problems, null, 1)}`)
    assert.ok(found.level === 'error' || (found.cure ?? '').length > 10, 'a warning without a cure')
    const right = read(`${name}.right.json`)
    assert.deepEqual(check(right), [])
    const player = playScene(readScene(right))
    for (let tick = 0; tick < player.ticks; tick++) player.step()
  })
}

test('docs/nothing-happens.md is made from the mistakes, in code and in scenes', () => {
  assert.equal(readFileSync('docs/nothing-happens.md', 'utf8'), nothingText(), 'run `npm run nothing`')
})
