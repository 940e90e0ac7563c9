/** The game: a scripted player plays it to its end by keys on a screen; on a phone each control is tried by touch. */
import assert from 'node:assert/strict'
import { after, before, test } from 'node:test'
import type { Page } from 'playwright-core'
import type { Controls } from '../../examples/lantern/game.ts'
import { Pilot } from '../../examples/lantern/pilot.ts'
import { accessible } from './accessible.ts'
import { COARSE, colours, fits, noBrowser, openSite, type Site, text } from './browser.ts'

const skip = noBrowser()
/** Milliseconds between two looks of the player. */
const LOOK = 180
/** Looks after which the player has lost its way. */
const MOST = 1000

let site: Site

before(async () => {
  if (skip !== false) return
  site = await openSite()
})
after(async () => site?.close())

const WAYS = [
  ['ArrowRight', 1, 0],
  ['ArrowLeft', -1, 0],
  ['ArrowUp', 0, 1],
  ['ArrowDown', 0, -1],
] as const
const KEYS = { ping: 'Space', claw: 'KeyC', charge: 'KeyX' }

/** Keys: held while they are meant. */
function keys({ keyboard }: Page) {
  const held = new Set<string>()
  return {
    async steer(x: number, y: number) {
      for (const [key, alongX, alongY] of WAYS) {
        const isMeant = alongX * x + alongY * y > 0
        if (isMeant && !held.has(key)) await keyboard.down(key)
        if (!isMeant && held.has(key)) await keyboard.up(key)
        if (isMeant) held.add(key)
        else held.delete(key)
      }
    },
    press: (act: keyof typeof KEYS) => keyboard.press(KEYS[act]),
    async letGo() {
      for (const key of held) await keyboard.up(key)
      held.clear()
    },
  }
}

/** What a player sees: the gauges, and from them how fast it goes. */
async function look(page: Page): Promise<{ over: boolean; x: number; y: number; air: number; holds: boolean }> {
  return page.evaluate(() => {
    const [x, y] = document.getElementById('where')!.textContent!.split(',').map(Number.parseFloat)
    return {
      over: !document.getElementById('screen')!.hidden,
      x,
      y,
      air: (document.getElementById('air') as HTMLMeterElement).value,
      holds: document.getElementById('claw')!.getAttribute('aria-pressed') === 'true',
    }
  })
}

/** Plays a level to its end, by keys. */
async function playLevel(page: Page, level: number): Promise<void> {
  const grip = keys(page)
  const pilot = new Pilot(level)
  let seen = await look(page)
  for (let i = 0; i < MOST; i++) {
    const now = await look(page)
    if (now.over) break
    const per = 1000 / LOOK
    const sight = { ...now, vx: (now.x - seen.x) * per, vy: (now.y - seen.y) * per, time: i / per }
    seen = now
    const { x, y, ...acts }: Controls = pilot.steer(sight)
    for (const act of ['ping', 'claw', 'charge'] as const) if (acts[act]) await grip.press(act)
    await grip.steer(x, y)
    await page.clock.fastForward(LOOK)
  }
  await grip.letGo()
}

async function open(page: Page): Promise<void> {
  await page.clock.install()
  await page.goto(`${site.address}lantern/index.html`)
  await page.waitForSelector('#screen:not([hidden])')
  // Well ahead: on a busy machine the clock of the page goes on for a while until this arrives.
  await page.clock.pauseAt(Date.now() + 20_000)
}

test('a screen: the start screen, played by keys to its end', { skip }, async () => {
  const { page } = site
  await page.setViewportSize({ width: 900, height: 560 })
  await open(page)
  await page.clock.fastForward(100)
  assert.ok((await colours(page, 'canvas#view')) > 50)
  for (const [level, end] of ['Docked', 'There is light'].entries()) {
    await page.click('#go')
    await playLevel(page, level)
    assert.equal(await page.textContent('#screen-title'), end)
  }
  assert.match(await text(site, '#score'), /Time\d:\d\dPearls[3-9] of 16Hard hits\dTimes lost0/)
  await page.click('#go')
  assert.equal(await text(site, '#screen-title'), 'Lantern Reef')
})

