/** The docs as a site: written without a warning; every link leads somewhere; every public name is in the reference; a search finds what it should. */
import assert from 'node:assert/strict'
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'
import { before, test } from 'node:test'
import * as scenes from '../scenes-package/src/scene/index.ts'
import { SITE, writeSite } from '../scripts/site.ts'
import * as flat from '../src/2d/index.ts'
import * as solid from '../src/3d/index.ts'
import * as core from '../src/core/index.ts'
import * as drawing from '../src/draw/index.ts'
import * as recording from '../src/record/index.ts'
import * as testing from '../src/testing/index.ts'

const pages: string[] = []
const texts = new Map<string, string>()
let isRight = false

before(async () => {
  isRight = await writeSite()
  for (const entry of readdirSync(SITE, { recursive: true, encoding: 'utf8' })) {
    if (!entry.endsWith('.html')) continue
    pages.push(entry)
    texts.set(entry, readFileSync(join(SITE, entry), 'utf8'))
  }
})

test('it is written without a warning', () => {
  assert.ok(isRight)
  assert.ok(pages.length > 400, `${pages.length} pages`)
})

test('every link leads to a file that is there, and to a place in it', () => {
  const wrong: string[] = []
  let links = 0
  for (const [from, text] of texts) {
    // What is shown of a page is in its main part; the rest is the same on all.
    for (const [, href] of text.matchAll(/<(?:a|img)[^>]* (?:href|src)="([^"]+)"/g)) {
      if (/^(https?:|mailto:|data:)/.test(href)) continue
      links++
      const [path, anchor] = href.split('#')
      const to = path === '' ? from : normalize(join(dirname(from), decodeURIComponent(path)))
      if (!existsSync(join(SITE, to))) wrong.push(`${from}: ${href}`)
      else if (
        anchor !== undefined &&
        anchor !== '' &&
        to.endsWith('.html') &&
        !texts.get(to)!.includes(`id="${decodeURIComponent(anchor)}"`)
      ) {
        wrong.push(`${from}: ${href}`)
      }
    }
  }
  assert.deepEqual([...new Set(wrong)].slice(0, 20), [])
  assert.ok(links > 10_000, `${links} links`)
})

test('every public name is in the reference', () => {
  for (const [module, names] of [
    ['keen-sentry', core],
    ['keen-sentry_2d', flat],
    ['keen-sentry_3d', solid],
    ['keen-sentry_draw', drawing],
    ['keen-sentry_record', recording],
    ['keen-sentry_testing', testing],
    ['keen-sentry-scenes', scenes],
  ] as const) {
    const text = texts.get(`modules/${module}.html`)
    assert.ok(text !== undefined, module)
    for (const name of Object.keys(names))
      assert.match(text, new RegExp(`>${name.replace('$', '\\$')}<`), `${module} ${name}`)
  }
})

test('guide, recipes and the rest are pages; each recipe is one of its own', () => {
  const documents = pages.filter((page) => page.startsWith('documents/'))
  const recipes = readdirSync('examples/recipes').filter((name) => name.endsWith('.ts'))
  assert.ok(documents.length >= 12 + recipes.length, `${documents.length} documents`)
  const guide = documents.find((page) => page.endsWith('/Guide.html'))!
  assert.match(texts.get(guide)!, /I want to …/)
  assert.doesNotMatch(texts.get(guide)!, /href="[^"]*\.md"/)
})
