/** What the workbench opens: the demo scenes, and files that are chosen or dropped. */
import { KeenError } from 'keen-sentry'
import { LOG_FORMAT, type LogLine, readLog } from 'keen-sentry/record'
import { check, loadModels, type Models, type Problem, readScene, type Scene } from 'keen-sentry-scenes'
import { crowd } from './crowd.ts'

const FILES = import.meta.glob<unknown>('../../scenes/*.json', { import: 'default' })
const MODELS = import.meta.glob<string>('../../scenes/*.glb', { query: '?url', import: 'default' })

/** A scene, and what check says of it. */
export interface Opened {
  readonly scene: Scene
  readonly models: Models
  readonly problems: readonly Problem[]
}

/** What some files were. */
export interface OpenedFiles {
  readonly opened: Opened | null
  readonly log: readonly LogLine[] | null
}

const CROWD = 'five-thousand'

/** The names of the demo scenes. */
export const DEMOS = [...Object.keys(FILES).map((path) => path.slice(path.lastIndexOf('/') + 1, -5)), CROWD]

/** Reads a demo scene. */
export async function openDemo(name: string): Promise<Opened> {
  if (name === CROWD) return opened(crowd(), () => Promise.reject(new Error('it has no models')))
  const json = await FILES[`../../scenes/${name}.json`]()
  return opened(json, async (file) => {
    const url = MODELS[`../../scenes/${file}`]
    if (url === undefined) throw new Error(`there is no ${file}`)
    return new Uint8Array(await (await fetch(await url())).arrayBuffer())
  })
}

/**
 * Reads files: a scene with its models beside it, or an event log, or both.
 * @throws Error that says which file is what is wrong
 */
export async function openFiles(files: readonly File[]): Promise<OpenedFiles> {
  let found: Opened | null = null
  let log: readonly LogLine[] | null = null
  for (const file of files) {
    if (/\.(glb|gltf|bin)$/i.test(file.name)) continue
    const text = await file.text()
    try {
      if (text.slice(0, 200).includes(`"${LOG_FORMAT}"`)) log = readLog(text)
      else found = await opened(JSON.parse(text), (name) => besides(files, name))
    } catch (error) {
      const reason = error instanceof SyntaxError ? `it is no JSON: ${error.message}` : (error as Error).message
      throw new Error(`${file.name}: ${reason}`)
    }
  }
  if (found === null && log === null)
    throw new Error('none of these files is a scene (JSON) or an event log (JSON Lines)')
  return { opened: found, log }
}

async function opened(json: unknown, load: (file: string) => Promise<Uint8Array>): Promise<Opened> {
  const models = await loadModels(json, load)
  const problems = check(json, models)
  return { scene: readScene(json), models, problems }
}

async function besides(files: readonly File[], name: string): Promise<Uint8Array> {
  const file = files.find((each) => each.name === name.slice(name.lastIndexOf('/') + 1))
  if (file === undefined) throw new KeenError('bad-model', `open ${name} together with the scene`)
  return new Uint8Array(await file.arrayBuffer())
}
