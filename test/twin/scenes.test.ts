/** Scenes of 2D played in 3D: the same mistakes are found, and the same events are told. */
import assert from 'node:assert/strict'
import { readdirSync, readFileSync } from 'node:fs'
import { test } from 'node:test'
import { check, playScene, readScene } from '../../scenes-package/src/scene/index.ts'
import { eventLine, type LogEvent } from '../../src/record/index.ts'
import { lifted } from '../helpers/lift.ts'

const read = (path: string): Record<string, unknown> =>
  JSON.parse(readFileSync(new URL(`../../${path}`, import.meta.url), 'utf8'))

/** What a scene tells, tick by tick. */
function told(json: unknown): LogEvent[] {
  const player = playScene(readScene(json))
  const lines: LogEvent[] = []
  for (let tick = 0; tick < player.ticks; tick++) for (const event of player.step().events) lines.push(eventLine(event))
  return lines
}

/** An event without what rounding may differ in, and without a place. */
function fact({ kind, tick, watch, a, b, aCollider, bCollider, response, cause }: LogEvent): string {
  return `${tick} ${watch} ${kind} ${a}:${aCollider} ${b}:${bCollider} ${response} ${cause}`
}

test('the demo scene tells the same in 3D', () => {
  const plane = read('scenes/lantern-reef.json')
  const space = lifted(plane)!
  assert.deepEqual(check(space), [])
  const one = told(plane)
  const other = told(space)
  assert.ok(one.length > 20, `only ${one.length} events`)
  assert.deepEqual(other.map(fact), one.map(fact))
  for (const [i, line] of one.entries()) {
    assert.ok(Math.abs(line.when - other[i].when) < 1e-6, `${fact(line)}: when ${line.when}, in 3D ${other[i].when}`)
    assert.ok(Math.abs(line.dwell - other[i].dwell) < 1e-9, `${fact(line)}: dwell`)
    for (const axis of [0, 1]) {
      const [here, there] = [line.normal?.[axis] ?? 0, other[i].normal?.[axis] ?? 0]
      assert.ok(Math.abs(here - there) < 1e-6, `${fact(line)}: normal ${line.normal}, in 3D ${other[i].normal}`)
    }
  }
})

const folder = new URL('../mistakes/', import.meta.url)
const names = readdirSync(folder).filter((name) => !name.endsWith('.right.json'))
let compared = 0
for (const name of names) {
  const plane = read(`test/mistakes/${name}`)
  const space = lifted(plane)
  if (space === null) continue
  compared++
  test(`${name} is the same mistake in 3D, and put right there is nothing to say`, () => {
    const facts = (json: unknown) => check(json).map(({ level, code, place }) => `${level} ${code} at ${place}`)
    assert.ok(facts(plane).length > 0, 'no mistake in 2D')
    assert.deepEqual(facts(space), facts(plane))
    const right = lifted(read(`test/mistakes/${name.replace('.json', '.right.json')}`))!
    assert.deepEqual(check(right), [])
    assert.deepEqual(
      told(right).map(fact),
      told(read(`test/mistakes/${name.replace('.json', '.right.json')}`)).map(fact),
    )
  })
}

test('enough of the mistakes are of both dimensions', () => assert.ok(compared >= 15, `only ${compared}`))
