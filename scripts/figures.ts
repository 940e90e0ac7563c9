/** Draws the figures of `docs/architecture.md`, the way of a tick and of a query, and those of the guide. `npm run figures`. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { concepts } from './concepts.ts'

const CORE = '#dbe9f6'
const DIMENSION = '#dff0dc'
const WATCH = '#fbe9cf'
const USER = '#f1dfee'
const INK = '#22303c'
const FADED = '#5b6b79'
const FONT = 'font-family="system-ui, Segoe UI, Helvetica, Arial, sans-serif"'

interface Box {
  readonly x: number
  readonly y: number
  readonly w: number
  readonly h: number
  readonly fill: string
  readonly title: string
  readonly file?: string
  readonly lines: readonly string[]
}

function escaped(text: string): string {
  return text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;')
}

function text(x: number, y: number, size: number, content: string, more = ''): string {
  return `<text x="${x}" y="${y}" font-size="${size}" ${FONT} fill="${INK}" ${more}>${escaped(content)}</text>`
}

function drawBox({ x, y, w, h, fill, title, file, lines }: Box): string {
  const parts = [
    `<rect x="${x}" y="${y}" width="${w}" height="${h}" rx="6" fill="${fill}" stroke="${INK}" stroke-opacity="0.35"/>`,
    text(x + 12, y + 22, 15, title, 'font-weight="600"'),
  ]
  if (file !== undefined) {
    parts.push(text(x + w - 12, y + 21, 11.5, file, 'text-anchor="end" opacity="0.7"'))
  }
  lines.forEach((line, i) => {
    parts.push(text(x + 12, y + 42 + 17 * i, 12.5, line))
  })
  return parts.join('\n')
}

/** An arrow along points, with words beside its first stretch. */
function arrow(points: readonly (readonly [number, number])[], label = '', dashed = false): string {
  const path = points.map(([x, y], i) => `${i === 0 ? 'M' : 'L'}${x} ${y}`).join(' ')
  const dash = dashed ? ' stroke-dasharray="5 4"' : ''
  const line = `<path d="${path}" fill="none" stroke="${FADED}" stroke-width="1.5"${dash} marker-end="url(#tip)"/>`
  if (label === '') return line
  const [[x0, y0], [x1, y1]] = points
  return `${line}\n<text x="${(x0 + x1) / 2 + 8}" y="${(y0 + y1) / 2 + 4}" font-size="12" ${FONT} fill="${FADED}" font-style="italic">${escaped(label)}</text>`
}

