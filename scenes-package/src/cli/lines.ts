/** What a tick of a scene leaves in an event log, line by line */
import { createHash } from 'node:crypto'
import {
  actionLine,
  eventLine,
  headerLine,
  jointLine,
  type LogAction,
  type LogEvent,
  type LogHeader,
  type LogJoint,
  type LogRay,
  rayLine,
} from 'keen-sentry/record'
import type { Scene, ScenePlayer, SceneSide, SceneWatch } from '../scene/index.ts'

/** A ray of either dimension, as it is told. */
type ShownState = ScenePlayer['rays'][number]

/** Takes the lines as they come, with how the scene wants to tell of them. */
export interface LineTaker {
  event(line: LogEvent, telling: string | undefined): void
  joint(line: LogJoint, telling: string | undefined): void
  ray(line: LogRay): void
  action(line: LogAction): void
}

/** Tells two scenes apart, however their files are laid out. */
export function hashOf(scene: Scene): string {
  return createHash('sha256').update(JSON.stringify(scene)).digest('hex')
}

/** The key of a watch of a scene: its name, or its sides. */
export function watchKey({ name, a, b }: SceneWatch): string {
  return name ?? `${sideText(a)}:${sideText(b)}`
}

function sideText(side: SceneSide): string {
  if (typeof side === 'string') return side
  if ('tag' in side) return `#${side.tag}`
  return 'body' in side ? side.body : side.join('+')
}

/** The header of the log of a scene that is played from where its player is. */
export function headerOf(scene: Scene, { world }: ScenePlayer): LogHeader {
  return headerLine(scene.name, hashOf(scene), scene.dimension, world.rate, world.tick)
}

/** Before the first tick a ray is only worth a line when it meets something. */
export function tellStart(player: ScenePlayer, taker: LineTaker): void {
  tellRays(
    player,
    (player.rays as readonly ShownState[]).filter((state) => state.hit !== null),
    taker,
  )
}

/** Plays a tick, and tells what happened in it. */
export function playTick(player: ScenePlayer, taker: LineTaker): void {
  const { world } = player
  const report = player.step()
  for (const action of report.actions) taker.action(actionLine(world.tick, world.rate, action))
  for (const event of report.events) {
    const line = eventLine(event)
    const { say } = player.watchOf(event)
    taker.event(line, line.kind === 'during' ? undefined : say?.[line.kind])
  }
  for (const end of report.joints) taker.joint(jointLine(end), player.jointOf(end.joint)?.say)
  tellRays(player, report.rays, taker)
}

function tellRays({ world }: ScenePlayer, states: readonly ShownState[], taker: LineTaker): void {
  for (const { ray, hit } of states) taker.ray(rayLine(world, ray.name, hit))
}
