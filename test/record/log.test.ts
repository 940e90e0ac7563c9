/** The event log: its form, its published schema, and what a broken one is called. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { playScene, readScene } from '../../scenes-package/src/scene/index.ts'
import { EventLog, eventLine, headerLine, type LogEvent, logJsonSchema, readLog } from '../../src/record/index.ts'
import { throwsKeen } from '../helpers/throws.ts'

const file = (path: string): string => readFileSync(new URL(`../../${path}`, import.meta.url), 'utf8')

/** The demo's log, written from code. */
function reefLog(): string {
  const player = playScene(readScene(JSON.parse(file('scenes/lantern-reef.json')), '2d'))
  let text = ''
  const log = new EventLog(headerLine(player.scene.name, '0'.repeat(64), '2d', player.world.rate), (line) => {
    text += line
  })
  for (let tick = 0; tick < player.ticks; tick++) for (const event of player.step().events) log.add(eventLine(event))
  log.finish(player.ticks)
  return text
}

test('every line of the demo has the published form; begins and ends come in turn', () => {
  const lines = readLog(reefLog())
  assert.ok(lines.length > 20)
  assert.deepEqual(lines[lines.length - 1], {
    kind: 'done',
    ticks: 1200,
    counts: { begin: 12, end: 11 },
  })
  const open = new Set<string>()
  for (const line of lines.slice(1, -1) as LogEvent[]) {
    const key = `${line.watch} ${line.a} ${line.b}`
    assert.equal(open.has(key), line.kind === 'end', key)
    if (line.kind === 'begin') open.add(key)
    else open.delete(key)
  }
})

test('the published schema is the one of the definition', () => {
  assert.deepEqual(
    JSON.parse(file('schema/event-log.schema.json')),
    JSON.parse(JSON.stringify(logJsonSchema())),
    'run `npm run schema`',
  )
})

test('a broken log is refused with the number of the line', () => {
  const text = reefLog()
  throwsKeen('bad-log', /line 1 of the log is no header/, () => readLog(text.split('\n').slice(1).join('\n')))
  throwsKeen('bad-log', /line 3 of the log is not JSON/, () => readLog(`${text.split('\n', 2).join('\n')}\n{"tick":`))
  throwsKeen('bad-log', /line 2 of the log is no line/, () =>
    readLog(text.replace('"cause":"added"', '"cause":"luck"')),
  )
})
