/**
 * Writes the docs as a site that opens from disk: `npm run site`, to out/site. Guide, recipes and formats are its pages, the reference is made
 * from the sources, and both are searched.
 */
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { Application, type TypeDocOptions } from 'typedoc'

export const SITE = 'out/site'
const PAGES = 'out/site-pages'

/** The pages, in the order in which they are listed. */
const TITLES: Readonly<Record<string, string>> = {
  guide: 'Guide',
  recipes: 'Recipes',
  'nothing-happens': 'Nothing happens: what now',

  'from-checks-to-watches': 'From hand-made checks to watches',
  costs: 'Bounds and costs',
  queries: 'Queries',
  'scene-format': 'Scene files',
  'event-log': 'Event logs',
  'save-format': 'Saved worlds',
  servers: 'Servers',
  benchmarks: 'Benchmarks',
  architecture: 'Architecture',
}

/** Text of docs/ for a page of the site: links lead from where it lies now, and those at a recipe to its own page. */
function moved(text: string): string {
  return text
    .replace(/\]\((?:recipes\.md)?#([\w-]+)\)/g, (whole, anchor: string) =>
      recipes.has(anchor) && whole.includes('recipes.md') ? `](recipe-${anchor}.md)` : whole,
    )
    .replace(/\]\(\.\.\//g, '](../../')
    .replace(/\]\((?!#|https?:|\.\.\/|[\w-]+\.md)/g, '](../../docs/')
    .replace(/\]\((?:\.\/)?([\w-]+)\.md/g, (whole, other: string) =>
      other in TITLES || other.startsWith('recipe-') ? whole : `](../../docs/${other}.md`,
    )
}

/** The recipes by the names by which they are linked to: each is a page of its own, so that a search finds it. */
const recipes = new Map(
  readFileSync('docs/recipes.md', 'utf8')
    .split(/^### /m)
    .slice(1)
    .map((text) => {
      const title = text.slice(0, text.indexOf('\n'))
      const anchor = title
        .toLowerCase()
        .replace(/[^\w\s-]/g, '')
        .trim()
        .replace(/\s/g, '-')
      return [anchor, { title, text: text.slice(title.length) }] as const
    }),
)

function write(name: string, title: string, text: string, children: readonly string[] = []): string {
  const path = join(PAGES, `${name}.md`)
  const below =
    children.length === 0 ? '' : `children:\n${children.map((child) => `  - ./${basename(child)}\n`).join('')}`
  writeFileSync(path, `---\ntitle: ${JSON.stringify(title)}\n${below}---\n\n# ${title}\n\n${moved(text)}`)
  return path
}

/** A page of docs/ as one of the site, with those below it. */
function page(name: string, title: string): string {
  const text = readFileSync(`docs/${name}.md`, 'utf8').replace(/^# .*\n/, '')
  if (name !== 'recipes') return write(name, title, text)
  const children = [...recipes].map(([anchor, recipe]) => write(`recipe-${anchor}`, recipe.title, recipe.text))
  const list = [...recipes].map(([anchor, recipe]) => `- [${recipe.title}](recipe-${anchor}.md)`).join('\n')
  return write(name, title, `${text.slice(0, text.indexOf('\n### '))}\n\n${list}\n`, children)
}

/** The first page: what the README says, for a reader who has come. */
function home(): string {
  const path = join(PAGES, 'README.md')
  const linked = readFileSync('README.md', 'utf8')
    .replace(/\]\(docs\/([\w-]+)\.md/g, (whole, name: string) => (name in TITLES ? `](${name}.md` : whole))
    .replace(/\]\(([^)#\s]+)/g, (whole, to: string) =>
      /^https?:/.test(to) || to.replace(/\.md$/, '') in TITLES ? whole : `](../../${to}`,
    )
  writeFileSync(path, linked)
  return path
}

const OPTIONS: TypeDocOptions = {
  name: 'Keen Sentry',
  entryPoints: [
    'src/core/index.ts',
    'src/2d/index.ts',
    'src/3d/index.ts',
    'src/2d/kinematic/index.ts',
    'src/3d/kinematic/index.ts',
    'src/record/index.ts',
    'src/draw/index.ts',
    'src/testing/index.ts',
    'scenes-package/src/scene/index.ts',
    'scenes-package/src/gltf/index.ts',
    'scenes-package/src/levels/index.ts',
  ],
  tsconfig: 'tsconfig.json',
  out: SITE,
  disableSources: true,
  excludeInternal: true,
  excludePrivate: true,
  excludeProtected: true,
  searchInComments: true,
  searchInDocuments: true,
  // What tells how comes before what is called so.
  searchGroupBoosts: { Documents: 8 },
  skipErrorChecking: true,
  customCss: 'scripts/site.css',
  hideGenerator: true,
  disableGit: true,
  navigation: { includeCategories: false, includeGroups: false, includeFolders: false },
  sortEntryPoints: false,
  validation: { notExported: false, invalidLink: true, invalidPath: true, notDocumented: false, rewrittenLink: true },
  treatWarningsAsErrors: false,
  logLevel: 'Warn',
}

/** Writes the site. @returns whether nothing was found wrong with it */
export async function writeSite(): Promise<boolean> {
  rmSync(SITE, { recursive: true, force: true })
  rmSync(PAGES, { recursive: true, force: true })
  mkdirSync(PAGES, { recursive: true })
  const projectDocuments = Object.entries(TITLES).map(([name, title]) => page(name, title))
  const app = await Application.bootstrap({ ...OPTIONS, readme: home(), projectDocuments })
  const project = await app.convert()
  if (project === undefined) return false
  app.validate(project)
  await app.generateOutputs(project)
  return !app.logger.hasErrors() && !app.logger.hasWarnings()
}

if (basename(process.argv[1] ?? '') === 'site.ts') {
  const isRight = await writeSite()
  console.log(`${SITE}/index.html`)
  if (!isRight) process.exitCode = 1
}
