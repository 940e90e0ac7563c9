import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { after, before, test } from 'node:test'
import { accessible } from './accessible.ts'
import { colours, fits, noBrowser, openSite, type Site, text } from './browser.ts'

const skip = noBrowser()
let site: Site

before(async () => {
  if (skip !== false) return
  site = await openSite()
})
after(async () => site?.close())

async function open(scene: string, width = 1280, height = 800): Promise<void> {
  await site.page.setViewportSize({ width, height })
  await site.page.goto('about:blank')
  await site.page.goto(`${site.address}workbench/index.html#${scene}`)
  await site.page.waitForFunction(() => document.querySelector('canvas#view') !== null)
  await at(0)
}

/** Waits until a tick is shown. */
const at = (tick: number): Promise<unknown> =>
  site.page.waitForFunction(
    (wanted) => document.getElementById('clock')!.textContent!.startsWith(`tick ${wanted} `),
    tick,
  )

const says = (selector: string, pattern: RegExp): Promise<unknown> =>
  site.page.waitForFunction(
    ([where, source]) => new RegExp(source, 's').test(document.querySelector(where)?.textContent ?? ''),
    [selector, pattern.source] as const,
  )

/** Goes to a tick by the slider, as the arrow keys would. */
async function slideTo(tick: number): Promise<void> {
  await site.page.locator('#time').fill(String(tick))
  await at(tick)
}

for (const [size, width, height] of [
  ['a screen', 1280, 800],
  ['a phone', 390, 844],
] as const) {
  test(`${size}: play, step, back, the slider, and a mark of the time line`, { skip }, async () => {
    const { page } = site
    await open('lantern-reef', width, height)
    assert.ok(await page.isDisabled('#back'))
    await page.click('#step')
    await page.click('#step')
    await at(2)
    await page.click('#back')
    await at(1)
    await page.click('#play')
    await page.waitForFunction(() => Number(/tick (\d+)/.exec(document.getElementById('clock')!.textContent!)![1]) > 20)
    await page.click('#play')
    await slideTo(600)
    await slideTo(300)
    // The event list: filtered, and a press goes to the tick.
    await page.click('#tab-happened')
    await page.fill('#about-whom', 'beacon')
    await page.waitForFunction(() => document.querySelectorAll('#events li').length > 0)
    const first = page.locator('#events button').first()
    const time = Number.parseFloat((await first.textContent())!)
    await first.click()
    await at(Math.round(time * 60))
    await page.click('#tab-picked')
    await page.waitForFunction(() => (document.getElementById('first') as HTMLSelectElement).value !== '')
    // A mark: found where the list says that something happened.
    const box = (await page.locator('#marks').boundingBox())!
    await slideTo(10)
    await page.mouse.click(box.x + 8 + ((time * 60) / 1200) * (box.width - 16) + 1, box.y + 4)
    await at(Math.round(time * 60))
  })

  test(`${size}: a cell of the pair table changes the world, and is counted`, { skip }, async () => {
    const { page } = site
    await open('salvage', width, height)
    await page.click('#tab-layers')
    await slideTo(200)
    const cell = page.locator('[data-pair="crate rock"]')
    await page.waitForFunction(() =>
      /met [1-9]/.test(document.querySelector('[data-pair="crate rock"]')!.getAttribute('aria-label')!),
    )
    assert.match((await cell.getAttribute('aria-label'))!, /crate and rock: solid met \d+ times; press for sense/)
    const before = await page.locator('canvas#view').evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
    await cell.click()
    await cell.click()
    await page.waitForFunction(() =>
      /crate and rock: pass.*, changed/.test(
        document.querySelector('[data-pair="crate rock"]')!.getAttribute('aria-label')!,
      ),
    )
    assert.match(await text(site, '#rows'), /decided \d+ times/)
    await slideTo(320)
    const fallen = await page.locator('canvas#view').evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
    assert.notEqual(fallen, before)
    // The crates fall through the floor, and back at an earlier tick the change is undone.
    await slideTo(100)
    assert.match((await cell.getAttribute('aria-label'))!, /crate and rock: solid/)
  })

  test(`${size}: two are asked about, and the button of the cure cures`, { skip }, async () => {
    const { page } = site
    await open('lantern-reef', width, height)
    await page.click('#tab-layers')
    for (const response of ['sense', 'pass']) {
      await page.click('[data-pair="craft rock"]')
      await page.waitForSelector(`[data-pair="craft rock"].${response}`)
    }
    await slideTo(30)
    await page.click('#tab-picked')
    await page.selectOption('#first', { label: 'lantern' })
    await says('#facts', /kinematic.*collider 0.*capsule/)
    await page.selectOption('#second', { label: 'pillar' })
    await says('#why', /they do not meet \(masks\)/)
    await page.getByRole('button', { name: 'Set craft and rock to solid' }).click()
    await says('#why', /they do not meet \(bounds\)/)
    // Of two that stand still one is made to move.
    await page.selectOption('#first', { label: 'dock' })
    await page.selectOption('#second', { label: 'buoy' })
    await says('#why', /they do not meet \(both-static\)/)
    await page.getByRole('button', { name: 'Make buoy kinematic' }).click()
    await says('#why', /no watch|overlap/)
  })

  test(`${size}: nothing hangs over, and nothing is found on any panel`, { skip }, async () => {
    await open('lantern-reef', width, height)
    await slideTo(100)
    await site.page.selectOption('#first', { label: 'lantern' })
    await site.page.selectOption('#second', { label: 'crate' })
    for (const panel of ['picked', 'happened', 'layers', 'show', 'plots', 'findings']) {
      await site.page.setViewportSize({ width, height })
      await site.page.click(`#tab-${panel}`)
      if (size === 'a screen') await accessible(site, panel === 'picked' ? 'html' : `#${panel}`)
      await fits(site)
    }
  })
}

