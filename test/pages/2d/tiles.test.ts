import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits, text, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('tiles/index.html', (site) => ticks(site, 10))

/** How many tiles and edges there are. */
async function counts(): Promise<number[]> {
  return (await text(site, '#tiles')).match(/\d+/g)!.map(Number)
}

/** Where the pointer is in the dig when it is there on the screen: as the page says. */
async function said(x: number, y: number): Promise<number[]> {
  await site.page.mouse.move(x, y)
  await ticks(site, 2)
  return (await text(site, '#state')).match(/-?\d+(\.\d+)?/g)!.map(Number)
}

/** A place of the dig, in metres, on the screen. */
async function onScreen(x: number, y: number): Promise<[number, number]> {
  const box = (await site.page.locator('#view').boundingBox())!
  const [left, top, width, height] = [box.x + 10, box.y + 10, box.width - 20, box.height - 20]
  const [x0, y0] = await said(left, top)
  const [x1, y1] = await said(left + width, top + height)
  return [left + (width * (x - x0)) / (x1 - x0), top + (height * (y - y0)) / (y1 - y0)]
}

test('rock that is erased is gone at once', async () => {
  const [tiles] = await counts()
  const from = await onScreen(8, 11.5)
  const to = await onScreen(11, 11.5)
  await site.page.mouse.move(...from)
  await ticks(site, 2)
  assert.match(await text(site, '#under'), /# in column (7|8), row 1[56]/)
  await site.page.mouse.down()
  await site.page.mouse.move(...to, { steps: 5 })
  await site.page.mouse.up()
  await ticks(site, 2)
  const [left] = await counts()
  assert.ok(left <= tiles - 6, `${left} tiles of ${tiles} are left`)
})

test('brushes are chosen by key and by button; a charge takes tiles away and cuts pieces off', async () => {
  await site.page.keyboard.press('8')
  assert.match(await site.page.locator('#brushes [aria-checked="true"]').innerText(), /8\s+charge/)
  // The foot of a pillar that stands in the water: its head comes down.
  await site.page.locator('#size').fill('2')
  await site.page.mouse.click(...(await onScreen(31, 3)))
  assert.match(await text(site, '#events'), /A charge takes \d+ tiles/)
  await site.page.locator('#brushes button', { hasText: 'water' }).click()
  // The count is that of the last picture.
  await ticks(site, 2)
  const [before] = await counts()
  await site.page.mouse.click(...(await onScreen(30, 22)))
  await ticks(site, 2)
  assert.ok((await counts())[0] > before, 'water was painted')
})

test('balls reach the water, which the watch tells, and a step takes little', async () => {
  await site.page.locator('#brushes button', { hasText: 'erase' }).click()
  // The planks over the shaft that leads down to the water.
  await site.page.mouse.click(...(await onScreen(25.5, 14.5)))
  await site.page.evaluate(() => {
    for (let i = 0; i < 1000; i++) document.getElementById('step')?.click()
  })
  assert.match(await text(site, '#events'), /splashes into the water/)
  assert.ok(Number.parseFloat(await text(site, '#cost')) < 20, await text(site, '#cost'))
  assert.ok((await colours(site.page, '#view')) > 8, 'the picture is not blank')
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
