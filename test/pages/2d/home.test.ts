import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('')

test('a card leads to a page that is called as the card is', async () => {
  const cards = await site.page
    .locator('.card')
    .evaluateAll((all) =>
      all.map((card) => [card.querySelector('h2')!.textContent, card.getAttribute('href')] as const),
    )
  assert.equal(cards.length, 12)
  for (const [name, href] of cards) {
    const html = await (await fetch(new URL(href!, site.address))).text()
    assert.ok(html.includes(`<h1>${name}</h1>`), `the heading of ${href}`)
    assert.ok(html.includes(`<title>${name} · Keen Sentry</title>`), `the title of ${href}`)
  }
})

test('cards are live pictures, as far as they are in view; pictures of 3D are there', async () => {
  await site.page.waitForSelector('canvas[data-live=reef][data-drawn]')
  const card = site.page.locator('canvas[data-live=together]')
  await card.scrollIntoViewIfNeeded()
  await site.page.waitForSelector('canvas[data-live=together][data-drawn]')
  const picture = () => card.evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
  const before = await picture()
  await site.page.waitForTimeout(1000)
  assert.notEqual(await picture(), before, 'the world behind a card runs')
  const sizes = await site.page
    .locator('.card img')
    .evaluateAll((all) => all.map((each) => (each as HTMLImageElement).naturalWidth))
  assert.deepEqual(sizes, [640, 640, 640])
})

test('a phone shows one card beside none, nothing hangs over, nothing is found, no error', async () => {
  await site.page.setViewportSize({ width: 390, height: 844 })
  assert.equal(await site.page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth), 0)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
