/** Tests of one page. The pages of a process are opened one after the other in one browser, each when its first test runs. */
import { after, test } from 'node:test'
import { noBrowser, openPages, type Pages, type Site } from './browser.ts'

interface Options {
  /** Draws in 3D, in software: slower to begin. The pages of a process agree about it. */
  readonly webgl?: boolean
}

let pages: Promise<Pages> | null = null
/** Whose page is open. */
let open: Site | null = null

after(async () => (await pages)?.close())

/**
 * What is tested of a page: the site, which is there while a test of this page runs, and how such a test is written.
 * @param path of the page, below the address of the site
 * @param ready waits until the page can be tested; loaded is enough where it is left out
 */
export function onPage(
  path: string,
  ready: (site: Site) => Promise<unknown> = async () => {},
  { webgl = false }: Options = {},
): { readonly site: Site; readonly test: (name: string, run: () => Promise<void>) => void } {
  const skip = noBrowser()
  const site = {} as Site
  const turnTo = async (): Promise<void> => {
    if (open === site) return
    await open?.close()
    pages ??= openPages({ webgl })
    Object.assign(site, await (await pages).open())
    open = site
    await site.page.goto(`${site.address}${path}`)
    await ready(site)
  }
  return {
    site,
    test(name, run) {
      test(name, { skip }, async () => {
        await turnTo()
        await run()
      })
    },
  }
}
