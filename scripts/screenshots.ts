/**
 * Makes the pictures of the documentation from the demo data: `npm run screenshots`. Commands are run for real and
 * their output is shown as a terminal would; pages are opened in a headless browser.
 */
import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import sharp from 'sharp'
import { openSite } from '../test/pages/browser.ts'

const OUT = 'docs/screenshots'
const REEF = 'scenes/lantern-reef.json'
const WRECK = 'scenes/wreck.json'

function command(...words: string[]): string {
  const { stdout, stderr } = spawnSync(
    process.execPath,
    ['--import', 'tsx', 'scenes-package/src/cli/main.ts', ...words],
    {
      encoding: 'utf8',
      env: { ...process.env, FORCE_COLOR: '1' },
    },
  )
  return stdout + stderr
}

const STYLES: Record<string, string> = {
  1: 'font-weight:bold;color:#f2f7fb',
  2: 'color:#7f93a8',
  31: 'color:#ff8f70',
  32: 'color:#43cf9f',
  33: 'color:#ece27a',
  35: 'color:#f491bd',
  36: 'color:#6cc4f5',
}

/** Terminal colours as HTML; a reset of any kind closes one span. */
function asHtml(text: string): string {
  const safe = text.replaceAll('&', '&amp;').replaceAll(/<(?!\/?b)/g, '&lt;')
  // biome-ignore lint/suspicious/noControlCharactersInRegex: the escape character is what is looked for
  return safe.replace(/\u001b\[(\d+)m/g, (_, code: string) =>
    STYLES[code] === undefined ? '</span>' : `<span style="${STYLES[code]}">`,
  )
}

async function terminal(page: Page, name: string, typed: string, text: string): Promise<void> {
  const html = `<body style="margin:0;background:#0b1724"><pre style="margin:0;padding:22px 26px;color:#dfe9f2;
    font:15px/1.42 'DejaVu Sans Mono',monospace;white-space:pre-wrap"><span style="color:#ffb545">$</span> ${typed}\n\n${asHtml(text)}</pre></body>`
  await page.setContent(html)
  const height = await page.evaluate(() => document.querySelector('pre')!.offsetHeight)
  await page.setViewportSize({ width: 1280, height: Math.min(Math.max(height, 200), 1100) })
  await page.screenshot({ path: `${OUT}/${name}.png` })
  await page.setViewportSize({ width: 1280, height: 800 })
}

/** The demo with some of the mistakes that are easily made. */
function spoiltReef(): string {
  const scene = JSON.parse(readFileSync(REEF, 'utf8'))
  scene.layers.pairs.push(['zone', 'fauna', 'pass'])
  scene.rays[0].filter.layers = ['beacon', 'zone']
  scene.watches.push({ name: 'walls', a: 'rock', b: 'zone' })
  scene.actions.push({ time: 14, do: 'teleport', body: 'crate', at: [3, 3] })
  scene.bodies.push({ name: 'net', type: 'kinematic' })
  const path = join(mkdtempSync(join(tmpdir(), 'keen-')), 'spoilt-reef.json')
  writeFileSync(path, JSON.stringify(scene))
  return path
}

/** The wreck with one of its crates a little lighter. */
function lighterCrate(): string {
  const scene = JSON.parse(readFileSync(WRECK, 'utf8'))
  const crate = scene.bodies.find((body: { type: string }) => body.type === 'dynamic')
  crate.colliders[0].density = 0.999 * (crate.colliders[0].density ?? 1)
  const path = join(mkdtempSync(join(tmpdir(), 'keen-')), 'lighter-crate.json')
  writeFileSync(path, JSON.stringify(scene))
  return path
}

mkdirSync(OUT, { recursive: true })
command('draw', REEF, '--tick', '440', '--out', `${OUT}/draw.png`)
command('timeline', REEF, '--out', `${OUT}/timeline.png`)

command('draw', WRECK, '--tick', '260', '--out', `${OUT}/wreck.png`)
command(
  'ask',
  REEF,
  'shape',
  '--shape',
  'box:2,1',
  '--tick',
  '440',
  '--from',
  '3,13',
  '--to',
  '30,4',
  '--turn',
  '2',
  '--out',
  `${OUT}/ask.png`,
)

const site = await openSite({ webgl: true, sharp: true })
const { page } = site
await page.emulateMedia({ colorScheme: 'dark' })
await terminal(page, 'run', `keen-sentry run ${REEF} --story`, command('run', REEF, '--story'))
const pod = ['explain', REEF, 'pod', 'beacon', '--tick', '800']
const lantern = ['explain', REEF, 'lantern', 'beacon', '--tick', '440']
await terminal(
  page,
  'explain',
  `keen-sentry ${lantern.join(' ')}`,
  `${command(...lantern)}\n<b style="color:#ffb545">$</b> keen-sentry ${pod.join(' ')}\n\n${command(...pod)}`,
)
const broken = spoiltReef()
await terminal(
  page,
  'check',
  'keen-sentry check spoilt-reef.json',
  command('check', broken).replaceAll(broken, 'spoilt-reef.json'),
)

const lighter = lighterCrate()
await terminal(
  page,
  'compare',
  `keen-sentry run ${WRECK} --hashes --log out/before.jsonl --quiet`,
  [
    ['run', WRECK, '--hashes', '--log', 'out/before.jsonl', '--quiet'],
    ['compare', WRECK, 'out/before.jsonl'],
    ['compare', WRECK, lighter],
  ]
    .map((words, i) => {
      const typed = words.join(' ').replaceAll(lighter, 'lighter-crate.json')
      const prompt = i === 0 ? '' : `<b style="color:#ffb545">$</b> keen-sentry ${typed}\n\n`
      return prompt + command(...words).replaceAll(lighter, 'lighter-crate.json')
    })
    .join('\n'),
)

// What a pull of the slider, two choices and a press show.
await page.emulateMedia({ colorScheme: 'light' })
await page.goto(`${site.address}workbench/index.html#lantern-reef`)
await page.waitForSelector('canvas#view')
await page.locator('#time').fill('640')
await page.selectOption('#first', { label: 'lantern' })
await page.selectOption('#second', { label: 'beacon' })
await page.click('#tab-show')
for (const name of ['bounds', 'velocities']) await page.click(`[data-overlay=${name}]`)
await page.click('#tab-picked')
await page.waitForTimeout(600)
await page.screenshot({ path: `${OUT}/page-workbench.png` })
await page.emulateMedia({ colorScheme: 'dark' })

await page.goto(`${site.address}lantern/index.html`)
await page.click('#other')
await page.waitForFunction(() => Number.parseFloat(document.getElementById('where')!.textContent!) > 54, null, {
  timeout: 120_000,
})
await page.keyboard.press('Space')
await page.waitForTimeout(900)
await page.screenshot({ path: `${OUT}/page-game.png` })

await page.goto(`${site.address}questions/index.html`)
await page.waitForSelector('#hits li')
await page.click('[data-kind=shape]')
await page.selectOption('#mode', 'all')
await page.selectOption('#sensors', 'true')
await page.fill('#turn', '2.5')
await page.waitForTimeout(200)
await page.screenshot({ path: `${OUT}/page-questions.png` })

await page.goto(`${site.address}seafloor/index.html`)
await page.waitForSelector('#hits li')
await page.evaluate(() => {
  for (let i = 0; i < 500; i++) document.getElementById('step')?.click()
})
await page.click('#kinds [data-kind=ball]')
await page.waitForTimeout(6000)
await page.screenshot({ path: `${OUT}/page-seafloor.png` })

await page.goto(`${site.address}forces/index.html`)
await page.waitForSelector('#clock')
await page.evaluate(() => {
  for (let i = 0; i < 300; i++) document.getElementById('step')?.click()
})
await page.click('#play')
const box = (await page.locator('#view').boundingBox())!
const scale = Math.min(box.width / 32, box.height / 17)
const at = (x: number, y: number): [number, number] => [
  box.x + (box.width - 32 * scale) / 2 + x * scale,
  box.y + (box.height - 17 * scale) / 2 + (17 - y) * scale,
]
await page.mouse.move(...at(29.9, 1.56))
await page.mouse.down()
await page.mouse.move(...at(25, 9), { steps: 10 })
await page.waitForTimeout(150)
await page.screenshot({ path: `${OUT}/page-forces.png` })
await page.mouse.up()

await page.goto(`${site.address}wreck/index.html`)
await page.waitForSelector('#clock')
await page.evaluate(() => {
  for (let i = 0; i < 200; i++) document.getElementById('step')?.click()
})
await page.waitForTimeout(1500)
const deck = (await page.locator('#view').boundingBox())!
await page.mouse.move(deck.x + 0.676 * deck.width, deck.y + 0.297 * deck.height)
await page.mouse.down()
await page.mouse.move(deck.x + 0.6 * deck.width, deck.y + 0.13 * deck.height, { steps: 10 })
await page.waitForTimeout(900)
await page.screenshot({ path: `${OUT}/page-wreck.png` })
await page.mouse.up()

await page.goto(`${site.address}walk/index.html`)
await page.waitForSelector('#clock')
await page.keyboard.down('KeyD')
await page.waitForFunction(() => /gentle slope|belt/.test(document.getElementById('ground')?.textContent ?? ''))
await page.keyboard.press('Space')
await page.waitForTimeout(350)
await page.screenshot({ path: `${OUT}/page-walk.png` })
await page.keyboard.up('KeyD')

await page.goto(`${site.address}together/index.html`)
await page.waitForFunction(() => Number(document.getElementById('tick-left')?.textContent) > 400)
await page.screenshot({ path: `${OUT}/page-together.png` })

await page.goto(`${site.address}tiles/index.html`)
await page.waitForSelector('#clock')
await page.waitForTimeout(6000)
const dig = (await page.locator('#view').boundingBox())!
const cell = dig.width / 49
const tile = (x: number, y: number): [number, number] => [
  dig.x + dig.width / 2 + (x - 24) * cell,
  dig.y + dig.height / 2 - (y - 14) * cell,
]
await page.mouse.move(...tile(39, 18))
await page.mouse.down()
await page.mouse.move(...tile(36, 10), { steps: 8 })
await page.mouse.up()
await page.keyboard.press('8')
for (const [x, y] of [
  [10, 11],
  [31, 3.5],
  [24, 14],
]) {
  await page.mouse.click(...tile(x, y))
}
await page.waitForTimeout(7000)
await page.screenshot({ path: `${OUT}/page-tiles.png` })

await page.goto(`${site.address}rover/index.html`)
await page.waitForFunction(() => /tick 1\d\d/.test(document.getElementById('clock')?.textContent ?? ''))
await page.keyboard.down('ArrowUp')
await page.waitForTimeout(7000)
await page.screenshot({ path: `${OUT}/page-rover.png` })
await page.keyboard.up('ArrowUp')

await page.goto(`${site.address}joints/index.html`)
await page.selectOption('#joint', 'rope')
await page.waitForFunction(
  () => Number(/tick (\d+)/.exec(document.getElementById('clock')?.textContent ?? '')?.[1]) > 120,
)
const bench = (await page.locator('#view').boundingBox())!
const ratio = Math.min(bench.width / 24, bench.height / 13)
const spot = (x: number, y: number): [number, number] => [
  bench.x + (bench.width - 24 * ratio) / 2 + x * ratio,
  bench.y + (bench.height - 13 * ratio) / 2 + (13 - y) * ratio,
]
await page.mouse.move(...spot(8, 9))
await page.mouse.down()
await page.mouse.move(...spot(9.5, 4), { steps: 10 })
await page.waitForTimeout(1500)
await page.screenshot({ path: `${OUT}/page-joints.png` })
await page.mouse.up()
// Behind the cards of the home page: worlds of 3D, which would cost it too much to run.
for (const [name, wait] of [
  ['seafloor', 3000],
  ['wreck', 7000],
  ['rover', 4000],
] as const) {
  await page.goto(`${site.address}${name}/index.html`)
  await page.waitForSelector('#clock')
  await page.evaluate(() => {
    const names = document.getElementById('names') as HTMLInputElement | null
    if (names !== null) names.checked = false
    document.getElementById('play')?.click()
  })
  await page.waitForTimeout(wait)
  const picture = await page.screenshot({ clip: (await page.locator('#view').boundingBox())! })
  await sharp(picture)
    .resize(640, 360, { fit: 'cover' })
    .jpeg({ quality: 78 })
    .toFile(`examples/shared/cards/${name}.jpg`)
}

await site.close()

// 256 colours are enough for each, and make a third of the bytes: the package carries them.
for (const file of readdirSync(OUT)) {
  const path = join(OUT, file)
  writeFileSync(path, await sharp(readFileSync(path)).png({ palette: true, effort: 10 }).toBuffer())
}
