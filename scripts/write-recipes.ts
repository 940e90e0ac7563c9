/** Writes docs/recipes.md from the recipes themselves and what they print: `npm run recipes`. */
import { spawnSync } from 'node:child_process'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'

const FOLDER = 'examples/recipes'

export function recipesText(): string {
  const parts = readdirSync(FOLDER)
    .filter((file) => file.endsWith('.ts'))
    .sort()
    .map((file) => {
      const source = readFileSync(`${FOLDER}/${file}`, 'utf8')
      const [, comment, code] = /^\/\*\*([\s\S]*?)\*\/\n([\s\S]*)$/.exec(source)!
      const about = comment
        .replace(/^\s*\* ?/gm, ' ')
        .replace(/\s+/g, ' ')
        .trim()
      const title = file.replace('.ts', '').replaceAll('-', ' ')
      const { stdout } = spawnSync(process.execPath, ['--import', 'tsx', `${FOLDER}/${file}`], { encoding: 'utf8' })
      return [
        `## ${title[0].toUpperCase()}${title.slice(1)}`,
        about,
        `[\`${FOLDER}/${file}\`](../${FOLDER}/${file}) prints`,
        `\`\`\`\n${stdout}\`\`\``,
        `\`\`\`ts\n${code.trim().replaceAll("'../../src/2d/index.ts'", "'keen-sentry/2d'")}\n\`\`\``,
      ].join('\n\n')
    })
  const intro =
    'Each is a file that runs as it stands (`npx tsx examples/recipes/NAME.ts`); the tests run them all and compare what they\nprint with this page, which `npm run recipes` writes.'
  return `# Recipes\n\n${intro}\n\n${parts.join('\n\n')}\n`
}

if (process.argv[1]?.endsWith('write-recipes.ts')) writeFileSync('docs/recipes.md', recipesText())
