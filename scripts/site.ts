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

/** A part of a page that is a page of its own, so that a search finds it. */
interface Part {
  readonly file: string
  readonly title: string
  readonly text: string
}

/** A page that is taken apart at its headings. */
interface Split {
  /** What stays on the page. */
  readonly head: string
  readonly parts: readonly Part[]
  /** Where each heading of a part lies now, by the name by which it is linked to. */
  readonly places: ReadonlyMap<string, string>
}

const SPLITS: Readonly<Record<string, Split>> = {
  guide: split('guide', '###?', 'I want to …'),
  recipes: split('recipes', '###'),
}

/**
 * @param mark how a heading begins that a part begins with, as a pattern
 * @param stays the title of a part that stays on the page
 */
function split(name: string, mark: string, stays?: string): Split {
  const [first, ...rest] = sourceOf(name).split(new RegExp(`^${mark} `, 'm'))
  let head = first
  const parts: Part[] = []
  const places = new Map<string, string>()
  for (const each of rest) {
    const title = each.slice(0, each.indexOf('\n'))
    if (title === stays) {
      head += `## ${each}`
      continue
    }
    const file = `${name}-${anchorOf(title)}`
    places.set(anchorOf(title), `${file}.md`)
    for (const [, below] of each.matchAll(/^#+ (.*)$/gm)) places.set(anchorOf(below), `${file}.md#${anchorOf(below)}`)
    // A heading of its own comes first: those below go up by one.
    parts.push({ file, title, text: each.slice(title.length).replace(/^#(#+ )/gm, '$1') })
  }
  return { head, parts, places }
}

/** The text of a page without its title. */
function sourceOf(name: string): string {
  return readFileSync(`docs/${name}.md`, 'utf8').replace(/^# .*\n/, '')
}

/** The name by which a heading is linked to. */
function anchorOf(title: string): string {
  return title
    .toLowerCase()
    .replace(/[^\w\s-]/g, '')
    .trim()
    .replace(/\s/g, '-')
}

/** The text of a page of docs/ for the site: links lead from where it lies now, and to where parts of pages lie. */
function moved(text: string, from: string): string {
  return text
    .replace(/\]\((?:([\w-]+)\.md)?#([\w-]+)\)/g, (whole, to: string | undefined, anchor: string) => {
      const place = SPLITS[to ?? from]?.places.get(anchor)
      return place === undefined ? whole : `](${place})`
    })
    .replace(/\]\(\.\.\//g, '](../../')
    .replace(/\]\((?!#|https?:|\.\.\/|[\w-]+\.md)/g, '](../../docs/')
    .replace(/\]\((?:\.\/)?([\w-]+)\.md/g, (whole, other: string) =>
      other in TITLES || /^(guide|recipes)-/.test(other) ? whole : `](../../docs/${other}.md`,
    )
}

/** @param from the page of docs/ that the text is of */
function write(file: string, title: string, text: string, from: string, children: readonly string[] = []): string {
  const path = join(PAGES, `${file}.md`)
  const below = children.map((child) => `  - ./${basename(child)}\n`).join('')
  const head = `title: ${JSON.stringify(title)}\n${below === '' ? '' : `children:\n${below}`}`
  writeFileSync(path, `---\n${head}---\n\n# ${title}\n\n${moved(text, from)}`)
  return path
}

/** A page of docs/ as one of the site, with those below it. */
function page(name: string, title: string): string {
  const parted = SPLITS[name]
  if (parted === undefined) return write(name, title, sourceOf(name), name)
  const children = parted.parts.map((part) => write(part.file, part.title, part.text, name))
  const list = parted.parts.map((part) => `- [${part.title}](${part.file}.md)`).join('\n')
  return write(name, title, `${parted.head}\n\n${list}\n`, name, children)
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
    'src/3d/simd/index.ts',
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
