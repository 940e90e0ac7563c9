/** What an accessibility checker finds on a page, at the size of a screen and of a phone, on a dark and on a light ground. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Site } from './browser.ts'

const checker = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

interface Found {
  readonly violations: readonly {
    readonly id: string
    readonly help: string
    readonly nodes: readonly { readonly target: readonly unknown[]; readonly failureSummary?: string }[]
  }[]
}

/** Nothing is found, at either size, on either ground. */
export async function accessible({ page }: Site): Promise<void> {
  const before = page.viewportSize()!
  for (const colorScheme of ['dark', 'light'] as const) {
    await page.emulateMedia({ colorScheme })
    for (const size of [
      { width: 390, height: 844 },
      { width: 1280, height: 800 },
    ]) {
      await page.setViewportSize(size)
      const found = await findings(page)
      assert.deepEqual(found, [], `${colorScheme}, ${size.width} x ${size.height}`)
    }
  }
  await page.setViewportSize(before)
}

async function findings(page: Site['page']): Promise<string[]> {
  await page.evaluate(checker)
  const { violations } = await page.evaluate(
    () => (globalThis as unknown as { axe: { run(): Promise<Found> } }).axe.run() as Promise<Found>,
  )
  return violations.flatMap(({ id, nodes }) =>
    nodes.map(
      ({ target, failureSummary }) => `${id}: ${target.join(' ')}: ${failureSummary?.split('\n')[1]?.trim() ?? ''}`,
    ),
  )
}