function page(width: number, height: number, title: string, parts: readonly string[]): string {
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" role="img" aria-label="${title}">
<defs><marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto"><path d="M0 0L8 4L0 8z" fill="${FADED}"/></marker></defs>
<rect width="${width}" height="${height}" fill="#ffffff"/>
${text(24, 34, 19, title, 'font-weight="700"')}
${parts.join('\n')}
</svg>
`
}

function legend(y: number, entries: readonly (readonly [string, string])[]): string[] {
  return entries.flatMap(([fill, words], i) => [
    `<rect x="${560 + 190 * i}" y="${y - 13}" width="16" height="16" rx="3" fill="${fill}" stroke="${INK}" stroke-opacity="0.35"/>`,
    text(582 + 190 * i, y, 12.5, words),
  ])
}

function tick(): string {
  const wide = 560
  const step = 62
  const lanes: Record<string, number> = { [CORE]: 24, [DIMENSION]: 320, [WATCH]: 616 }
  const stages: readonly (readonly [fill: string, title: string, file: string, line: string, next: string])[] = [
    [
      CORE,
      'refilter',
      'step/tick.ts',
      'changed filters and watches: what each collider is worth testing against',
      'colliders to search for',
    ],
    [
      CORE,
      'prepare',
      'step/broadPhase.ts',
      'what was added, teleported or reshaped gets geometry, bounds, a leaf',
      'bounds',
    ],
    [DIMENSION, 'predictBounds', '2d/solve/motion.ts', 'bounds of what moves hold its expected path', 'wide bounds'],
    [
      CORE,
      'findPairs',
      'step/candidates.ts',
      'a search of the trees; filter and interest make candidate pairs',
      'candidate pairs',
    ],
    [
      DIMENSION,
      'findContacts',
      '2d/solve/contacts.ts',
      'manifolds at the start; inner edges; what is touched wakes',
      'contacts, by age',
    ],
    [WATCH, 'decide.ask', 'watch/decideHooks.ts', 'hooks speak before two press', 'answers'],
    [
      DIMENSION,
      'move',
      '2d/solve/motion.ts',
      'forces, substeps over all constraints, sleep; kinematic bodies move',
      'end poses',
    ],
    [CORE, 'findPairs', 'step/candidates.ts', 'again, for those that left their wide bounds', 'candidate pairs'],
    [
      DIMENSION,
      'sweep',
      '2d/solve/sweep.ts',
      'fast bodies are followed; where they meet something, paths bend',
      'paths',
    ],
    [
      CORE,
      'judgePairs',
      'step/kernel.ts',
      'verdicts at the end poses, times on the path, what was crossed',
      'verdicts',
    ],
    [WATCH, 'decide.judge', 'watch/decideHooks.ts', 'hooks on pairs that were not asked before', 'answers'],
    [WATCH, 'compare', 'watch/ledger.ts', 'changed pairs, by age, are booked with a cause (causes.ts)', 'records'],
    [
      WATCH,
      'gather, deliver',
      'watch/dispatch.ts',
      'records become facts, are put in order, and handlers are called',
      'events',
    ],
    [CORE, 'release', 'state/population.ts', 'slots of the dead and of dropped pairs are free again', ''],
  ]
  const parts: string[] = legend(34, [
    [CORE, 'core: step, state'],
    [DIMENSION, '2d, 3d'],
    [WATCH, 'core: watch'],
  ])
  stages.forEach(([fill, title, file, line, next], i) => {
    const x = lanes[fill]
    const y = 56 + step * i
    parts.push(drawBox({ x, y, w: wide - 24, h: 50, fill, title, file, lines: [line] }))
    const after = stages[i + 1]
    if (after === undefined) return
    const from = x + 268
    const to = lanes[after[0]] + 268
    if (from === to)
      parts.push(
        arrow([
          [from, y + 50],
          [from, y + step],
        ]),
      )
    else
      parts.push(
        arrow([
          [from, y + 50],
          [from, y + 56],
          [to, y + 56],
          [to, y + step],
        ]),
      )
    parts.push(text(x + wide - 14, y + 45, 11.5, `→ ${next}`, 'font-style="italic" opacity="0.75"'))
  })
  return page(1280, 56 + step * stages.length + 8, 'The way of a tick: world.step()', parts)
}

function query(): string {
  const boxes: Box[] = [
    {
      x: 24,
      y: 60,
      w: 380,
      h: 84,
      fill: USER,
      title: 'world.raycast.first(ray, filter)',
      lines: ['or shapecast, overlap, nearest; first, all, any,', 'each, batch: the same way for each'],
    },
    {
      x: 24,
      y: 178,
      w: 380,
      h: 84,
      fill: CORE,
      title: 'acquire',
      file: 'query/scratchPool.ts',
      lines: ['a scratch for this query: a where may ask', 'a question of its own'],
    },
    {
      x: 450,
      y: 178,
      w: 380,
      h: 84,
      fill: CORE,
      title: 'compile',
      file: 'query/compiledFilter.ts',
      lines: ['the filter becomes bit masks; what only a', 'where can say is asked last'],
    },
    {
      x: 876,
      y: 178,
      w: 380,
      h: 84,
      fill: CORE,
      title: 'refresh',
      file: 'step/broadPhase.ts',
      lines: ['pending changes come into geometry and trees:', 'earlier than the next step would, never other'],
    },
    {
      x: 24,
      y: 296,
      w: 380,
      h: 84,
      fill: DIMENSION,
      title: 'read the question',
      file: 'query/queryShape.ts',
      lines: ['start, motion and length; blocks of the shape', 'that asks, at its start pose'],
    },
    {
      x: 450,
      y: 296,
      w: 380,
      h: 118,
      fill: CORE,
      title: 'the walk',
      file: 'query/walk.ts, tree/walk.ts',
      lines: [
        'halfspaces, statics, movers and, only if asked',
        'for, resting sensors; the near child first, the',
        'limit drawn in by each hit; masks prune',
        'branches',
      ],
    },
    {
      x: 876,
      y: 296,
      w: 380,
      h: 84,
      fill: CORE,
      title: 'accepts?',
      file: 'query/compiledFilter.ts',
      lines: ['one look at the bits of the collider, then', 'where'],
    },
    {
      x: 876,
      y: 448,
      w: 380,
      h: 84,
      fill: DIMENSION,
      title: 'the exact test',
      file: 'narrow/ ray, cast, gap, pair',
      lines: ['closed forms over two blocks; answers', 'MISS, NEAR, HIT or INSIDE'],
    },
    {
      x: 450,
      y: 448,
      w: 380,
      h: 84,
      fill: CORE,
      title: 'gather',
      file: 'query/hitList.ts',
      lines: ['at most one hit a collider, the least key;', 'of equal ones the oldest collider'],
    },
    {
      x: 450,
      y: 566,
      w: 380,
      h: 84,
      fill: CORE,
      title: 'seams',
      file: 'query/seamHits.ts',
      lines: ['what was grazed on all sides of a ray at one', 'place is a hit'],
    },
    {
      x: 24,
      y: 448,
      w: 380,
      h: 84,
      fill: CORE,
      title: 'fill',
      file: 'query/raycast.ts',
      lines: ['sorted, and written into hit objects; a hit', 'passed in costs no allocation'],
    },
    {
      x: 24,
      y: 566,
      w: 380,
      h: 84,
      fill: USER,
      title: 'hits',
      lines: ['handles, point, normal, fraction, distance,', 'part and child'],
    },
  ]
  const parts = [
    ...legend(34, [
      [CORE, 'core: query, step, tree'],
      [DIMENSION, '2d, 3d'],
      [USER, 'the caller'],
    ]),
    ...boxes.map(drawBox),
    arrow([
      [214, 144],
      [214, 178],
    ]),
    arrow([
      [404, 220],
      [450, 220],
    ]),
    arrow([
      [830, 220],
      [876, 220],
    ]),
    arrow([
      [1066, 262],
      [1066, 279],
      [214, 279],
      [214, 296],
    ]),
    arrow([
      [404, 338],
      [450, 338],
    ]),
    arrow([
      [830, 338],
      [876, 338],
    ]),
    text(838, 330, 12, 'leaf', 'font-style="italic" opacity="0.75"'),
    arrow(
      [
        [1066, 380],
        [1066, 448],
      ],
      'yes',
    ),
    arrow([
      [876, 490],
      [830, 490],
    ]),
    text(836, 482, 12, 'HIT', 'font-style="italic" opacity="0.75"'),
    arrow(
      [
        [640, 448],
        [640, 414],
      ],
      'limit',
      true,
    ),
    arrow([
      [450, 490],
      [404, 490],
    ]),
    arrow(
      [
        [1066, 532],
        [1066, 608],
        [830, 608],
      ],
      'NEAR',
      true,
    ),
    arrow([
      [640, 566],
      [640, 532],
    ]),
    arrow([
      [214, 532],
      [214, 566],
    ]),
  ]
  return page(1280, 680, 'The way of a query', parts)
}

mkdirSync('docs/figures', { recursive: true })
writeFileSync('docs/figures/tick.svg', tick())
writeFileSync('docs/figures/query.svg', query())
concepts()
