import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits, text, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('walk/index.html', (site) => ticks(site, 30))

/** Where diver and pearl are. */
async function places(): Promise<number[]> {
  const [x, y, , pearlX, pearlY] = (await text(site, '#state')).match(/-?\d+(\.\d+)?/g)!.map(Number)
  return [x, y, pearlX, pearlY]
}

test('the diver stands, walks by keys and buttons, and climbs the stairs', async () => {
  assert.equal(await text(site, '#ground'), 'floor')
  const [before] = await places()
  await site.page.keyboard.down('KeyD')
  await site.page.waitForFunction(() => /landing/.test(document.getElementById('ground')?.textContent ?? ''))
  await site.page.keyboard.up('KeyD')
  const [after, high] = await places()
  assert.ok(after > before + 5 && Math.abs(high - 2.75) < 0.01, `it is at ${after}, ${high}`)
  await site.page.locator('#left').dispatchEvent('pointerdown')
  await site.page.waitForFunction(() => /diver at [0-4]\./.test(document.getElementById('state')?.textContent ?? ''))
  await site.page.locator('#left').dispatchEvent('pointerup')
  assert.ok((await places())[0] < after)
})

test('stairs are walls when the step height is less, and the slider says how much it is', async () => {
  await site.page.locator('#stepHeight').fill('0.1')
  assert.match((await site.page.locator('label:has(#stepHeight)').textContent())!, /0\.1 m/)
  await site.page.keyboard.down('KeyD')
  await site.page.waitForFunction(() => /stair 1/.test(document.getElementById('hits')?.textContent ?? ''))
  await site.page.keyboard.up('KeyD')
  const [x, y] = await places()
  assert.ok(x < 6 && y < 1.3, `it is held by the first stair: ${x}, ${y}`)
})

test('it jumps and lands, and both are listed', async () => {
  const told = Number(await text(site, '#count'))
  await site.page.keyboard.press('Space')
  await site.page.waitForFunction((count) => Number(document.getElementById('count')?.textContent) >= count + 2, told)
  const events = await text(site, '#events')
  assert.match(events, /leaves the ground/)
  assert.match(events, /lands/)
})

test('the pearl never leaves the cave, at any speed', async () => {
  await site.page.locator('#pearl').fill('400')
  for (let i = 0; i < 6; i++) {
    await ticks(site, 12)
    const [, , x, y] = await places()
    assert.ok(x > 0.5 && x < 35.5 && y > 0.5 && y < 15.5, `it is at ${x}, ${y}`)
  }
  assert.ok((await colours(site.page, '#view')) > 12, 'the picture is not blank')
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
