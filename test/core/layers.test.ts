import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import { masks, RESPONSE_NAMES } from '../../src/core/filter/filter.ts'
import { defineLayers, type Layers, type PairRow, type Response } from '../../src/core/index.ts'
import { runs } from '../helpers/arbitrary.ts'
import { throwsKeen } from '../helpers/throws.ts'

const NAMES = ['a', 'b', 'c', 'd', 'e'] as const
type Name = (typeof NAMES)[number]
const response = fc.constantFrom<Response>('solid', 'sense', 'pass')
const row = fc.tuple(fc.constantFrom<Name | '*'>('*', ...NAMES), fc.constantFrom<Name | '*'>('*', ...NAMES), response)

/** The masks rule on the words that the layers give. */
function byMasks(layers: Layers<Name>, a: readonly Name[], b: readonly Name[]): string {
  const words = (names: readonly Name[]): [number, number, number] => {
    const at = layers.mask(...names) | 0
    return [at, layers.solidBits(at), layers.solidBits(at) | layers.senseBits(at)]
  }
  return RESPONSE_NAMES[masks(...words(a), ...words(b))]
}

test('the pair table: later rows win, both orders agree, and the masks rule says the same', () => {
  fc.assert(
    fc.property(fc.array(row, { maxLength: 8 }), response, (pairs, otherwise) => {
      const layers = defineLayers(NAMES, { pairs: pairs as PairRow<Name>[], otherwise })
      for (const a of NAMES) {
        for (const b of NAMES) {
          const covers = (side: string, name: string): boolean => side === '*' || side === name
          const last = pairs.findLast(([x, y]) => (covers(x, a) && covers(y, b)) || (covers(x, b) && covers(y, a)))
          assert.equal(layers.pair(a, b), last?.[2] ?? otherwise)
          assert.equal(layers.pair(b, a), layers.pair(a, b))
          assert.equal(byMasks(layers, [a], [b]), layers.pair(a, b))
        }
      }
    }),
    { numRuns: runs(300) },
  )
})

test('on several layers, the strongest response of them holds', () => {
  const some = fc.subarray([...NAMES], { minLength: 1 })
  fc.assert(
    fc.property(fc.array(row, { maxLength: 8 }), some, some, (pairs, one, other) => {
      const layers = defineLayers(NAMES, { pairs: pairs as PairRow<Name>[] })
      const all = one.flatMap((a) => other.map((b) => layers.pair(a, b)))
      const strongest = all.includes('solid') ? 'solid' : all.includes('sense') ? 'sense' : 'pass'
      assert.equal(byMasks(layers, one, other), strongest)
      assert.equal(byMasks(layers, other, one), strongest)
    }),
    { numRuns: runs(300) },
  )
})

test('32 layers: the last bit is unsigned, and the whole mask is 2^32 - 1', () => {
  const names = Array.from({ length: 32 }, (_, index) => `layer ${index}`)
  const layers = defineLayers(names)
  assert.equal(layers.bit('layer 31'), 2 ** 31)
  assert.equal(layers.mask(...names), 2 ** 32 - 1)
  assert.deepEqual(layers.names(2 ** 31 + 1), ['layer 0', 'layer 31'])
  assert.equal(layers.pair('layer 31', 'layer 0'), 'solid')
  assert.deepEqual(layers.names(layers.mask()), [])
  throwsKeen('too-many-layers', /at most 32/, () => defineLayers([...names, 'one more']))
})

test('a changed pair is a new definition; the old one stays', () => {
  const layers = defineLayers(['craft', 'zone'])
  const changed = layers.withPair('craft', '*', 'pass')
  assert.equal(layers.pair('craft', 'zone'), 'solid')
  assert.equal(changed.pair('zone', 'craft'), 'pass')
  assert.equal(changed.pair('zone', 'zone'), 'solid')
})

test('mistakes are named, with the name that was probably meant', () => {
  throwsKeen('bad-argument', /at least one name/, () => defineLayers([]))
  throwsKeen('duplicate-name', /two layers are called "craft"/, () => defineLayers(['craft', 'craft']))
  throwsKeen('bad-argument', /'' and '\*'/, () => defineLayers(['*']))
  throwsKeen('unknown-layer', /did you mean "craft"/, () =>
    defineLayers(['craft'], { pairs: [['carft' as never, '*', 'pass']] }),
  )
  throwsKeen('bad-argument', /pairs\[0\] must be one of/, () =>
    defineLayers(['craft'], { pairs: [['craft', '*', 'push' as never]] }),
  )
  const layers = defineLayers(['craft', 'zone'])
  throwsKeen('unknown-layer', /did you mean "zone"/, () => layers.bit('zones' as never))
  throwsKeen('bad-number', /0 to 4294967295/, () => layers.names(2 ** 32))
  throwsKeen('bad-number', /0 to 4294967295/, () => layers.names(-1))
})
