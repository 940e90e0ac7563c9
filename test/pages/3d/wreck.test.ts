import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { colours, fits, text, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage(
  'wreck/index.html',
  (site) => site.page.waitForFunction(() => /sleep/.test(document.getElementById('state')?.textContent ?? '')),
  { webgl: true },
)

/** Steps the scene by buttons, which is faster than its clock where a picture takes long. */
const step = (count: number): Promise<void> =>
  site.page.evaluate((times) => {
    for (let i = 0; i < times; i++) document.getElementById('step')?.click()
  }, count)

test('the pod comes down, its impact is told, and the plots fill', async () => {
  await step(165)
  await site.page.waitForSelector('#events li')
  const first = await text(site, '#events li')
  assert.match(first, /sea bed and pod/)
  const impulse = Number(/([\d.]+) Ns/.exec(first)?.[1])
  assert.ok(impulse > 500, `the impulse is ${impulse}`)
  assert.ok((await colours(site.page, '#impulses canvas')) > 3, 'the plot of impulses is not blank')
  assert.ok((await colours(site.page, '#energies canvas')) > 3, 'the plot of energies is not blank')
})

test('a box is grabbed out of the stack and lifted; let go, it strikes something', async () => {
  await site.page.click('#restart')
  const box = (await site.page.locator('#view').boundingBox())!
  const at = (x: number, y: number): [number, number] => [box.x + x * box.width, box.y + y * box.height]
  await site.page.mouse.move(...at(0.67, 0.297))
  await site.page.mouse.down()
  assert.equal(await site.page.locator('#view.held').count(), 1, 'a body is held')
  await site.page.waitForFunction(() => /holds box/.test(document.getElementById('state')?.textContent ?? ''))
  const [, held] = /holds (box \d\.\d)/.exec(await text(site, '#state')) ?? []
  await site.page.mouse.move(...at(0.6, 0.1), { steps: 8 })
  await ticks(site, 70)
  await site.page.mouse.up()
  assert.equal(await site.page.locator('#view.held').count(), 0, 'nothing is held any more')
  await site.page.click('#play')
  await site.page.locator('#over').fill('20')
  assert.equal(await text(site, '#over-text'), '20 Ns')
  await step(330)
  assert.match(await text(site, '#events'), new RegExp(held.replace('.', '\\.')))
})

test('gravity that is turned wakes what sleeps', async () => {
  await step(400)
  const asleep = async (): Promise<number> => Number(/(\d+) of 37/.exec(await text(site, '#state'))?.[1])
  await site.page.waitForFunction(() => !/^0 of/.test(document.getElementById('state')?.textContent ?? ''))
  assert.ok((await asleep()) > 5, 'a part of the cargo sleeps')
  await site.page.selectOption('#gravity', '0,4,0')
  await step(2)
  await site.page.waitForFunction(() => /^0 of 37/.test(document.getElementById('state')?.textContent ?? ''))
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
