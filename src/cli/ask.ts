/** `keen-sentry ask`: one question to a scene at a tick. */
import Table from 'cli-table3'
import { Command, InvalidArgumentError, Option } from 'commander'
import pc from 'picocolors'
import type { Collider2 } from '../2d/collider.ts'
import type { AskingShape2, Body2, QueryFilter, Vec2 } from '../2d/index.ts'
import { type Question, questionItems, type ShownHit } from '../draw/index.ts'
import { type SceneKinds, ScenePlayer, sceneShape, shapeOf } from '../scene/index.ts'
import { number, pixels, tickNumber } from './arguments.ts'
import { Failure, USAGE } from './failure.ts'
import { loadScene } from './files.ts'
import { checkEnding, type PictureSize, sceneDrawList, writePicture } from './picture.ts'
import { RULED } from './text.ts'

interface AskOptions extends PictureSize {
  from?: Vec2
  to?: Vec2
  at?: Vec2
  shape?: AskingShape2
  angle?: number
  turn?: number
  reach?: number
  mode: 'first' | 'all' | 'any'
  layers?: string[]
  sensors?: boolean | 'only'
  except?: string[]
  as?: string[]
  response?: 'solid' | 'sense' | 'any'
  inside?: 'hit' | 'skip'
  tick: number
  json?: boolean
  out?: string
}

type Filter = QueryFilter<SceneKinds, Body2<SceneKinds>, Collider2<SceneKinds>>

/** One hit as it is printed: what there is depends on the question. */
interface Answer extends ShownHit {
  readonly body: string
  readonly collider: number
  readonly distance?: number
  readonly depth?: number
  readonly startedInside?: boolean
  readonly part: number
  readonly child: number
}

const KINDS = ['ray', 'shape', 'overlap', 'nearest'] as const
type Kind = (typeof KINDS)[number]

/** The options that each question needs, and those it can take besides. */
const TAKES: Record<Kind, { needs: readonly (keyof AskOptions)[]; takes: readonly (keyof AskOptions)[] }> = {
  ray: { needs: ['from', 'to'], takes: ['inside'] },
  shape: { needs: ['shape', 'from', 'to'], takes: ['angle', 'turn', 'inside'] },
  overlap: { needs: ['shape', 'at'], takes: ['angle'] },
  nearest: { needs: ['at'], takes: ['shape', 'angle', 'reach'] },
}
const PLACING = ['from', 'to', 'at', 'shape', 'angle', 'turn', 'reach', 'inside'] as const

