import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('forces/index.html', (site) => site.page.waitForSelector('#clock'))

/** Where a point of the scene is on the page: its view is 32 by 17 metres. */
async function placeOf(x: number, y: number): Promise<[number, number]> {
  const box = (await site.page.locator('#view').boundingBox())!
  const scale = Math.min(box.width / 32, box.height / 17)
  return [box.x + (box.width - 32 * scale) / 2 + x * scale, box.y + (box.height - 17 * scale) / 2 + (17 - y) * scale]
}

test('impacts are told, and the plots fill', async () => {
  await site.page.click('#play')
  await ticks(site, 150)
  await site.page.waitForSelector('#events li')
  const item = (await site.page.textContent('#events li')) ?? ''
  assert.match(item, / and /)
  assert.match(item, /\d Ns/)
  assert.ok((await colours(site.page, '#impulses canvas')) > 3)
  assert.ok((await colours(site.page, '#energies canvas')) > 3)
})

test('a body is grabbed with the pointer, lifted and thrown', async () => {
  await site.page.click('#restart')
  await site.page.mouse.move(...(await placeOf(29.9, 1.56)))
  await site.page.mouse.down()
  assert.equal(await site.page.locator('#view.held').count(), 1)
  await site.page.mouse.move(...(await placeOf(24, 12)), { steps: 12 })
  await site.page.waitForTimeout(900)
  await site.page.mouse.up()
  assert.equal(await site.page.locator('#view.held').count(), 0)
  // It fell, or was thrown, from up there: something is struck hard.
  await site.page.waitForFunction(() => /drum/.test(document.getElementById('events')?.textContent ?? ''))
})

test('gravity can be turned, and the threshold of impacts raised', async () => {
  await site.page.selectOption('#gravity', '0,0')
  await site.page.locator('#over').fill('40')
  assert.equal(await site.page.textContent('#over-text'), '40 Ns')
  assert.match((await site.page.textContent('#state')) ?? '', /\d+ of 2[01] bodies sleep/)
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
