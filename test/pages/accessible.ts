/** What an accessibility checker finds on a page, on a phone and on a screen, on a dark and on a light ground. */
import assert from 'node:assert/strict'
import axe from 'axe-core'
import type { Site } from './browser.ts'

interface Found {
  readonly violations: readonly {
    readonly id: string
    readonly help: string
    readonly nodes: readonly { readonly target: readonly unknown[]; readonly failureSummary?: string }[]
  }[]
}

const SIGHTS = [
  { colorScheme: 'dark', width: 390, height: 844 },
  { colorScheme: 'light', width: 1280, height: 800 },
] as const

/**
 * Nothing is found: on a phone on a dark ground, on a screen on a light one.
 * @param part of the page, where the rest was looked at before; default: all of it
 */
export async function accessible({ page }: Site, part = 'html'): Promise<void> {
  const before = page.viewportSize()!
  for (const { colorScheme, ...size } of SIGHTS) {
    await page.emulateMedia({ colorScheme })
    await page.setViewportSize(size)
    assert.deepEqual(await findings(page, part), [], `${colorScheme}, ${size.width} x ${size.height}`)
  }
  await page.setViewportSize(before)
}

async function findings(page: Site['page'], part: string): Promise<string[]> {
  if (!(await page.evaluate(() => 'axe' in globalThis))) await page.evaluate(axe.source)
  const { violations } = await page.evaluate(
    (within) => (globalThis as unknown as { axe: { run(part: string): Promise<Found> } }).axe.run(within),
    part,
  )
  return violations.flatMap(({ id, nodes }) =>
    nodes.map(
      ({ target, failureSummary }) => `${id}: ${target.join(' ')}: ${failureSummary?.split('\n')[1]?.trim() ?? ''}`,
    ),
  )
}