test('the pointer picks, asks about a second, drags while paused, and pans', { skip }, async () => {
  const { page } = site
  await open('lantern-reef')
  // 40 by 21.5 metres, as far as they fit; in the middle of the picture.
  const box = (await page.locator('canvas#view').boundingBox())!
  const scale = Math.min(box.width / 40, box.height / 21.5)
  const onPage = (x: number, y: number): [number, number] => [
    box.x + box.width / 2 + (x - 20) * scale,
    box.y + box.height / 2 + (10.75 - y) * scale,
  ]
  const place = async (): Promise<number[]> => {
    const said = /at\(([-\d.]+), ([-\d.]+)\)/.exec(await text(site, '#facts'))!
    return [Number(said[1]), Number(said[2])]
  }
  await page.selectOption('#first', { label: 'crate' })
  await says('#facts', /at\(/)
  const [x, y] = await place()
  await page.selectOption('#first', '')
  await page.mouse.click(...onPage(x, y))
  await says('#facts', /crate/)
  await page.mouse.move(...onPage(x, y))
  await page.mouse.down()
  await page.mouse.move(...onPage(x + 3, y + 1), { steps: 6 })
  await page.mouse.up()
  await page.waitForTimeout(200)
  const [movedX, movedY] = await place()
  assert.ok(Math.abs(movedX - x - 3) < 0.3 && Math.abs(movedY - y - 1) < 0.3, `${x}, ${y} to ${movedX}, ${movedY}`)
  await page.click('#pair')
  assert.equal(await page.getAttribute('#pair', 'aria-pressed'), 'true')
  await page.mouse.click(...onPage(18, 4))
  await says('#why', /crate and pillar/)
  // The keyboard: the picture moves what is picked, and says what it picks next.
  await page.locator('canvas#view').focus()
  await page.keyboard.press('Shift+ArrowRight')
  await page.waitForTimeout(200)
  assert.ok(Math.abs((await place())[0] - movedX - 1) < 1e-6)
  await page.keyboard.press('n')
  await says('#said', /picked /)
  await page.keyboard.press('x')
  await says('#said', /asked about /)
  await page.keyboard.press('.')
  await at(1)
  await page.keyboard.press(',')
  await at(0)
})

test('a phone: one finger pans, two zoom, a tap picks', { skip }, async () => {
  const { page } = site
  await open('lantern-reef', 390, 844)
  const touch = await page.context().newCDPSession(page)
  const box = (await page.locator('canvas#view').boundingBox())!
  const send = (type: string, ...points: [number, number][]): Promise<unknown> =>
    touch.send('Input.dispatchTouchEvent', {
      type: type as 'touchStart',
      touchPoints: points.map(([x, y], id) => ({ x: box.x + x * box.width, y: box.y + y * box.height, id })),
    })
  const picture = () => page.locator('canvas#view').evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
  const gesture = async (...steps: [number, number][][]): Promise<void> => {
    await send('touchStart', ...steps[0])
    for (const step of steps.slice(1)) await send('touchMove', ...step)
    await send('touchEnd')
    await page.waitForTimeout(200)
  }
  const first = await picture()
  await gesture([[0.4, 0.9]], [[0.5, 0.85]], [[0.6, 0.8]])
  const panned = await picture()
  assert.notEqual(panned, first, 'panned')
  await gesture(
    [
      [0.45, 0.5],
      [0.55, 0.5],
    ],
    [
      [0.35, 0.5],
      [0.65, 0.5],
    ],
    [
      [0.2, 0.5],
      [0.8, 0.5],
    ],
  )
  assert.notEqual(await picture(), panned, 'zoomed')
  await page.click('#fit')
  // The beacon, in the lower right.
  const scale = Math.min(box.width / 40, box.height / 21.5)
  await gesture([[0.5 + ((34 - 20) * scale) / box.width, 0.5 - ((5.5 - 10.75) * scale) / box.height]])
  await says('#facts', /beacon|pod/)
})

test('files: a scene, its event log beside it, a log of another run, and what is neither', { skip }, async () => {
  const { page } = site
  await open('lantern-reef')
  const scene = readFileSync('scenes/salvage.json', 'utf8')
  const { Run } = await import('../../examples/workbench/run.ts')
  const { headerLine } = await import('../../src/record/index.ts')
  const { readScene } = await import('../../scenes-package/src/scene/index.ts')
  const run = new Run(readScene(JSON.parse(scene)))
  run.seek(200)
  const log = (lines: readonly object[]): string =>
    [headerLine('Salvage', 'f'.repeat(64), '2d', 60, 0), ...lines, { kind: 'done', ticks: 200, counts: {} }]
      .map((line) => JSON.stringify(line))
      .join('\n')
  const drop = (name: string, body: string) =>
    page.setInputFiles('#files', [
      { name: 'mine.json', mimeType: 'application/json', buffer: Buffer.from(scene) },
      { name, mimeType: 'application/jsonl', buffer: Buffer.from(body) },
    ])
  await drop('run.jsonl', log(run.lines))
  await says('#said', /opened mine.json, run.jsonl/)
  await slideTo(150)
  await says('#log', /the same up to tick 150/)
  await drop('run.jsonl', log(run.lines.filter((_, i) => i !== 5)))
  await at(0)
  await slideTo(150)
  await says('#log', /They part in tick \d+/)
  await page.setInputFiles('#files', [
    { name: 'spoilt.json', mimeType: 'application/json', buffer: Buffer.from('{"a":') },
  ])
  await says('#said', /spoilt.json: it is no JSON/)
  const spoilt = JSON.parse(scene)
  spoilt.bodies[0].colliders[0].layer = 'rokc'
  await page.setInputFiles('#files', [
    { name: 'spoilt.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(spoilt)) },
  ])
  await says('#said', /spoilt.json: .*rock/)
  // What was open before is still there.
  await at(150)
  const dropped = await page.evaluateHandle((body) => {
    const transfer = new DataTransfer()
    transfer.items.add(new File([body], 'dropped.json'))
    return transfer
  }, scene)
  await page.dispatchEvent('#stage', 'drop', { dataTransfer: dropped })
  await says('#said', /opened dropped.json/)
})

test('overlays are drawn: each changes the picture', { skip }, async () => {
  const { page } = site
  await open('sluice')
  await slideTo(120)
  await page.click('#tab-show')
  const picture = () => page.locator('canvas#view').evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
  let before = await picture()
  for (const name of ['names', 'touches', 'joints', 'loads', 'bounds', 'tree', 'velocities', 'ways']) {
    await page.click(`[data-overlay=${name}]`)
    await page.waitForTimeout(120)
    const after = await picture()
    assert.notEqual(after, before, name)
    before = after
  }
  assert.ok((await colours(page, 'canvas#view')) > 10)
})

test('3D: played, gone back in, a body picked and moved by keys', { skip }, async (t) => {
  const flat = site
  site = await openSite({ webgl: true })
  t.after(async () => {
    await site.close()
    site = flat
  })
  const { page } = site
  await open('sea-floor')
  await slideTo(60)
  await slideTo(20)
  await page.selectOption('#first', { index: 3 })
  await says('#facts', /at\(/)
  const before = await text(site, '#facts')
  await page.locator('canvas#view').focus()
  await page.keyboard.press('Shift+ArrowUp')
  await page.waitForFunction((old) => document.getElementById('facts')!.textContent !== old, before)
  await page.click('#tab-show')
  for (const name of ['bounds', 'tree', 'velocities', 'ways', 'loads']) await page.click(`[data-overlay=${name}]`)
  await page.waitForTimeout(300)
  assert.deepEqual(site.errors, [])
})

test('five thousand shapes: small ones are drawn together, and what is off the picture is not drawn', {
  skip,
}, async () => {
  const { page } = site
  await open('five-thousand')
  // As text: what builds this file would put names into it that a page does not have.
  await page.evaluate(`{
    const pen = CanvasRenderingContext2D.prototype
    globalThis.drawn = { calls: 0 }
    for (const name of ['fill', 'stroke', 'fillText', 'strokeText']) {
      const original = pen[name]
      pen[name] = function (...values) {
        drawn.calls++
        return original.apply(this, values)
      }
    }
  }`)
  const calls = async (): Promise<number> => {
    await page.evaluate('drawn.calls = 0')
    await page.click('#step')
    // Its own frame, and another, so that it is over.
    await page.evaluate('new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))')
    return page.evaluate('drawn.calls') as Promise<number>
  }
  const all = await calls()
  assert.ok(all > 0 && all < 400, `all in view take ${all} calls`)
  for (let i = 0; i < 9; i++) await page.click('#nearer')
  const near = await calls()
  assert.ok(near > 0 && near < 2500, `near enough to read names they take ${near} calls`)
})

test('the page reported no error', { skip }, () => {
  assert.deepEqual(site.errors, [])
})
