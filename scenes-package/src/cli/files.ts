/** Reading scene files and writing results, with errors that name the file. */
import {
  createWriteStream,
  mkdirSync,
  readFileSync,
  realpathSync,
  statSync,
  type WriteStream,
  writeFileSync,
} from 'node:fs'
import { dirname, resolve, sep } from 'node:path'
import { Option } from 'commander'
import { KeenError } from 'keen-sentry'
import { BELOW } from '../gltf/place.ts'
import {
  loadModels,
  type Models,
  modelFiles,
  playScene,
  readScene,
  type Scene,
  type ScenePlayer,
} from '../scene/index.ts'
import { FAILED, Failure, reasonOf, USAGE } from './failure.ts'

/** How a file is called in messages. */
export function called(path: string): string {
  return path === '-' ? 'standard input' : path
}

/** The parsed JSON of a file; `-` is standard input. */
export async function readJson(path: string): Promise<unknown> {
  return parseJson(path, (await readBytes(path)).toString('utf8'))
}

/** The bytes of a file; `-` is standard input. */
export async function readBytes(path: string): Promise<Buffer> {
  try {
    return path === '-' ? await allOf(process.stdin) : readFileSync(path)
  } catch (error) {
    throw new Failure(`cannot read ${called(path)}: ${reasonOf(error)}`)
  }
}

function parseJson(path: string, text: string): unknown {
  if (text.trim() === '') throw new Failure(`${called(path)} is empty`)
  try {
    // Editors of some systems put a byte order mark first.
    return JSON.parse(text.startsWith('\uFEFF') ? text.slice(1) : text)
  } catch (error) {
    throw new Failure(`${called(path)} is not JSON: ${(error as Error).message}`)
  }
}

/** All that comes in, however slowly. */
async function allOf(stream: NodeJS.ReadStream): Promise<Buffer> {
  const parts: Buffer[] = []
  for await (const part of stream) parts.push(part as Buffer)
  return Buffer.concat(parts)
}

/** What every command takes to find a scene and its models. */
export interface SceneOptions {
  models?: string | undefined
}

export function modelsOption(): Option {
  return new Option('--models <folder>', "where the scene's models lie (default: where the scene file is)")
}

/** A scene that was checked, with its models. */
export interface OpenScene {
  readonly scene: Scene
  readonly models: Models
}

/** Reads and checks a scene and its models. */
export async function openScene(path: string, options: SceneOptions): Promise<OpenScene> {
  return sceneOf(path, (await readBytes(path)).toString('utf8'), options)
}

/** The same, of a text that has been read already. */
export async function sceneOf(path: string, text: string, options: SceneOptions): Promise<OpenScene> {
  const json = parseJson(path, text)
  try {
    const scene = readScene(json)
    return { scene, models: await loadModelsOf(path, scene, options) }
  } catch (error) {
    if (error instanceof KeenError) throw new Failure(`${called(path)}: ${error.message}`, FAILED, error.code)
    throw error
  }
}

/** Plays a scene up to a tick, which must be one of its own. */
export function playedUntil({ scene, models }: OpenScene, tick: number): ScenePlayer {
  const player = playScene(scene, models)
  checkTick(player, tick)
  for (let now = 0; now < tick; now++) player.step()
  return player
}

/** Refuses a tick that the scene does not come to. */
export function checkTick({ ticks }: ScenePlayer, tick: number): void {
  if (tick <= ticks) return
  throw new Failure(
    `--tick ${tick} is beyond the end of the scene, which has ${ticks} ticks (its field 'ticks' says how many)`,
    USAGE,
  )
}

/** Bytes of a model's file that are read at most. */
const MODEL_BYTES = 256e6

/**
 * The models that a scene names, in the folder that was given, or else in that of the scene file: for standard input the working folder,
 * which is said. What cannot be read is told when the scene is checked or played.
 */
export function loadModelsOf(path: string, scene: unknown, { models }: SceneOptions): Promise<Models> {
  const folder = models ?? (path === '-' ? '.' : dirname(path))
  if (path === '-' && models === undefined && modelFiles(scene).length > 0) {
    process.stderr.write(
      'note: a scene from standard input lies in no folder: its models are looked for in the working folder (--models names another)\n',
    )
  }
  return loadModels(scene, (file) => {
    try {
      return readBelow(folder, file)
    } catch (error) {
      throw new Error(reasonOf(error))
    }
  })
}

/** The bytes of a file that must lie below a folder, links followed. */
function readBelow(folder: string, file: string): Uint8Array {
  if (!BELOW.test(file)) throw new Error("only files in the scene's folder or within it are read")
  const root = realpathSync(folder)
  const place = realpathSync(resolve(root, file))
  if (!place.startsWith(root.endsWith(sep) ? root : root + sep)) {
    throw new Error("it is a link that leads out of the scene's folder")
  }
  const facts = statSync(place)
  if (!facts.isFile()) throw new Error('it is no file')
  if (facts.size > MODEL_BYTES) throw new Error(`it has ${facts.size} bytes, and at most ${MODEL_BYTES} are read`)
  return readFileSync(place)
}

/** Writes a whole file, making its folder when that is missing. */
export function writeFile(path: string, content: string | Uint8Array): void {
  try {
    mkdirSync(dirname(path), { recursive: true })
    writeFileSync(path, content)
  } catch (error) {
    throw new Failure(`cannot write ${path}: ${reasonOf(error)}`)
  }
}

/** A file written line by line. */
export class LineFile {
  private readonly path: string
  private readonly stream: WriteStream
  private error: unknown = null

  constructor(path: string) {
    this.path = path
    writeFile(path, '')
    this.stream = createWriteStream(path)
    this.stream.on('error', (error) => {
      this.error = error
    })
  }

  write(text: string): void {
    this.stream.write(text)
  }

  async close(): Promise<void> {
    await new Promise<void>((resolve) => {
      this.stream.end(() => resolve())
      this.stream.on('error', () => resolve())
    })
    if (this.error !== null) throw new Failure(`cannot write ${this.path}: ${reasonOf(this.error)}`)
  }
}
