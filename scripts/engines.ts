/**
 * Plays the same worlds on every JavaScript engine that is there, and compares them tick by tick: `npm run test:engines`. Node is always there;
 * Chromium by playwright-core; two shells where Debian has them: `jsc` (package libjavascriptcoregtk-4.0-bin) and `js102` (libmozjs-102-dev).
 * Says which engines were not found. With `-- --quick` fewer ticks, on Node and Chromium. Prints Markdown.
 */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { build } from 'esbuild'
import { chromium } from 'playwright-core'

type Played = Record<string, string[]>

const quick = process.argv.includes('--quick')
const bundle = (
  await build({
    entryPoints: ['test/engines/suite.ts'],
    bundle: true,
    write: false,
    format: 'iife',
    target: 'es2022',
    define: { KEEN_ENGINES: quick ? '40' : '240' },
  })
).outputFiles[0].text
const file = join(mkdtempSync(join(tmpdir(), 'keen-sentry-')), 'suite.js')
writeFileSync(file, bundle)

function inNode(): Played {
  writeFileSync(`${file}.node.js`, `globalThis.print = (text) => console.log(text)\n${bundle}`)
  return inShell(process.execPath, `${file}.node.js`)!
}

async function inChromium(): Promise<Played | null> {
  const path = ['/usr/bin/chromium', '/usr/bin/google-chrome'].find((each) => existsSync(each))
  if (path === undefined) return null
  const browser = await chromium.launch({ executablePath: path, args: ['--no-sandbox'] })
  try {
    const page = await browser.newPage()
    await page.addScriptTag({ content: bundle })
    return JSON.parse(await page.evaluate('result')) as Played
  } finally {
    await browser.close()
  }
}

function inShell(command: string, script = file): Played | null {
  const { status, stdout, error, stderr } = spawnSync(command, [script], { encoding: 'utf8', maxBuffer: 1 << 28 })
  if (error !== undefined) return null
  if (status !== 0) throw new Error(`${command} failed: ${stderr || stdout}`)
  return JSON.parse(stdout) as Played
}

const played: Record<string, Played | null> = {
  [`Node ${process.versions.node}`]: inNode(),
  Chromium: await inChromium(),
  ...(quick ? {} : { 'JavaScriptCore (jsc)': inShell('jsc'), 'SpiderMonkey (js102)': inShell('js102') }),
}
const engines = Object.entries(played).filter((each): each is [string, Played] => each[1] !== null)
const [[, expected]] = engines
let apart = 0
const line = (cells: readonly string[]): void => void process.stdout.write(`| ${cells.join(' | ')} |\n`)
line(['world', 'ticks', ...engines.map(([name]) => name)])
line(['---', '---', ...engines.map(() => '---')])
for (const [name, hashes] of Object.entries(expected)) {
  const cells = engines.map(([, other]) => {
    const at = hashes.findIndex((hash, tick) => other[name][tick] !== hash)
    if (at < 0) return `\`${hashes.at(-1)!.slice(0, 8)}\``
    apart++
    return `apart from tick ${at + 1}`
  })
  line([name, String(hashes.length), ...cells])
}
for (const [name, each] of Object.entries(played)) if (each === null) process.stdout.write(`\nnot found: ${name}\n`)
if (apart > 0 || (process.env['CI'] !== undefined && engines.length < 2)) process.exitCode = 1