test('paused, gone on, watched, and taken over; nothing hangs over and nothing is found on any screen', {
  skip,
}, async () => {
  const { page } = site
  await open(page)
  // The checker waits by the clock of the page.
  await page.clock.resume()
  await accessible(site)
  await fits(site)
  await page.click('#other')
  for (let i = 0; i < 20; i++) await page.clock.fastForward(LOOK)
  const flown = await look(page)
  assert.ok(flown.x > 7, 'the pilot flies')
  await accessible(site)
  await page.keyboard.press('KeyP')
  assert.equal(await text(site, '#screen-title'), 'Paused')
  await accessible(site)
  await page.click('#go')
  await page.keyboard.down('ArrowLeft')
  for (let i = 0; i < 25; i++) await page.clock.fastForward(LOOK)
  await page.keyboard.up('ArrowLeft')
  assert.ok((await look(page)).x < flown.x, 'whoever takes the controls, has them')
  await page.click('#sound')
  assert.equal(await page.getAttribute('#sound', 'aria-pressed'), 'false')
})

test('each thing can be asked for the lines that do it: by its name, and by pressing it', { skip }, async () => {
  const { page } = site
  await page.setViewportSize({ width: 1280, height: 800 })
  await open(page)
  await page.click('#go')
  await page.click('#how')
  await page.clock.fastForward(LOOK)
  const stops = await page
    .locator('#thing option')
    .evaluateAll((all) => all.map((each) => (each as HTMLOptionElement).value))
  assert.ok(stops.length >= 15)
  for (const stop of stops) {
    await page.selectOption('#thing', stop)
    const lines = await page.locator('#lines pre').allTextContents()
    assert.ok(lines.length > 0 && lines.every((code) => code.trim().length > 40), `the lines of ${stop}`)
    assert.ok(!lines.join('').includes('tour:'), `no marks in the lines of ${stop}`)
  }
  const { x, y, width, height } = (await page.locator('#view').boundingBox())!
  // Somewhere on the left: the level begins there.
  for (let part = 0.12; part < 0.5; part += 0.02) {
    await page.mouse.click(x + part * width, y + 0.5 * height)
    if ((await page.inputValue('#thing')) === 'craft') break
  }
  assert.equal(await page.inputValue('#thing'), 'craft')
  await page.clock.resume()
  await accessible(site)
  await page.click('#how')
  await page.click('#go')
  const picture = () => page.locator('canvas#view').evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
  const before = await picture()
  await page.click('#layer')
  await page.clock.fastForward(LOOK)
  assert.notEqual(await picture(), before, 'its colliders are drawn over it')
  assert.deepEqual(site.errors, [])
})

test('a phone: the pad steers every way, and the buttons are pressed', { skip }, async () => {
  const context = await site.page
    .context()
    .browser()!
    .newContext({
      viewport: { width: 390, height: 844 },
      ...COARSE,
      hasTouch: true,
      isMobile: true,
    })
  const page = await context.newPage()
  const errors: string[] = []
  page.on('pageerror', ({ message }) => errors.push(message))
  await open(page)
  const client = await context.newCDPSession(page)
  const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', touchPoints: { x: number; y: number }[]) =>
    client.send('Input.dispatchTouchEvent', { type, touchPoints })
  await page.tap('#go')
  const { x, y, width, height } = (await page.locator('#pad').boundingBox())!
  const middle = { x: x + width / 2, y: y + height / 2 }
  let seen = await look(page)
  for (const [wayX, wayY] of [
    [1, 0],
    [0, 1],
    [-1, 0],
    [0, -1],
  ]) {
    await touch('touchStart', [middle])
    await touch('touchMove', [{ x: middle.x + 44 * wayX, y: middle.y - 44 * wayY }])
    for (let i = 0; i < 8; i++) await page.clock.fastForward(LOOK)
    await touch('touchEnd', [])
    const now = await look(page)
    const gone = wayX * (now.x - seen.x) + wayY * (now.y - seen.y)
    assert.ok(gone > 0.5, `steered to ${wayX}, ${wayY} it goes ${gone} m that way`)
    seen = now
  }
  const picture = () => page.locator('canvas#view').evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
  const charges = Number(await page.textContent('#charges'))
  for (const id of ['ping', 'claw', 'charge']) {
    const before = await picture()
    await page.tap(`#${id}`)
    await page.clock.fastForward(LOOK)
    assert.notEqual(await picture(), before, `nothing is seen of ${id}`)
  }
  assert.equal(Number(await page.textContent('#charges')), charges - 1)
  assert.deepEqual(errors, [])
  await context.close()
})
