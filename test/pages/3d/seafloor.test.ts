import assert from 'node:assert/strict'
import { accessible } from '../accessible.ts'
import { fits, text, ticks } from '../browser.ts'
import { onPage } from '../onPage.ts'

// The page is there when its model has been read and a first frame was drawn.
const { site, test } = onPage(
  'seafloor/index.html',
  (site) =>
    site.page.waitForFunction(() => document.querySelectorAll('#hits li').length > 0, null, { timeout: 60_000 }),
  { webgl: true },
)

/** How many colours a picture of the view has, coarsely. */
async function colours(): Promise<number> {
  const shot = await site.page.locator('#view').screenshot()
  return site.page.evaluate(async (data) => {
    const image = new Image()
    image.src = `data:image/png;base64,${data}`
    await image.decode()
    const canvas = document.createElement('canvas')
    canvas.width = image.width
    canvas.height = image.height
    const pen = canvas.getContext('2d')!
    pen.drawImage(image, 0, 0)
    const pixels = pen.getImageData(0, 0, canvas.width, canvas.height).data
    const seen = new Set<number>()
    for (let i = 0; i < pixels.length; i += 4)
      seen.add(((pixels[i] >> 4) << 8) | ((pixels[i + 1] >> 4) << 4) | (pixels[i + 2] >> 4))
    return seen.size
  }, shot.toString('base64'))
}

test('the model is there, and the ray that is shown meets it', async () => {
  assert.match(await text(site, '#hits'), /rocks\d+\.\d\d m/)
  assert.match(await text(site, '#hits'), /triangle \d+/)
  const seen = await colours()
  assert.ok(seen > 40, `the view has ${seen} colours`)
})

test('a single step tells what begins, and zones light up by events', async () => {
  await site.page.click('#step')
  await site.page.waitForSelector('#zones li.lit')
  const lit = await site.page.locator('#zones li.lit').allTextContents()
  assert.deepEqual(lit.sort(), ['dock', 'second beacon'])
  assert.match(await text(site, '#events'), /green pod lies within the dock/)
})

test('the crawler comes into the light of a beacon, on its own feet', async () => {
  await site.page.click('#play')
  await ticks(site, 160)
  await site.page.click('#play')
  assert.match(await text(site, '#events'), /crawler comes into the light of the first beacon/)
  assert.match(await text(site, '#library'), /Of each frame of \d+ ms, stepping and asking take \d+\.\d ms \(\d+ %\)/)
})

test('a handle is dragged, and the answer follows', async () => {
  await site.page.click('#kinds [data-kind=none]')
  await site.page.waitForFunction(() => document.querySelectorAll('#hits li').length === 0)
  await site.page.click('#kinds [data-kind=ball]')
  await site.page.waitForFunction(() => document.querySelectorAll('#hits li').length > 0)
  const before = await text(site, '#hits')
  // The handle at the start of the way, as the camera stands at first.
  const box = (await site.page.locator('#view').boundingBox())!
  const start = await site.page.evaluate(() => {
    const canvas = document.getElementById('view') as HTMLCanvasElement
    return [canvas.clientWidth, canvas.clientHeight]
  })
  assert.deepEqual(start, [Math.round(box.width), Math.round(box.height)])
  await site.page.mouse.move(box.x + 0.2187 * box.width, box.y + 0.72 * box.height)
  await site.page.mouse.down()
  assert.equal(await site.page.locator('#view.held').count(), 1, 'the handle is held')
  await site.page.mouse.move(box.x + 0.1 * box.width, box.y + 0.3 * box.height, { steps: 4 })
  await site.page.mouse.up()
  await site.page.waitForFunction((old) => document.getElementById('hits')?.textContent !== old, before)
})

test('the camera behind the crawler stays out of rock, unless it is told not to', async () => {
  await site.page.selectOption('#camera', 'boom')
  await site.page.waitForFunction(() => /boom/.test(document.getElementById('boom-text')?.textContent ?? ''))
  assert.match(await text(site, '#boom-text'), /boom \d+\.\d of 11\.\d m/)
  assert.doesNotMatch(await text(site, '#boom-text'), /in rock/)
  await site.page.click('#boom')
  await site.page.waitForFunction(() =>
    /boom 11\.\d of 11/.test(document.getElementById('boom-text')?.textContent ?? ''),
  )
})

test('nothing is clipped, on a screen or on a phone, and the page reports no error', async () => {
  await fits(site)
  await accessible(site)
  assert.deepEqual(site.errors, [])
})
