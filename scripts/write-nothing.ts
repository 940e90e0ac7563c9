/** Writes docs/nothing-happens.md from the mistakes that the tests play, and what is said of them: `npm run nothing`. */
import { writeFileSync } from 'node:fs'
import { check } from '../scenes-package/src/scene/index.ts'
import { DIMENSIONS } from '../test/helpers/dimensions.ts'
import { mistakesOf } from '../test/helpers/mistakes.ts'
import { readMistake, SCENE_MISTAKES } from '../test/helpers/sceneMistakes.ts'

const cell = (text: string): string => text.replaceAll('|', '\\|')
const table = (heads: readonly string[], rows: readonly (readonly string[])[]): string =>
  [heads, heads.map(() => '---'), ...rows].map((row) => `| ${row.map(cell).join(' | ')} |`).join('\n')
const capital = (text: string): string => text[0].toUpperCase() + text.slice(1)

/** What `explain` says of each mistake in code, by what one sees. */
function inCode(): string[] {
  const { scene, mistakes } = mistakesOf(DIMENSIONS[0])
  const seen = new Map<string, string[][]>()
  for (const { name, sees, wrong, says, cure } of mistakes) {
    const spoilt = scene()
    wrong(spoilt)
    const { checks, cures } = spoilt.world.explain(spoilt.craft, spoilt.floor)
    const { check: at, detail } = checks.find((each) => says.test(each.detail))!
    const row = [capital(name), `\`${at}\`: ${detail}`, `\`${cures.find((each) => cure.test(each))!}\``]
    seen.set(sees, [...(seen.get(sees) ?? []), row])
  }
  return [...seen].map(
    ([sees, rows]) =>
      `### ${sees.replace(/\.$/, '')}\n\n${table(['the mistake', 'what `explain` says', 'what helps'], rows)}`,
  )
}

/** What `check` says of each mistake in a scene file. */
function inScenes(): string {
  const rows = Object.entries(SCENE_MISTAKES).map(([name, [code, place]]) => {
    const found = check(readMistake(`${name}.json`)).find((each) => each.code === code && each.place === place)!
    return [`\`${code}\``, found.level, `${place === '' ? '' : `\`${place}\` `}${found.message}`, found.cure ?? '']
  })
  rows.sort((one, other) => (one[0] < other[0] ? -1 : 1))
  return table(['code', 'level', 'what `check` says', 'what helps'], rows)
}

export function nothingText(): string {
  return `# Nothing happens: what now

A trigger never fires, a callback is never called, an end never comes, a body falls through the floor: ask. \`console.log(String(world.explain(craft, floor)))\` says why two bodies meet or do not; \`keen-sentry explain SCENE A B --tick N\` says the same of a scene, and
\`keen-sentry check SCENE\` looks for mistakes before anything runs. While you make a game, \`createWorld({ layers, advise: true })\` collects what looks
wrong; \`world.advice()\` lists it.

This page is written by \`npm run nothing\` from the mistakes that the tests make: each is made, named, cured by what is said here, and then works.

## In code

A craft is to land on a floor.

${inCode().join('\n\n')}

## In scene files

A finding that is meant as it is can be silenced: \`"silence": [{ "code": "no-floor", "place": "bodies[1]" }]\`.

${inScenes()}
`
}

if (process.argv[1]?.endsWith('write-nothing.ts')) writeFileSync('docs/nothing-happens.md', nothingText())
