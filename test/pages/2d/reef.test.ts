import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('reef/index.html', (site) => site.page.waitForSelector('#clock'))

const tick = async (): Promise<number> => Number(/tick (\d+)/.exec((await site.page.textContent('#clock')) ?? '')?.[1])

test('single steps: the clock counts and the first events appear', async () => {
  assert.equal(await tick(), 0)
  await site.page.click('#step')
  await site.page.waitForFunction(() => document.getElementById('clock')?.textContent?.startsWith('tick 1 '))
  const items = await site.page.locator('#events li').allTextContents()
  assert.ok(items.some((text) => text.includes('lantern lies in the dock')))
  assert.equal(Number(await site.page.textContent('#count')), items.length)
})

test('play runs and pause holds', async () => {
  await site.page.selectOption('#speed', '4')
  await site.page.click('#play')
  await site.page.waitForFunction(
    () => Number(/tick (\d+)/.exec(document.getElementById('clock')?.textContent ?? '')?.[1]) > 60,
  )
  await site.page.click('#play')
  const held = await tick()
  await site.page.waitForTimeout(200)
  assert.equal(await tick(), held)
})

test('the canvas is not blank, and the pointer tells what lies under it', async () => {
  assert.ok((await colours(site.page, '#view')) > 10)
  await site.page.click('#restart')
  // The dock's middle, found through the view: 5, 16.6 of 40 by 21.5 metres.
  const box = (await site.page.locator('#view').boundingBox())!
  const scale = Math.min(box.width / 40, box.height / 21.5)
  const x = box.x + (box.width - 40 * scale) / 2 + 3 * scale
  const y = box.y + (box.height - 21.5 * scale) / 2 + (21.5 - 18) * scale
  await site.page.mouse.move(x, y)
  await site.page.waitForSelector('#tip:not([hidden])')
  const tip = (await site.page.textContent('#tip')) ?? ''
  assert.match(tip, /dock/)
  assert.match(tip, /static · zone/)
  assert.match(tip, /overlaps .*lantern/)
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
