/** What a step of a scene reported, in words: what happened, when, between whom, and why. */

import type { EventKind } from 'keen-sentry'
import { eventLine, fillJointTelling, fillTelling, jointLine } from 'keen-sentry/record'
import type { SceneAction, ScenePlayer } from 'keen-sentry-scenes'

/** How an event is told when the scene has no words of its own for it. */
const PLAIN: Record<EventKind, string> = {
  begin: '{a} meets {b}',
  during: '{a} meets {b}',
  end: '{a} leaves {b}',
  impact: '{a} strikes {b} at {speed} m/s',
}
const DONE: Record<SceneAction['do'], string> = {
  teleport: 'is teleported',
  remove: 'is removed',
  enable: 'is switched on',
  disable: 'is switched off',
  layer: 'changes its layer',
  push: 'is pushed',
  type: 'changes its type',
  blast: 'blows up',
  carve: 'is carved',
  tile: 'gets another tile',
  motor: 'is driven otherwise',
  release: 'lets go',
  aim: 'goes elsewhere',
}

/** Something that happened, as it is told. */
export interface Told {
  readonly kind: EventKind | 'action' | 'joint' | 'ray'
  /** Seconds of the world. */
  readonly time: number
  readonly text: string
  readonly detail: string
  /** The names of those whom it is about. */
  readonly names: readonly string[]
}

/** What one step reported, in order. */
export function tellings(player: ScenePlayer, report: ReturnType<ScenePlayer['step']>): Told[] {
  const { time, dt } = player.world
  const actions = report.actions.map((action): Told => {
    const name = 'joint' in action ? action.joint : action.body
    const text = `The ${name} ${DONE[action.do]}`
    return { kind: 'action', time: time - dt, text, detail: 'action of the scene', names: [name] }
  })
  const events = report.events.map((event): Told => {
    const said = event.kind === 'during' ? undefined : player.watchOf(event).say?.[event.kind]
    const text = fillTelling(said ?? PLAIN[event.kind], eventLine(event))
    const dwell = event.kind === 'end' ? ` · after ${event.dwell.toFixed(2)} s` : ''
    const detail = `${event.kind} · ${event.response} · ${event.cause}${dwell}`
    return { kind: event.kind, time: event.time, text, detail, names: [String(event.a), String(event.b)] }
  })
  // A hand that lets go is no event of the scene.
  const ended = report.joints.filter(({ joint }) => player.jointOf(joint) !== undefined)
  const joints = ended.map((end): Told => {
    const text = fillJointTelling(player.jointOf(end.joint)?.say ?? '{joint} {cause}', jointLine(end))
    const detail = `joint · ${end.cause} · ${end.force.toFixed(0)} N`
    return {
      kind: 'joint',
      time: end.time,
      text,
      detail,
      names: [String(end.a), ...(end.b === null ? [] : [String(end.b)])],
    }
  })
  const rays = report.rays.map(({ ray, hit }): Told => {
    const detail = hit === null ? 'ray' : `ray · ${hit.distance.toFixed(2)} m away`
    const text = `${ray.name} meets ${hit === null ? 'nothing' : hit.body}`
    return { kind: 'ray', time, text, detail, names: hit === null ? [] : [String(hit.body)] }
  })
  return [...actions, ...events, ...joints, ...rays]
}
