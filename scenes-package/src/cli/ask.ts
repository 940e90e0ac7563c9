/** `keen-sentry ask`: one question to a scene at a tick. */
import { Command, InvalidArgumentError, Option } from 'commander'
import { KeenError } from 'keen-sentry'
import pc from 'picocolors'
import type { ScenePlayer } from '../scene/index.ts'
import { number, pixels, tickNumber, vectorOf } from './arguments.ts'
import { askPlane } from './ask2d.ts'
import { askSpace } from './ask3d.ts'
import { type AskOptions, type Got, KINDS, type Kind } from './asked.ts'
import { Failure, USAGE } from './failure.ts'
import { modelsOption, openScene, playedUntil } from './files.ts'
import { checkEnding, viewOptions, writePicture } from './picture.ts'
import { RowPrinter } from './table.ts'

/** The options that each question needs, and those it can take besides. */
const TAKES: Record<Kind, { needs: readonly (keyof AskOptions)[]; takes: readonly (keyof AskOptions)[] }> = {
  ray: { needs: ['from', 'to'], takes: ['inside'] },
  shape: { needs: ['shape', 'from', 'to'], takes: ['angle', 'rotation', 'turn', 'inside'] },
  overlap: { needs: ['shape', 'at'], takes: ['angle', 'rotation'] },
  nearest: { needs: ['at'], takes: ['shape', 'angle', 'rotation', 'reach'] },
}
const PLACING = ['from', 'to', 'at', 'shape', 'angle', 'rotation', 'turn', 'reach', 'inside'] as const

export function askCommand(): Command {
  const command = new Command('ask')
    .description('Ask what a ray, a moving shape, a standing shape or a point meets in a scene.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .argument('<question>', `one of ${KINDS.join(', ')}`, kindOf)
    .addOption(modelsOption())
    .option('--from <x,y[,z]>', 'start of a ray or of a moving shape', vectorOf)
    .option('--to <x,y[,z]>', 'its end', vectorOf)
    .option('--at <x,y[,z]>', 'place of a standing shape, or the point', vectorOf)
    .option(
      '--shape <shape>',
      'circle:0.5, box:2,1, capsule:-1,0,1,0,0.5; in 3d sphere:0.5, box:2,1,1, cylinder:HEIGHT,RADIUS …; or JSON of the scene format',
    )
    .option('--angle <radians>', 'how the shape is turned (2d)', number)
    .option('--rotation <x,y,z,w>', 'how the shape is turned (3d): a quaternion', vectorOf)
    .option(
      '--turn <radians>',
      'by how much it turns on the way; in 3d x,y,z: the axis, as long as the radians',
      vectorOf,
    )
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
  for (const option of viewOptions()) command.addOption(option)
  return command
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
  const player = playedUntil(await openScene(path, options), options.tick)
  const { got, picture } = put(player, kind, options)
  if (options.json === true) {
    const data = got.any === null ? { hits: got.answers } : { any: got.any }
    process.stdout.write(
      `${JSON.stringify({ scene: player.scene.name, tick: options.tick, question: kind, mode: options.mode, ...data }, null, 2)}\n`,
    )
  } else process.stdout.write(text(kind, options, got))
  if (options.out === undefined) return
  await writePicture(picture(), options.out, options)
  if (options.json !== true) process.stdout.write(`\n${options.out}: the question and its answer\n`)
}

/** Puts the question; what is wrong with it is wrong with the arguments. */
function put(player: ScenePlayer, kind: Kind, options: AskOptions) {
  try {
    return player.dimension === '2d' ? askPlane(player, kind, options) : askSpace(player, kind, options)
  } catch (error) {
    if (error instanceof KeenError) throw new Failure(error.message, USAGE, error.code)
    throw error
  }
}

const digits = (value: number | undefined, places = 3): string => (value === undefined ? '' : value.toFixed(places))
const place = (point: object | null): string =>
  point === null
    ? ''
    : Object.values(point)
        .map((value: number) => digits(value))
        .join(', ')

function text(kind: Kind, options: AskOptions, { answers, any }: Got): string {
  if (any !== null) return `${any ? pc.green('yes') : pc.yellow('no')}\n`
  if (answers.length === 0)
    return `${pc.yellow('nothing')}: at tick ${options.tick} the ${kind} meets nobody that the filter lets through\n`
  const measure = kind === 'overlap' ? 'depth' : 'distance'
  const edge = (value: number): string => (value < 0 ? '' : String(value))
  const rows = answers.map((hit) => {
    const deep = hit.depth === undefined ? '' : `, ${digits(hit.depth)} deep`
    return {
      body: hit.body,
      collider: String(hit.collider),
      [measure]: `${digits(kind === 'overlap' ? hit.depth : hit.distance)} m`,
      point: place(hit.point),
      normal: place(hit.normal),
      part: edge(hit.part),
      child: edge(hit.child),
      notes: hit.startedInside === true ? `starts inside${deep}` : '',
    } as Readonly<Record<string, string>>
  })
  const spare: Readonly<Record<string, number>> = {
    body: 0,
    collider: 1,
    [measure]: 0,
    point: 2,
    normal: 4,
    part: 5,
    child: 6,
    notes: 3,
  }
  const columns = Object.keys(rows[0])
    // What nobody has needs no column.
    .filter((head) => rows.some((row) => row[head] !== ''))
    .map((head) => ({
      head,
      width: rows.reduce((most, row) => Math.max(most, row[head].length), head.length),
      spare: spare[head],
      isName: head === 'body',
    }))
  let out = ''
  const printer = new RowPrinter(columns, (line) => {
    out += line
  })
  for (const row of rows) printer.row({ ...row, body: pc.bold(row['body']) })
  return out
}

function kindOf(value: string): Kind {
  if ((KINDS as readonly string[]).includes(value)) return value as Kind
  throw new InvalidArgumentError(`Expected one of ${KINDS.join(', ')}.`)
}

function namesOf(value: string): string[] {
  return value.split(',').map((name) => name.trim())
}
