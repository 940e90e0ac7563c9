/** Reading scene files and writing results, with errors that name the file. */
import { createWriteStream, mkdirSync, readFileSync, statSync, type WriteStream, writeFileSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import { KeenError } from '../core/index.ts'
import { loadModels, type Models, readScene, type Scene } from '../scene/index.ts'
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
    return JSON.parse(text)
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
 * The models that a scene names, their places told from that of the scene file (from the working folder for standard input).
 * What cannot be read is told when the scene is checked or played.
 */
export function loadModelsOf(path: string, scene: unknown): Promise<Models> {
  const folder = path === '-' ? '.' : dirname(path)
  return loadModels(scene, (file) => {
    try {
      const place = resolve(folder, file)
      const { size } = statSync(place)
      if (size > MODEL_BYTES) throw new Error(`it has ${size} bytes, and at most ${MODEL_BYTES} are read`)
      return readFileSync(place)
    } catch (error) {
      throw new Error(reasonOf(error))
    }
  })
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
