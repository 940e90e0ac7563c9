import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits, text, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('together/index.html', (site) => ticks(site, 120))

/** Waits until all hashes up to a tick were compared by both. */
const compared = (least: number) =>
  site.page.waitForFunction(
    (tick) =>
      ['left', 'right'].every(
        (name) => Number.parseInt(document.getElementById(`compared-${name}`)?.textContent ?? '', 10) > tick,
      ),
    least,
    { timeout: 60_000 },
  )

test('both play, ticks are played again, and all hashes agree', async () => {
  await compared(90)
  for (const name of ['left', 'right']) {
    assert.match(await text(site, `#compared-${name}`), /^\d+ equal$/)
    assert.ok(Number.parseInt(await text(site, `#again-${name}`), 10) > 0, 'nothing was played again')
    // A slow machine plays few ticks in the time that a message takes, now and then.
    await site.page.waitForFunction(
      (id) => Number.parseInt(document.getElementById(id)?.textContent ?? '', 10) > 5,
      `ahead-${name}`,
      { timeout: 60_000 },
    )
    assert.ok((await colours(site.page, `#${name}`)) > 8, 'the picture is blank')
  }
  assert.match(await text(site, '#state'), /^\d+ messages, \d+ lost$/)
})

test('keys and the pointer steer; a bad network is borne', async () => {
  await site.page.keyboard.down('KeyD')
  await site.page.locator('#right').dispatchEvent('pointerdown', { pointerId: 1, buttons: 1 })
  await site.page.waitForFunction(() => document.getElementById('keys-left')?.textContent === 'you')
  await site.page.keyboard.up('KeyD')
  await site.page.locator('#loss').fill('40')
  await site.page.locator('#delay').fill('350')
  assert.match((await site.page.locator('label:has(#loss)').textContent())!, /40 %/)
  const now = Number(await text(site, '#tick-left'))
  await compared(now + 30)
  for (const name of ['left', 'right']) assert.match(await text(site, `#compared-${name}`), /^\d+ equal$/)
})

test('it pauses, and begins again', async () => {
  await site.page.locator('#play').click()
  assert.equal(await text(site, '#play'), 'Play')
  await site.page.waitForTimeout(300)
  const before = await text(site, '#tick-left')
  await site.page.waitForTimeout(300)
  assert.equal(await text(site, '#tick-left'), before)
  await site.page.locator('#restart').click()
  await site.page.waitForFunction(() => Number(document.getElementById('tick-left')?.textContent) < 60)
  assert.equal(await text(site, '#play'), 'Pause')
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
