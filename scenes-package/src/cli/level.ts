/** `keen-sentry level` and `keen-sentry outline`: levels that were drawn elsewhere as scenes, and the tiles of a scene as drawings and maps. */
import { readFileSync } from 'node:fs'
import { basename, extname } from 'node:path'
import { Command, InvalidArgumentError } from 'commander'
import { KeenError } from 'keen-sentry'
import type { Body2, Collider2, Tiles } from 'keen-sentry/2d'
import {
  type ColourKey,
  csvFromRows,
  geoJsonFromOutlines,
  type Line,
  linesFromGeoJson,
  linesFromSvg,
  pngFromRows,
  rowsFromPng,
  svgFromOutlines,
} from '../levels/index.ts'
import { readScene, type SceneKinds2, type ScenePlayer2 } from '../scene/index.ts'
import { number, tickNumber, vectorOf } from './arguments.ts'
import { FAILED, Failure, reasonOf, USAGE } from './failure.ts'
import { openScene, playedUntil, writeFile } from './files.ts'

interface LevelOptions {
  out: string
  key: ColourKey
  cell: number
  layer: string
  scale?: number
  tolerance?: number
  about?: number[]
  lines?: boolean
}

interface OutlineOptions {
  out: string
  tick: number
  body?: string
  key: ColourKey
}

const KEY_HELP = 'of a PNG: which sign a colour stands for, as #5b6470=x; may be given again'

/** Which endings an option is for; one that is not here is for all. */
const BELONGS: Readonly<Record<string, readonly string[]>> = {
  key: ['.png'],
  cell: ['.png', '.csv', '.txt'],
  scale: ['.svg'],
  tolerance: ['.svg'],
  about: ['.geojson'],
  lines: ['.svg', '.geojson'],
}

/** Refuses what was given and would do nothing. */
function refuseIdle(command: Command, ending: string): void {
  for (const [option, endings] of Object.entries(BELONGS)) {
    if (command.getOptionValueSource(option) !== 'cli' || endings.includes(ending)) continue
    throw new Failure(`--${option} belongs to ${endings.join(', ')}, and this is ${ending}`, USAGE)
  }
}

