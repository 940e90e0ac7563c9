/** A headless Chromium and a server for the examples, built as they are published; skips aloud where there is no browser, except in CI. */
import assert from 'node:assert/strict'
import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { type Browser, chromium, type Page } from 'playwright-core'
import { build, preview } from 'vite'

const CANDIDATES = [
  process.env['KEEN_BROWSER'],
  '/usr/bin/chromium',
  '/usr/bin/chromium-browser',
  '/usr/bin/google-chrome',
]

const CONFIG = fileURLToPath(new URL('../../examples/vite.config.ts', import.meta.url))

export interface Site {
  page: Page
  address: string
  /** Errors that the page reported. */
  errors: string[]
  close(): Promise<void>
}

/** The reason to skip, or false. In CI a missing browser is a failure, not a skip. */
export function noBrowser(): string | false {
  if (found() !== undefined) return false
  if (process.env['CI']) throw new Error('no browser was found, and CI must run the page tests')
  return `no browser was found (tried ${CANDIDATES.filter(Boolean).join(', ')}); set KEEN_BROWSER`
}

function found(): string | undefined {
  return CANDIDATES.find((path) => path !== undefined && existsSync(path))
}

/** Half as many dots a length as a plain screen: a quarter of the work, for pictures are drawn without a graphics card. */
export const COARSE = { deviceScaleFactor: 0.5 }

/** A browser and a server, which several pages can share. */
export interface Pages {
  open(): Promise<Site>
  close(): Promise<void>
}

interface PagesOptions {
  /** Draws in 3D, in software: slower to begin. */
  webgl?: boolean
  /** As a plain screen shows it, for a picture that is kept; otherwise {@link COARSE}. */
  sharp?: boolean
}

export async function openPages({ webgl = false, sharp = false }: PagesOptions = {}): Promise<Pages> {
  const pages = { configFile: CONFIG, logLevel: 'error' } as const
  // A run of many files builds them once, before.
  if (!process.env['KEEN_PAGES_BUILT']) await build(pages)
  const server = await preview({ ...pages, preview: { port: 0, host: '127.0.0.1' } })
  const browser: Browser = await chromium.launch({
    executablePath: found() ?? '',
    args: [
      '--no-sandbox',
      ...(webgl ? ['--use-angle=swiftshader', '--enable-unsafe-swiftshader'] : ['--disable-gpu']),
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  })
  return {
    async open() {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, ...(sharp ? {} : COARSE) })
      const errors: string[] = []
      page.on('pageerror', (error) => errors.push(error.message))
      page.on('console', (message) => {
        if (message.type() === 'error') errors.push(message.text())
      })
      return { page, errors, address: server.resolvedUrls!.local[0], close: () => page.close() }
    },
    async close() {
      await browser.close()
      await server.close()
    },
  }
}

/** One page with a browser and a server of its own. */
export async function openSite(options: PagesOptions = {}): Promise<Site> {
  const pages = await openPages(options)
  return { ...(await pages.open()), close: () => pages.close() }
}

/** How many different colours a screenshot of an element has: one that is blank has one. */
export async function colours(page: Page, selector: string): Promise<number> {
  return page.locator(selector).evaluate((element) => {
    const canvas = element as HTMLCanvasElement
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
    const seen = new Set<number>()
    for (let i = 0; i < data.length; i += 4) seen.add((data[i] << 16) | (data[i + 1] << 8) | data[i + 2])
    return seen.size
  })
}

export const text = async (site: Site, selector: string): Promise<string> =>
  (await site.page.textContent(selector)) ?? ''

/** Waits until the world of a page is past a tick. */
export const ticks = (site: Site, count: number): Promise<unknown> =>
  site.page.waitForFunction(
    (least) => Number(/tick (\d+)/.exec(document.getElementById('clock')?.textContent ?? '')?.[1]) > least,
    count,
    { timeout: 60_000 },
  )

/** Nothing of a page hangs over the edge of a window, nor of a phone's. */
export async function fits(site: Site): Promise<void> {
  for (const viewport of [
    { width: 390, height: 844 },
    { width: 1280, height: 800 },
  ]) {
    await site.page.setViewportSize(viewport)
    const over = await site.page.evaluate(() => [
      document.documentElement.scrollWidth - window.innerWidth,
      document.documentElement.scrollHeight - window.innerHeight,
    ])
    assert.deepEqual(over, [0, 0], `what hangs over at ${viewport.width} x ${viewport.height}`)
  }
}
