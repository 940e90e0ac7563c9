/** The list of events beside a played scene: what happened, when, and why. */

import type { EventKind } from 'keen-sentry'
import { eventLine, fillJointTelling, fillTelling, jointLine } from 'keen-sentry/record'
import type { SceneAction, ScenePlayer } from 'keen-sentry-scenes'
import { eventItem } from './page.ts'

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

export class EventList {
  private readonly list: HTMLElement
  private readonly count: HTMLElement
  private told = 0

  constructor(list: HTMLElement, count: HTMLElement) {
    this.list = list
    this.count = count
  }

  clear(): void {
    this.told = 0
    this.list.replaceChildren()
    this.count.textContent = '0'
  }

  /**
   * Adds what one step reported.
   * @param rays whether changes of the scene's rays are told too
   */
  tell(player: ScenePlayer, report: ReturnType<ScenePlayer['step']>, rays = true): void {
    const { time, dt } = player.world
    for (const action of report.actions) {
      this.add(
        'action',
        time - dt,
        `The ${'joint' in action ? action.joint : action.body} ${DONE[action.do]}`,
        'action of the scene',
      )
    }
    for (const event of report.events) {
      const said = event.kind === 'during' ? undefined : player.watchOf(event).say?.[event.kind]
      const text = fillTelling(said ?? PLAIN[event.kind], eventLine(event))
      const dwell = event.kind === 'end' ? ` · after ${event.dwell.toFixed(2)} s` : ''
      this.add(event.kind, event.time, text, `${event.kind} · ${event.response} · ${event.cause}${dwell}`)
    }
    for (const end of report.joints) {
      const { say } = player.jointOf(end.joint)
      const text = fillJointTelling(say ?? '{joint} {cause}', jointLine(end))
      this.add('end', end.time, text, `joint · ${end.cause} · ${end.force.toFixed(0)} N`)
    }
    if (!rays) return
    for (const { ray, hit } of report.rays) {
      const detail = hit === null ? 'ray' : `ray · ${hit.distance.toFixed(2)} m away`
      this.add('ray', time, `${ray.name} meets ${hit === null ? 'nothing' : hit.body}`, detail)
    }
  }

  private add(kind: string, time: number, text: string, detail: string): void {
    this.list.append(eventItem(kind, time, text, detail))
    this.list.scrollTop = this.list.scrollHeight
    this.told++
    this.count.textContent = String(this.told)
  }
}
