/** Writes docs/recipes.md from the recipes themselves and what they print: `npm run recipes`. */
import { spawnSync } from 'node:child_process'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'

const FOLDER = 'examples/recipes'
const SPACE = `${FOLDER}/3d`

/** Recipes of 3D that go by another name than what they are the twin of. */
const TWINS: Readonly<Record<string, string>> = {
  'ground-probe': 'ground-probe-under-six-legs',
  'line-of-sight': 'field-of-view-with-occlusion',
  'pointer-picking': 'picking-from-a-screen-position',
  'room-to-spawn': 'safe-spawn-on-a-slope',
}

interface Printed {
  readonly printed: string
  readonly advice: readonly string[]
}

interface Recipe {
  readonly path: string
  readonly about: string
  /** As a user of the package writes it. */
  readonly code: string
  readonly prints: string
  /** What its worlds would advise. */
  readonly advice: readonly string[]
}

function read(path: string, { printed: prints, advice }: Printed): Recipe {
  const source = readFileSync(path, 'utf8')
  const [, comment, body] = /^(?:\/\*\*([\s\S]*?)\*\/\n)([\s\S]*)$/.exec(source)!
  const about = comment
    .replace(/^\s*\* ?/gm, ' ')
    .replace(/\s+/g, ' ')
    .trim()
  const code = body.trim()
  return { path, about, code, prints, advice }
}

/** What each recipe of a folder is and prints, by its name. */
function readAll(folder: string): Map<string, Recipe> {
  const files = readdirSync(folder).filter((file) => file.endsWith('.ts'))
  const paths = files.sort().map((file) => `${folder}/${file}`)
  const words = ['--import', 'tsx', 'scripts/print-recipes.ts', ...paths]
  const { stdout, stderr } = spawnSync(process.execPath, words, { encoding: 'utf8' })
  if (stdout === '') throw new Error(stderr)
  const printed = JSON.parse(stdout) as Record<string, Printed>
  return new Map(paths.map((path, i) => [files[i].replace('.ts', ''), read(path, printed[path])]))
}

const link = (recipe: Recipe): string => `[\`${recipe.path}\`](../${recipe.path})`
const printed = ({ prints }: Recipe): string => `\`\`\`\n${prints}\`\`\``
const block = ({ code }: Recipe): string => `\`\`\`ts\n${code}\n\`\`\``

/** One recipe: what it is for, what it prints, its code; and its twin in 3D, told again only where that differs. */
function section(name: string, recipe: Recipe, twin: Recipe | null): string {
  const title = name.replaceAll('-', ' ')
  const text = [`### ${title[0].toUpperCase()}${title.slice(1)}`, recipe.about]
  text.push(`${link(recipe)} prints`, printed(recipe), block(recipe))
  if (twin === null) return text.join('\n\n')
  text.push(twin.about === recipe.about ? `In 3D, ${link(twin)}:` : `In 3D, ${link(twin)}: ${twin.about}`)
  if (twin.prints !== recipe.prints) text.push(printed(twin))
  text.push(block(twin))
  return text.join('\n\n')
}

export interface RecipesPage {
  readonly text: string
  /** What the worlds of each recipe would advise, where there is anything. */
  readonly advice: Readonly<Record<string, readonly string[]>>
}

export function recipesPage(): RecipesPage {
  const intro =
    'Each is a file that runs as it stands (`npx tsx examples/recipes/NAME.ts`); the tests run them all and compare what they\nprint with this page, which `npm run recipes` writes. Where there is a twin in 3D it stands behind; what it prints is shown where it\nprints something else.'
  const space = readAll(SPACE)
  const taken = new Set<string>()
  const flat = readAll(FOLDER)
  const plane = [...flat].map(([name, recipe]) => {
    const other = TWINS[name] ?? name
    taken.add(other)
    return section(name, recipe, space.get(other) ?? null)
  })
  const alone = [...space].filter(([name]) => !taken.has(name)).map(([name, recipe]) => section(name, recipe, null))
  const text = `# Recipes\n\n${intro}\n\n${[...plane, '## Only in 3D', ...alone].join('\n\n')}\n`
  const advised = [...flat.values(), ...space.values()].filter(({ advice }) => advice.length > 0)
  return { text, advice: Object.fromEntries(advised.map(({ path, advice }) => [path, advice])) }
}

if (process.argv[1]?.endsWith('write-recipes.ts')) writeFileSync('docs/recipes.md', recipesPage().text)
