/** A run in the middle, as a file: the scene it is of, what its player knows, and the world as bytes. Described in docs/save-format.md. */
import { z } from 'zod'
import type { ScenePlayer } from '../scene/index.ts'
import { Failure } from './failure.ts'
import { type OpenScene, writeFile } from './files.ts'
import { hashOf } from './lines.ts'

export const RUN_FORMAT = 'keen-sentry-run'
const RUN_VERSION = 1

const halfway = z.strictObject({
  format: z.literal(RUN_FORMAT),
  version: z.literal(RUN_VERSION),
  scene: z.string(),
  hash: z.string().regex(/^[0-9a-f]{64}$/),
  tick: z.int().min(0),
  player: z.strictObject({
    actionsLeft: z.int().min(0),
    paths: z.record(z.string(), z.array(z.number()).nullable()),
    walks: z.record(
      z.string(),
      z.strictObject({ next: z.int().min(0), move: z.array(z.number()), up: z.number(), stands: z.boolean() }),
    ),
  }),
  world: z.string().describe('the bytes of world.save(), in Base64'),
})

export type Halfway = z.infer<typeof halfway>

/** Writes where a run is. */
export function saveRun(path: string, { scene }: OpenScene, player: ScenePlayer): void {
  const file: Halfway = {
    format: RUN_FORMAT,
    version: RUN_VERSION,
    scene: scene.name,
    hash: hashOf(scene),
    tick: player.world.tick,
    player: player.state() as Halfway['player'],
    world: Buffer.from(player.world.save()).toString('base64'),
  }
  writeFile(path, `${JSON.stringify(file, null, 1)}\n`)
}

/** What a file says, checked. */
export function readHalfway(path: string, json: unknown): Halfway {
  const { data, error } = halfway.safeParse(json)
  if (data !== undefined) return data
  const [{ path: place, message }] = error.issues
  throw new Failure(`${path} is no run that was saved: ${place.join('.') || 'it'}: ${message}`)
}

/** Brings a player of a scene to where a run of it was saved; it may have other watches than that had. */
export function resume(player: ScenePlayer, { scene }: OpenScene, path: string, json: unknown): void {
  const file = readHalfway(path, json)
  if (file.hash !== hashOf(scene)) {
    throw new Failure(
      `${path} is of another scene (${file.scene}, ${file.hash.slice(0, 12)}…) than the one given (${scene.name}, ${hashOf(scene).slice(0, 12)}…)`,
    )
  }
  player.resume(new Uint8Array(Buffer.from(file.world, 'base64')), file.player)
}
