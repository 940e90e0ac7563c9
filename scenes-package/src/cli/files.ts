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
import { KeenError } from 'keen-sentry'
import { BELOW } from '../gltf/place.ts'
import { loadModels, type Models, modelFiles, readScene, type Scene } from '../scene/index.ts'
import { Failure, reasonOf } from './failure.ts'

/** The parsed JSON of a file; `-` is standard input. */
export function readJson(path: string): unknown {
  let text: string
  try {
    text = readFileSync(path === '-' ? 0 : path, 'utf8')
  } catch (error) {
    throw new Failure(`cannot read ${path}: ${reasonOf(error)}`)
  }
  try {
    // Editors of some systems put a byte order mark first.
    return JSON.parse(text.startsWith('\uFEFF') ? text.slice(1) : text)
  } catch (error) {
    throw new Failure(`${path} is not JSON: ${(error as Error).message}`)
  }
}

export function loadScene(path: string): Scene {
  try {
    return readScene(readJson(path))
  } catch (error) {
    if (error instanceof KeenError) throw new Failure(`${path}: ${error.message}`)
    throw error
  }
}

/** Bytes of a model's file that are read at most. */
const MODEL_BYTES = 256e6

/**
 * The models that a scene names, in the folder of the scene file or within it: in the working folder for standard input, which is
 * said. What cannot be read is told when the scene is checked or played.
 */
export function loadModelsOf(path: string, scene: unknown): Promise<Models> {
  const folder = path === '-' ? '.' : dirname(path)
  if (path === '-' && modelFiles(scene).length > 0) {
    process.stderr.write('note: standard input lies in no folder: its models are looked for in the working folder\n')
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
