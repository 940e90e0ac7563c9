/** Files that tell of a run, whatever they are: a scene, an event log, a saved run or world. */
import { KeenError } from 'keen-sentry'
import {
  LOG_FORMAT,
  type LogAction,
  type LogEvent,
  type LogJoint,
  type LogLine,
  type LogRay,
  type LogState,
  readLog,
  saveHeader,
  stateLine,
} from 'keen-sentry/record'
import { playScene, type ScenePlayer } from '../scene/index.ts'
import { FAILED, Failure } from './failure.ts'
import { called, type OpenScene, readBytes, type SceneOptions, sceneOf } from './files.ts'
import { type Halfway, RUN_FORMAT, readHalfway } from './halfway.ts'
import { headerOf, type LineTaker, playTick, tellStart } from './lines.ts'

const MAGIC = 'KEENSAVE'

/** A file that tells of a run: a scene, a log, a world at a tick. */
export type Side =
  | { readonly kind: 'scene'; readonly path: string; readonly opened: OpenScene }
  | { readonly kind: 'log'; readonly path: string; readonly lines: readonly LogLine[] }
  | { readonly kind: 'save'; readonly path: string; readonly bytes: Uint8Array; readonly tick: number }

/** The lines of a scene that is played from its start, on request with the hash of each tick. */
export function linesOf({ scene, models }: OpenScene, count: number | undefined, hashes: boolean): LogLine[] {
  const player: ScenePlayer = playScene(scene, models)
  const ticks = count ?? player.ticks
  const lines: LogLine[] = [headerOf(scene, player)]
  const push = (line: LogEvent | LogJoint | LogRay | LogAction | LogState): void => void lines.push(line)
  const taker: LineTaker = { event: push, joint: push, ray: push, action: push }
  tellStart(player, taker)
  for (let tick = 1; tick <= ticks; tick++) {
    playTick(player, taker)
    if (hashes) push(stateLine(player.world))
  }
  lines.push({ kind: 'done', ticks, counts: {} })
  return lines
}

/** Reads a file, whatever of these it is. */
export async function openSide(path: string, options: SceneOptions): Promise<Side> {
  const bytes = await readBytes(path)
  if (bytes.subarray(0, MAGIC.length).toString('latin1') === MAGIC) return saved(path, new Uint8Array(bytes))
  const text = bytes.toString('utf8')
  const [firstLine] = text.split('\n', 1)
  if (formatOf(firstLine) === LOG_FORMAT) {
    try {
      return { kind: 'log', path, lines: readLog(text) }
    } catch (error) {
      throw error instanceof KeenError ? new Failure(`${called(path)}: ${error.message}`, FAILED, error.code) : error
    }
  }
  if (formatOf(text) === RUN_FORMAT) {
    const run: Halfway = readHalfway(path, JSON.parse(text))
    return saved(path, new Uint8Array(Buffer.from(run.world, 'base64')))
  }
  return { kind: 'scene', path, opened: await sceneOf(path, text, options) }
}

function saved(path: string, bytes: Uint8Array): Side {
  try {
    return { kind: 'save', path, bytes, tick: saveHeader(bytes).tick }
  } catch (error) {
    throw error instanceof KeenError ? new Failure(`${called(path)}: ${error.message}`, FAILED, error.code) : error
  }
}

function formatOf(text: string): unknown {
  try {
    return (JSON.parse(text) as { format?: unknown } | null)?.format
  } catch {
    return undefined
  }
}
