import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('questions/index.html', (site) => site.page.waitForSelector('#hits li'))

const hits = async (): Promise<string[]> => site.page.locator('#hits li').allTextContents()

test('a ray through the reef: hits are listed and drawn, and the filter narrows them', async () => {
  const all = await hits()
  assert.ok(all.length >= 2, all.join('; '))
  assert.ok(all.every((text) => /fraction 0\.\d+/.test(text)))
  assert.ok((await colours(site.page, '#view')) > 10)
  await site.page.uncheck('#layers input[value=rock]')
  assert.ok((await hits()).length < all.length)
  await site.page.check('#layers input[value=rock]')
  await site.page.selectOption('#sensors', 'true')
  assert.ok((await hits()).length > all.length)
})

test('every question answers, and the modes differ', async () => {
  for (const kind of ['shape', 'overlap', 'nearest', 'ray']) {
    await site.page.click(`[data-kind=${kind}]`)
    await site.page.selectOption('#mode', 'all')
    const all = await hits()
    await site.page.selectOption('#mode', 'first')
    assert.ok((await hits()).length <= 1)
    await site.page.selectOption('#mode', 'any')
    const any = await site.page.textContent('#count')
    assert.equal(any, all.length > 0 ? 'yes' : 'no')
    assert.match((await site.page.textContent('#code')) ?? '', /^world\./)
  }
})

test('dragging a handle changes the answer', async () => {
  await site.page.click('[data-kind=overlap]')
  await site.page.selectOption('#mode', 'all')
  const before = await site.page.textContent('#code')
  const box = (await site.page.locator('#view').boundingBox())!
  const scale = Math.min(box.width / 40, box.height / 21.5)
  const toPage = (x: number, y: number): [number, number] => [
    box.x + (box.width - 40 * scale) / 2 + x * scale,
    box.y + (box.height - 21.5 * scale) / 2 + (21.5 - y) * scale,
  ]
  await site.page.mouse.move(...toPage(22.5, 8.2))
  await site.page.mouse.down()
  await site.page.mouse.move(...toPage(18.4, 5), { steps: 5 })
  await site.page.mouse.up()
  assert.notEqual(await site.page.textContent('#code'), before)
  assert.ok((await hits()).some((text) => text.includes('pillar')))
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
