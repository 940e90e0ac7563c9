/** The small parts of the core, each against something plainer. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { fixedClock, nearestName } from '../../src/core/index.ts'
import { IntList, PairMap, Table } from '../../src/core/state/table.ts'
import { cosSin } from '../../src/core/util/maths.ts'
import { editDistance } from '../../src/core/util/suggestions.ts'
import { runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'

test('cosine and sine are within two units of the last place of the engine, and exact at 0', () => {
  const out = new Float64Array(3)
  cosSin(out, 0)
  assert.deepEqual([...out], [0, 1, 0])
  fc.assert(
    fc.property(fc.double({ min: -1e5, max: 1e5, noNaN: true }), (angle) => {
      out[0] = angle
      cosSin(out, 0)
      assert.ok(Math.abs(out[1] - Math.cos(angle)) < 4e-16, `cos ${angle}`)
      assert.ok(Math.abs(out[2] - Math.sin(angle)) < 4e-16, `sin ${angle}`)
    }),
    { numRuns: runs(5000) },
  )
  out[0] = 1e9
  cosSin(out, 0)
  assert.ok(Math.abs(out[1] ** 2 + out[2] ** 2 - 1) < 1e-12)
})

test('a map of pairs holds what a plain map holds, through growth and deletion', () => {
  const key = fc.tuple(fc.nat(40), fc.nat(40))
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.constantFrom('set', 'delete'), key, fc.nat(1000)), { maxLength: 400 }),
      (operations) => {
        const map = new PairMap()
        const plain = new Map<string, number>()
        for (const [what, [a, b], value] of operations) {
          if (what === 'set') {
            map.set(a, b, value)
            plain.set(`${a},${b}`, value)
          } else {
            map.delete(a, b)
            plain.delete(`${a},${b}`)
          }
        }
        assert.equal(map.count, plain.size)
        for (let a = 0; a <= 40; a++)
          for (let b = 0; b <= 40; b++) assert.equal(map.get(a, b), plain.get(`${a},${b}`) ?? -1)
      },
    ),
    { numRuns: runs(200) },
  )
})

test('a list sorts, inserts in order and removes as an array does', () => {
  fc.assert(
    fc.property(fc.array(fc.integer()), fc.array(fc.integer()), (first, second) => {
      const before = (a: number, b: number): boolean => a < b
      const list = new IntList()
      for (const value of first) list.push(value)
      list.sort(before)
      for (const value of second) list.insertSorted(value, before)
      const plain = [...first, ...second].sort((a, b) => a - b)
      assert.deepEqual([...list.data.subarray(0, list.length)], plain)
      for (const value of first) assert.ok(list.remove(value))
      assert.equal(list.length, second.length)
      assert.equal(list.remove(2 ** 31), false)
    }),
    { numRuns: runs(300) },
  )
})

test('a table gives cleared slots again, latest first, and keeps its columns while it grows', () => {
  const table = new Table(2)
  const column = table.f64(2)
  const slots = Array.from({ length: 9 }, () => table.claim())
  for (const slot of slots) column.data[2 * slot] = slot + 0.5
  assert.deepEqual(
    slots.map((slot) => column.data[2 * slot]),
    slots.map((slot) => slot + 0.5),
  )
  table.release(3)
  table.release(7)
  assert.equal(table.count, 7)
  assert.equal(table.claim(), 7)
  assert.equal(column.data[14], 0)
  assert.equal(table.claim(), 3)
})

test('the nearest name is the one a typo away, and none when nothing is near', () => {
  assert.equal(editDistance('craft', 'craft'), 0)
  assert.equal(editDistance('carft', 'craft'), 1)
  assert.equal(editDistance('', 'abc'), 3)
  assert.equal(nearestName('Craf', ['zone', 'craft', 'crate']), 'craft')
  assert.equal(nearestName('xyzzy', ['zone', 'craft']), null)
  assert.equal(nearestName('craft', []), null)
})

test('the clock gives n ticks for n frames of a tick, whatever the rounding', () => {
  const clock = fixedClock(60)
  let ticks = 0
  for (let i = 0; i < 10_000; i++) clock.advance(1 / 60, () => ticks++)
  assert.equal(ticks, 10_000)
  assert.ok(clock.alpha < 1e-6)
  clock.advance(0.5 / 60, () => ticks++)
  assert.ok(Math.abs(clock.alpha - 0.5) < 1e-6)
})

test('a long frame is cut short and the lost time is told', () => {
  const clock = fixedClock(50, { maxTicks: 4 })
  let ticks = 0
  assert.equal(
    clock.advance(1, () => ticks++),
    4,
  )
  assert.equal(ticks, 4)
  assert.ok(Math.abs(clock.dropped - 46 / 50) < 1e-12)
  throwsKeen('bad-number', /finite/, () => clock.advance(Number.NaN, () => {}))
  throwsKeen('bad-number', /above 0/, () => fixedClock(0))
})
