import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits, text, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('joints/index.html', (site) => ticks(site, 30))

/** Where a point of the scene is on the page: its view is 24 by 13 metres. */
async function placeOf(x: number, y: number): Promise<[number, number]> {
  const box = (await site.page.locator('#view').boundingBox())!
  const scale = Math.min(box.width / 24, box.height / 13)
  return [box.x + (box.width - 24 * scale) / 2 + x * scale, box.y + (box.height - 13 * scale) / 2 + (13 - y) * scale]
}

const force = async (): Promise<number> => Number(await text(site, '#force-now'))

test('a joint is chosen: its sliders are there, and the gauges show what it bears', async () => {
  assert.equal(await site.page.locator('[data-for=soft]').first().isVisible(), false, 'a hinge is not soft')
  await site.page.selectOption('#joint', 'weld')
  await ticks(site, 90)
  // 2.5 m by 0.25 of 20 kg a square metre.
  const found = await force()
  assert.ok(Math.abs(found - 12.5 * 9.8) < 3, `the weld bears ${found} N`)
  assert.ok((await colours(site.page, '#force canvas')) > 3, 'the gauge is not blank')
  assert.equal(await site.page.locator('[data-for=motor]').first().isVisible(), false, 'a weld has no motor')
  await site.page.selectOption('#joint', 'spring')
  assert.equal(await text(site, '#frequency-text'), '1.5 Hz')
})

test('a motor is driven by its sliders', async () => {
  await site.page.selectOption('#joint', 'hind axle')
  await site.page.locator('#speed').fill('-8')
  await site.page.locator('#strength').fill('100')
  assert.equal(await text(site, '#speed-text'), '-8 rad/s')
  await site.page.waitForFunction(() => Number(document.getElementById('torque-now')?.textContent) > 20)
})

test('a body is dragged about by its joint, until that breaks and is listed', async () => {
  await site.page.selectOption('#joint', 'rope')
  await site.page.mouse.move(...(await placeOf(8, 9)))
  await site.page.mouse.down()
  assert.equal(await site.page.locator('#view.held').count(), 1, 'the ball is held')
  await site.page.mouse.move(...(await placeOf(9, 3)), { steps: 8 })
  await site.page.waitForFunction(() => Number(document.getElementById('force-now')?.textContent) > 250)
  await site.page.locator('#breaks').evaluate((input: HTMLInputElement) => {
    input.value = '150'
    input.dispatchEvent(new Event('input'))
  })
  await site.page.waitForFunction(() => /ropebroken/.test(document.getElementById('events')?.textContent ?? ''))
  await site.page.mouse.up()
  assert.equal(await text(site, '#count'), '1', 'the hand that let go is not listed')
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
