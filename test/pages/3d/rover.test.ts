import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { fits, text, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

const { site, test } = onPage('rover/index.html', (site) => ticks(site, 60), { webgl: true })

const speed = async (): Promise<number> => Number(/^([\d.]+) m\/s/.exec(await text(site, '#state'))?.[1])

test('the rover comes to stand on its four legs, and its hull touches nothing', async () => {
  await ticks(site, 150)
  assert.match(await text(site, '#state'), /^0\.\d m\/s · 4 of 4 legs carry · \d+ kg/)
  assert.equal(await text(site, '#struck'), '0')
})

test('the sliders say how it springs: the ratio of damping follows', async () => {
  assert.match(await text(site, '#ratio'), /1\.\d\d cycles a second, damping ratio 0\.[67]/)
  await site.page.locator('#damping').fill('20')
  assert.equal(await text(site, '#damping-text'), '20 Ns/m')
  assert.match(await text(site, '#ratio'), /damping ratio 0\.0[78]/)
})

test('it drives with the keys', async () => {
  await site.page.locator('#damping').fill('180')
  await site.page.locator('#damping').blur()
  await site.page.keyboard.down('ArrowUp')
  await site.page.waitForFunction(() => Number.parseFloat(document.getElementById('state')?.textContent ?? '') > 2)
  await site.page.keyboard.up('ArrowUp')
  assert.ok((await speed()) > 1, 'it drives on')
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
