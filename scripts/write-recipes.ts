/** Writes docs/recipes.md from the recipes themselves and what they print: `npm run recipes`. */
import { spawnSync } from 'node:child_process'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'

const FOLDER = 'examples/recipes'

/** One recipe: what it is for, what it prints, and its code as a user of the package writes it. */
function recipe(folder: string, file: string): string {
  const source = readFileSync(`${folder}/${file}`, 'utf8')
  const [, comment, code] = /^\/\*\*([\s\S]*?)\*\/\n([\s\S]*)$/.exec(source)!
  const about = comment
    .replace(/^\s*\* ?/gm, ' ')
    .replace(/\s+/g, ' ')
    .trim()
  const title = file.replace('.ts', '').replaceAll('-', ' ')
  const { stdout } = spawnSync(process.execPath, ['--import', 'tsx', `${folder}/${file}`], { encoding: 'utf8' })
  return [
    `### ${title[0].toUpperCase()}${title.slice(1)}`,
    about,
    `[\`${folder}/${file}\`](../${folder}/${file}) prints`,
    `\`\`\`\n${stdout}\`\`\``,
    `\`\`\`ts\n${code.trim().replace(/'(?:\.\.\/)+src\/([23]d)\/index.ts'/g, "'keen-sentry/$1'")}\n\`\`\``,
  ].join('\n\n')
}

function recipesOf(folder: string): string[] {
  return readdirSync(folder)
    .filter((file) => file.endsWith('.ts'))
    .sort()
    .map((file) => recipe(folder, file))
}

export function recipesText(): string {
  const intro =
    'Each is a file that runs as it stands (`npx tsx examples/recipes/NAME.ts`); the tests run them all and compare what they\nprint with this page, which `npm run recipes` writes.'
  const plane = ['## In the plane', ...recipesOf(FOLDER)]
  const space = ['## In space', ...recipesOf(`${FOLDER}/3d`)]
  return `# Recipes\n\n${intro}\n\n${[...plane, ...space].join('\n\n')}\n`
}

if (process.argv[1]?.endsWith('write-recipes.ts')) writeFileSync('docs/recipes.md', recipesText())