export function askCommand(): Command {
  return new Command('ask')
    .description('Ask what a ray, a moving shape, a standing shape or a point meets in a scene.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .argument('<question>', `one of ${KINDS.join(', ')}`, kindOf)
    .option('--from <x,y>', 'start of a ray or of a moving shape', vectorOf)
    .option('--to <x,y>', 'its end', vectorOf)
    .option('--at <x,y>', 'place of a standing shape, or the point', vectorOf)
    .option(
      '--shape <shape>',
      'circle:0.5, box:2,1, capsule:-1,0,1,0,0.5 or a shape of the scene format as JSON',
      shapeFrom,
    )
    .option('--angle <radians>', 'how the shape is turned', number)
    .option('--turn <radians>', 'by how much it turns on the way', number)
    .option('--reach <metres>', 'how far to look for the nearest', number)
    .addOption(new Option('--mode <mode>', 'which hits').choices(['first', 'all', 'any']).default('first'))
    .option('--layers <names>', 'only these layers, separated by commas', namesOf)
    .addOption(new Option('--sensors [which]', "take sensors in, or 'only' them").choices(['only']))
    .option('--except <names>', 'bodies to pass over, separated by commas', namesOf)
    .option('--as <names>', 'ask as if on these layers, by the formula of pairs', namesOf)
    .addOption(new Option('--response <response>', 'with --as').choices(['solid', 'sense', 'any']))
    .addOption(new Option('--inside <what>', 'shapes that the start lies in').choices(['hit', 'skip']))
    .option('-t, --tick <number>', 'after which tick; 0 is before the first', tickNumber, 0)
    .option('--json', 'print the answer as JSON')
    .option('-o, --out <file>', 'draw question and answer; the ending says SVG or PNG')
    .option('--width <pixels>', 'width of the picture', pixels, 1280)
    .option('--height <pixels>', 'height of the picture', pixels, 800)
    .addHelpText(
      'after',
      '\nExample:\n  $ keen-sentry ask scenes/lantern-reef.json ray --tick 440 --from 13,6 --to 38,9 --mode all --sensors',
    )
    .action(ask)
}

async function ask(path: string, kind: Kind, options: AskOptions): Promise<void> {
  for (const field of TAKES[kind].needs) {
    if (options[field] === undefined) throw new Failure(`the question '${kind}' needs --${field}`, USAGE)
  }
  for (const field of PLACING) {
    if (options[field] === undefined || [...TAKES[kind].needs, ...TAKES[kind].takes].includes(field)) continue
    throw new Failure(`the question '${kind}' does not take --${field}`, USAGE)
  }
  if (options.out !== undefined) checkEnding(options.out)
  const player = new ScenePlayer(loadScene(path))
  for (let tick = 0; tick < options.tick; tick++) player.step()
  const filter = filterOf(player, options)
  const answers = answer(player, kind, options, filter)
  if (options.json === true) {
    const data = options.mode === 'any' ? { any: answers.length > 0 } : { hits: answers }
    process.stdout.write(
      `${JSON.stringify({ scene: player.scene.name, tick: options.tick, question: kind, mode: options.mode, ...data }, null, 2)}\n`,
    )
  } else process.stdout.write(text(kind, options, answers))
  if (options.out === undefined) return
  const list = sceneDrawList(player)
  const items = questionItems(questionOf(kind, options), options.mode === 'any' ? [] : answers)
  await writePicture({ ...list, items: [...list.items, ...items] }, options.out, options)
  if (options.json !== true) process.stdout.write(`\n${options.out}: the question and its answer\n`)
}

function filterOf(player: ScenePlayer, options: AskOptions): Filter {
  const filter: Filter = {}
  if (options.layers !== undefined) filter.layers = options.layers
  if (options.sensors !== undefined) filter.sensors = options.sensors
  if (options.as !== undefined) filter.as = options.as
  if (options.response !== undefined) filter.response = options.response
  if (options.inside !== undefined) filter.inside = options.inside
  if (options.except !== undefined) {
    filter.except = options.except.map((name) => {
      const body = player.world.find(name)
      if (body === null)
        throw new Failure(`--except: no living body is called '${name}' at tick ${options.tick}`, USAGE)
      return body
    })
  }
  return filter
}

function answer(player: ScenePlayer, kind: Kind, options: AskOptions, filter: Filter): Answer[] {
  const { world } = player
  const { mode, from, to, at, shape, angle, turn, reach } = options
  const list = <T>(question: { first(): T | null; all(): T[]; any(): boolean }): T[] => {
    if (mode === 'all') return question.all()
    const hit = question.first()
    return hit === null ? [] : [hit]
  }
  const named = (hit: { body: object; collider: { index: number }; part: number; child: number }) => ({
    body: String(hit.body),
    collider: hit.collider.index,
    part: hit.part,
    child: hit.child,
  })
  if (kind === 'ray') {
    const ray = { from: from!, to: to! }
    const { raycast } = world
    return list({
      first: () => raycast.first(ray, filter),
      all: () => raycast.all(ray, filter),
      any: () => raycast.any(ray, filter),
    }).map(({ point, normal, fraction, distance, startedInside, ...hit }) => ({
      ...named(hit),
      point,
      normal,
      fraction,
      distance,
      startedInside,
    }))
  }
  if (kind === 'shape') {
    const motion = { shape: shape!, from: from!, to: to!, angle, turn }
    const { shapecast } = world
    return list({
      first: () => shapecast.first(motion, filter),
      all: () => shapecast.all(motion, filter),
      any: () => shapecast.any(motion, filter),
    }).map(({ point, normal, fraction, distance, startedInside, depth, ...hit }) => ({
      ...named(hit),
      point,
      normal,
      fraction,
      distance,
      startedInside,
      depth,
    }))
  }
  if (kind === 'overlap') {
    const place = { shape: shape!, at: at!, angle, depth: true }
    const { overlap } = world
    return list({
      first: () => overlap.first(place, filter),
      all: () => overlap.all(place, filter),
      any: () => overlap.any(place, filter),
    }).map(({ point, normal, depth, ...hit }) => ({ ...named(hit), point, normal, depth }))
  }
  const place = shape === undefined ? { point: at!, reach } : { shape, at: at!, angle, reach }
  const { nearest } = world
  return list({
    first: () => nearest.first(place, filter),
    all: () => nearest.all(place, filter),
    any: () => nearest.first(place, filter) !== null,
  }).map(({ point, normal, distance, ...hit }) => ({ ...named(hit), point, normal, distance }))
}

function questionOf(kind: Kind, { from, to, at, shape, angle, turn }: AskOptions): Question {
  if (kind === 'ray') return { kind, from: from!, to: to! }
  if (kind === 'shape') return { kind, shape: shape!, from: from!, to: to!, angle: angle ?? 0, turn: turn ?? 0 }
  if (kind === 'overlap') return { kind, shape: shape!, at: at!, angle: angle ?? 0 }
  return { kind, shape: shape ?? null, at: at!, angle: angle ?? 0 }
}

const digits = (value: number | undefined, places = 3): string => (value === undefined ? '' : value.toFixed(places))
const place = (point: Vec2 | null): string => (point === null ? '' : `${digits(point.x)}, ${digits(point.y)}`)

function text(kind: Kind, options: AskOptions, answers: readonly Answer[]): string {
  if (options.mode === 'any') return `${answers.length > 0 ? pc.green('yes') : pc.yellow('no')}\n`
  if (answers.length === 0)
    return `${pc.yellow('nothing')}: at tick ${options.tick} the ${kind} meets nobody that the filter lets through\n`
  const measure = kind === 'overlap' ? 'depth' : 'distance'
  const head = ['body', 'collider', measure, 'point', 'normal', 'part', 'child', 'notes'].map((each) => pc.dim(each))
  const table = new Table({ head, style: { head: [], border: [] }, chars: RULED })
  for (const hit of answers) {
    const edge = (value: number): string => (value < 0 ? '' : String(value))
    const inside =
      hit.startedInside === true ? `starts inside${hit.depth === undefined ? '' : `, ${digits(hit.depth)} deep`}` : ''
    const size = kind === 'overlap' ? hit.depth : hit.distance
    table.push([
      pc.bold(hit.body),
      hit.collider,
      `${digits(size)} m`,
      place(hit.point),
      place(hit.normal),
      edge(hit.part),
      edge(hit.child),
      inside,
    ])
  }
  return `${table.toString()}\n`
}

function kindOf(value: string): Kind {
  if ((KINDS as readonly string[]).includes(value)) return value as Kind
  throw new InvalidArgumentError(`Expected one of ${KINDS.join(', ')}.`)
}

function vectorOf(value: string): Vec2 {
  const parts = value.split(',').map((part) => number(part.trim()))
  if (parts.length === 2) return { x: parts[0], y: parts[1] }
  throw new InvalidArgumentError('Expected two numbers, as 3,-1.5.')
}

function namesOf(value: string): string[] {
  return value.split(',').map((name) => name.trim())
}

function shapeFrom(value: string): AskingShape2 {
  try {
    const shape = value.trimStart().startsWith('{') ? sceneShape(shapeOf(JSON.parse(value))) : shortShape(value)
    return shape as AskingShape2
  } catch (error) {
    throw new InvalidArgumentError((error as Error).message)
  }
}

function shortShape(value: string): ReturnType<typeof sceneShape> {
  const [kind, rest = ''] = value.split(':')
  const n = rest.split(',').map((part) => number(part.trim()))
  if (kind === 'circle' && n.length === 1) return sceneShape({ kind, radius: n[0] })
  if (kind === 'box' && n.length === 2) return sceneShape({ kind, width: n[0], height: n[1] })
  if (kind === 'capsule' && n.length === 5) return sceneShape({ kind, a: [n[0], n[1]], b: [n[2], n[3]], radius: n[4] })
  throw new Error('Expected circle:RADIUS, box:WIDTH,HEIGHT, capsule:AX,AY,BX,BY,RADIUS or JSON.')
}
