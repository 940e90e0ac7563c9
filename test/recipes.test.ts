/** Every recipe runs, and the page that shows them is what they are and what they print. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { recipesPage } from '../scripts/write-recipes.ts'

const { text, advice } = recipesPage()

test('docs/recipes.md is what the recipes are and print', () => {
  assert.equal(readFileSync('docs/recipes.md', 'utf8'), text, 'run `npm run recipes`')
})

test('the worlds of the recipes have nothing to advise', () => {
  assert.deepEqual(advice, {})
})

test('the recipes find what they are meant to find', () => {
  const text = readFileSync('docs/recipes.md', 'utf8')
  for (const line of [
    'lantern: behind cover',
    'boom towards -1, 0: 4.70 m long',
    '2.65 m over the bottom, edge 1, slope 27 degrees',
    'pod at 3 m: hidden',
    'pillar at 6.5 m takes 20',
    '300, 340: dock',
    'wanted 0.5, 0.6: put at 0.50, 1.50',
    '4 of 9 rays come back',
    'turned to the cliff: cliff at 16.20 m',
    'leg 3: no ground within 2 m',
    '4.84 m long, held by stone',
    'over the pillar: seen',
    '456, 400: pod at -1.84, 0.69, 0.43',
    'free, the pod stands at 3.13 m',
  ]) {
    assert.ok(text.includes(line), line)
  }
})
