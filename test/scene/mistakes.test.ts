/** One scene for each mistake, and its twin put right: `check` names the first, with place and cure, and is silent on the second. */
import assert from 'node:assert/strict'
import { readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'

const folder = new URL('../mistakes/', import.meta.url)
const read = (name: string): unknown => JSON.parse(readFileSync(new URL(name, folder), 'utf8'))

/** Which code a file must get, where its name says more, and at which place. */
const EXPECTED: Record<string, [code: string, place: string]> = {
  'after-removal': ['after-removal', 'actions[1]'],
  'bad-index': ['bad-index', 'watches[0].a.collider'],
  'bad-shape': ['bad-shape', 'bodies[0].colliders[1].shape'],
  'bad-sign': ['bad-shape', 'bodies[0].colliders[0].shape'],
  'both-ends-static': ['both-ends-static', 'joints[0]'],
  'both-static': ['both-static', 'watches[0]'],
  'box-by-box': ['box-by-box', 'bodies[0]'],
  degrees: ['degrees', 'bodies[0].angle'],
  'duplicate-name': ['duplicate-name', 'bodies[1].name'],
  'empty-layer': ['empty-layer', 'layers.pairs[1][0]'],
  'gravity-upwards': ['gravity-upwards', 'gravity'],
  'machine-parts': ['machine-parts', 'bodies[2]'],
  'narrow-hole': ['narrow-hole', 'bodies[0].colliders[0].shape'],
  'never-matches': ['never-matches', 'watches[0]'],
  'never-matches-impulse': ['never-matches', 'watches[0].over'],
  'never-matches-ray': ['never-matches', 'rays[0].filter.layers'],
  'no-collider': ['no-collider', 'bodies[1]'],
  'no-floor': ['no-floor', 'bodies[1]'],
  'no-mass': ['no-mass', 'bodies[1]'],
  'no-motion': ['no-motion', 'bodies[3].type'],
  'no-sweep': ['no-sweep', 'bodies[1].sweep'],
  'no-tiles': ['no-tiles', 'actions[0].body'],
  'no-unit': ['no-unit', ''],
  'not-dynamic': ['not-dynamic', 'bodies[0].mass'],
  'one-sided': ['one-sided', 'bodies[2].colliders[0].solid'],
  'path-after-removal': ['after-removal', 'bodies[2].path.points[2]'],
  'ray-inside': ['ray-inside', 'rays[0]'],
  'sensor-floor': ['sensor-floor', 'bodies[1]'],
  'silences-nothing': ['silences-nothing', 'silence[0]'],
  'start-in-rock': ['start-overlap', 'bodies[1]'],
  'start-overlap': ['start-overlap', 'bodies[2]'],
  'static-moves': ['static-moves', 'bodies[0].velocity'],
  'torn-joint': ['torn-joint', 'joints[0]'],
  'twin-colliders': ['twin-colliders', 'bodies[2].colliders[1]'],
  'uneven-masses': ['uneven-masses', 'joints[1]'],
  'unknown-body': ['unknown-body', 'watches[0].b.body'],
  'unknown-kind': ['unknown-kind', 'actions[0].tile'],
  'unknown-layer': ['unknown-layer', 'bodies[2].colliders[0].layer'],
  'unused-kind': ['unused-kind', 'bodies[0].colliders[0].shape.kinds["~"]'],
  'weak-motor': ['weak-motor', 'joints[0].motor'],
  'within-tiles': ['within-tiles', 'bodies[1].colliders[0]'],
}

test('every file of mistakes is expected, and has its twin', () => {
  const names = readdirSync(folder).map((name) => name.replace(/(\.right)?\.json$/, ''))
  assert.deepEqual([...new Set(names)].sort(), Object.keys(EXPECTED).sort())
  assert.equal(names.length, 2 * Object.keys(EXPECTED).length)
})

for (const [name, [code, place]] of Object.entries(EXPECTED)) {
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