/** A colour and its sign, put to those that were given before. */
function addColour(given: string, before: ColourKey): ColourKey {
  const parts = /^(#?[\da-f]{3,6})=(.)$/iu.exec(given)
  if (parts === null) throw new InvalidArgumentError(`Expected a colour and a sign, as #5b6470=x, got '${given}'.`)
  return { ...before, [parts[1]]: parts[2] }
}

export function levelCommand(): Command {
  return new Command('level')
    .description(
      'Make a scene of a level that was drawn elsewhere: tiles of a PNG, CSV or text, solids and lines of an SVG or GeoJSON.',
    )
    .argument('<file>', 'the level; its ending says what it is: .png, .csv, .txt, .svg, .geojson')
    .requiredOption('-o, --out <file>', 'the scene file')
    .option('--key <colour=sign>', KEY_HELP, addColour, {})
    .option('--cell <metres>', 'full size of a tile', number, 1)
    .option('--layer <name>', 'the layer that it is on', 'ground')
    .option('--scale <metres>', 'of an SVG: metres to a unit (default: 1)', number)
    .option('--tolerance <units>', 'of an SVG: by which a curve may be off its lines (default: 0.1)', number)
    .option('--about <longitude,latitude>', 'of GeoJSON in degrees: the place that becomes the origin', vectorOf)
    .option('--lines', 'of an SVG or GeoJSON: closed lines stay lines, instead of becoming solid')
    .addHelpText(
      'after',
      "\nExamples:\n  $ keen-sentry level scenes/levels/gallery.png --key '#5b6470=#' --key '#2f6fb0=~' --out out/gallery.json\n  $ keen-sentry level scenes/levels/cove.svg --scale 0.5 --out out/cove.json\n  $ keen-sentry level scenes/levels/reef.geojson --about 8.3,54.1 --out out/reef.json",
    )
    .action(async (file: string, options: LevelOptions, command: Command) => {
      const ending = extname(file).toLowerCase()
      const read = READERS[ending]
      if (read === undefined) {
        throw new Failure(`a level ends in ${Object.keys(READERS).join(', ')}, got ${JSON.stringify(file)}`, USAGE)
      }
      refuseIdle(command, ending)
      let level: LevelRead
      try {
        level = await read(bytesOf(file), options)
      } catch (error) {
        if (error instanceof KeenError) throw new Failure(`${file}: ${error.message}`, FAILED, error.code)
        throw error
      }
      const name = basename(file, extname(file))
      const scene = {
        format: 'keen-sentry-scene',
        version: 1,
        name,
        dimension: '2d',
        layers: { names: [options.layer] },
        bodies: [{ name, type: 'static', colliders: level.shapes.map((shape) => ({ layer: options.layer, shape })) }],
      }
      try {
        readScene(scene)
      } catch (error) {
        if (!(error instanceof KeenError)) throw error
        throw new Failure(`${file}: ${error.message}${options.lines ? '' : level.cure}`, FAILED, error.code)
      }
      writeFile(options.out, `${JSON.stringify(scene, null, 1)}\n`)
      process.stdout.write(`${options.out}: ${level.text}\n`)
    })
}

interface LevelRead {
  readonly shapes: readonly object[]
  /** What it is, for the report. */
  readonly text: string
  /** What to do where a shape is none. */
  readonly cure: string
}

type Reader = (bytes: Uint8Array, options: LevelOptions) => Promise<LevelRead>

const READERS: Readonly<Record<string, Reader>> = {
  '.png': async (bytes, options) => {
    if (Object.keys(options.key).length === 0) {
      throw new Failure("a PNG needs --key, which says what its colours stand for, as --key '#5b6470=x'", USAGE)
    }
    return grid({ rows: await rowsFromPng(bytes, options.key) }, options)
  },
  '.txt': async (bytes, options) => grid({ rows: linesOf(textOf(bytes)) }, options),
  '.csv': async (bytes, options) => grid({ csv: textOf(bytes) }, options),
  '.svg': async (bytes, options) => {
    const { scale, tolerance } = options
    return drawn(await linesFromSvg(textOf(bytes), { scale, tolerance }), options)
  },
  '.geojson': async (bytes, options) => {
    let json: unknown
    try {
      json = JSON.parse(textOf(bytes))
    } catch (error) {
      throw new KeenError('bad-level', `that is no JSON: ${(error as Error).message}`)
    }
    const [longitude, latitude] = options.about ?? []
    if (options.about !== undefined && options.about.length !== 2) {
      throw new Failure('--about takes a longitude and a latitude, as 8.3,54.1', USAGE)
    }
    return drawn(linesFromGeoJson(json, { about: latitude === undefined ? undefined : [longitude, latitude] }), options)
  },
}

function bytesOf(file: string): Uint8Array {
  try {
    return readFileSync(file)
  } catch (error) {
    throw new Failure(`cannot read ${file}: ${reasonOf(error)}`)
  }
}

const textOf = (bytes: Uint8Array): string => new TextDecoder().decode(bytes)

/** Rows of text, filled up to the longest. */
function linesOf(text: string): string[] {
  const lines = text.replace(/\r/g, '').replace(/\n+$/, '').split('\n')
  const width = Math.max(...lines.map((line) => [...line].length))
  return lines.map((line) => line + '.'.repeat(width - [...line].length))
}

function grid(given: { rows: string[] } | { csv: string }, { cell }: LevelOptions): LevelRead {
  const fields = 'rows' in given ? given.rows.flatMap((row) => [...row]) : given.csv.split(/[,;\t\r\n]+/)
  const signs = [...new Set(fields.map((field) => (field === ' ' ? field : field.trim())))]
    .filter((sign) => !['.', ' ', '', '0'].includes(sign) && !sign.startsWith('-'))
    .sort()
  const kinds = Object.fromEntries(signs.map((sign) => [sign, {}]))
  const count = fields.filter((field) => signs.includes(field.trim())).length
  return {
    shapes: [{ kind: 'tiles', cell, ...given, kinds }],
    text: `${count} tiles, of ${signs.length === 1 ? 'one kind' : `${signs.length} kinds`}: ${signs.join(' ')}`,
    cure: '',
  }
}

function drawn(lines: readonly Line[], options: LevelOptions): LevelRead {
  if (lines.length === 0) throw new KeenError('bad-level', 'there is no line in it')
  const shapes = lines.map(({ points, closed }) => {
    const numbers = points.map(({ x, y }) => [x, y])
    if (closed && !options.lines) return { kind: 'polygon', points: numbers }
    return { kind: 'polyline', points: numbers, ...(closed ? { loop: true } : {}) }
  })
  const closed = lines.filter((line) => line.closed).length
  const points = lines.reduce((sum, line) => sum + line.points.length, 0)
  return {
    shapes,
    text: `${lines.length} lines with ${points} points, ${closed} of them closed`,
    cure: '; with --lines closed lines stay lines, and may cross themselves',
  }
}

export function outlineCommand(): Command {
  return new Command('outline')
    .description('The tiles of a scene at a tick: their outline as SVG or GeoJSON, or the tiles as text, CSV or PNG.')
    .argument('<scene>', "scene file, or '-' for standard input")
    .requiredOption('-o, --out <file>', `what is written; its ending says what: .svg, .geojson, .txt, .csv, .png`)
    .option('-t, --tick <number>', 'after which tick; 0 is before the first', tickNumber, 0)
    .option('--body <name>', 'whose tiles (default: the first body that has some)')
    .option('--key <colour=sign>', KEY_HELP, addColour, {})
    .addHelpText(
      'after',
      '\nExamples:\n  $ keen-sentry outline scenes/mine.json --tick 420 --out out/mine.svg\n  $ keen-sentry outline scenes/mine.json --out out/mine.txt',
    )
    .action(async (path: string, options: OutlineOptions, command: Command) => {
      const write = WRITERS[extname(options.out).toLowerCase()]
      if (write === undefined) {
        throw new Failure(`--out ends in ${Object.keys(WRITERS).join(', ')}, got ${JSON.stringify(options.out)}`, USAGE)
      }
      refuseIdle(command, extname(options.out).toLowerCase())
      const opened = await openScene(path, {})
      if (opened.scene.dimension !== '2d') throw new Failure('a 3d scene has no tiles')
      const body = tileBody(playedUntil(opened, options.tick) as ScenePlayer2, options.body)
      const grounds = body.colliders.filter(({ shape }) => shape.kind === 'tiles')
      writeFile(options.out, await write(grounds, options.key))
      const edges = grounds.reduce((sum, { outline }) => sum + outline.flat().length, 0)
      const count = grounds.reduce((sum, { shape }) => sum + (shape as Tiles).count, 0)
      const said = `${count.toLocaleString('en')} tiles in ${edges.toLocaleString('en')} edges`
      process.stdout.write(`${options.out}: ${JSON.stringify(body.name)} after tick ${options.tick}, ${said}\n`)
    })
}

type Ground = Collider2<SceneKinds2>
type Writer = (grounds: readonly Ground[], key: ColourKey) => string | Promise<string | Uint8Array>

const WRITERS: Readonly<Record<string, Writer>> = {
  '.svg': (grounds) => svgFromOutlines(grounds.map(outlineOf)),
  '.geojson': (grounds) => `${JSON.stringify(geoJsonFromOutlines(grounds.map(outlineOf)), null, 1)}\n`,
  '.txt': (grounds) => `${textOfRows(grounds).join('\n')}\n`,
  '.csv': (grounds) => csvOf(signsOf(grounds)),
  '.png': (grounds, key) => pngFromRows(textOfRows(grounds), key),
}

/** The sign of every cell, row by row from the top. */
function signsOf([ground]: readonly Ground[]): string[][] {
  const { columns, rows } = ground.shape as Tiles
  return Array.from({ length: rows }, (_, row) =>
    Array.from({ length: columns }, (_cell, column) => ground.tileAt(column, row)),
  )
}

function textOfRows(grounds: readonly Ground[]): string[] {
  const signs = signsOf(grounds)
  const long = signs.flat().find((sign) => [...sign].length > 1)
  if (long === undefined) return signs.map((row) => row.join(''))
  throw new Failure(`the kind ${JSON.stringify(long)} has more than one character, which only a .csv can hold`, USAGE)
}

/** Signs that are numbers stay those; others are numbered in the order of the alphabet. */
function csvOf(signs: readonly (readonly string[])[]): string {
  const used = [...new Set(signs.flat())].filter((sign) => sign !== '.').sort()
  if (!used.every((sign) => /^\d+$/.test(sign))) return csvFromRows(signs, used)
  return `${signs.map((row) => row.map((sign) => (sign === '.' ? '0' : sign)).join(',')).join('\n')}\n`
}

/** The outline of a collider in the world, by its layers. */
function outlineOf(ground: Ground): { name: string; loops: { x: number; y: number }[][] } {
  const { body, at, angle } = ground
  const turned = (x: number, y: number, by: number) => ({
    x: Math.cos(by) * x - Math.sin(by) * y,
    y: Math.sin(by) * x + Math.cos(by) * y,
  })
  const loops = ground.outline.map((loop) =>
    loop.map((point) => {
      const within = turned(point.x, point.y, angle)
      const { x, y } = turned(at.x + within.x, at.y + within.y, body.angle)
      return { x: body.at.x + x, y: body.at.y + y }
    }),
  )
  return { name: [ground.layer].flat().join(' '), loops }
}

function tileBody({ world }: ScenePlayer2, name: string | undefined): Body2<SceneKinds2> {
  const withTiles = world.bodies().filter((body) => body.colliders.some(({ shape }) => shape.kind === 'tiles'))
  const names = withTiles.map((body) => JSON.stringify(body.name)).join(', ')
  if (names === '') throw new Failure('the scene has no tiles')
  const body = name === undefined ? withTiles[0] : withTiles.find((each) => each.name === name)
  if (body === undefined)
    throw new Failure(`no tiles belong to a body ${JSON.stringify(name)}; there are ${names}`, USAGE)
  return body
}
