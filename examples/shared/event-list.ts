/** The list of events beside a played scene. */
import type { ScenePlayer } from 'keen-sentry-scenes'
import { eventItem } from './page.ts'
import { tellings } from './telling.ts'

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
    for (const { kind, time, text, detail } of tellings(player, report)) {
      if (kind !== 'ray' || rays) this.add(kind === 'joint' ? 'end' : kind, time, text, detail)
    }
  }

  private add(kind: string, time: number, text: string, detail: string): void {
    this.list.append(eventItem(kind, time, text, detail))
    this.list.scrollTop = this.list.scrollHeight
    this.told++
    this.count.textContent = String(this.told)
  }
}
