/**
 * A run of a scene that can be gone back and forth in: snapshots now and then, and what was changed by hand as edits that are made again
 * when the run passes their tick. It knows no page.
 */
import type { Snapshot } from 'keen-sentry'
import type { Body2 } from 'keen-sentry/2d'
import type { Body3 } from 'keen-sentry/3d'
import { actionLine, eventLine, jointLine, type LogLine, rayLine } from 'keen-sentry/record'
import {
  CoverageCounter,
  type CoverageState,
  type Models,
  type PlayerState,
  playScene,
  type Scene,
  type SceneKinds2,
  type SceneKinds3,
  type ScenePlayer,
  type SceneWatch,
} from 'keen-sentry-scenes'
import { type Told, tellings } from '../shared/telling.ts'

/** A body of either dimension. */
export type AnyBody = Body2<SceneKinds2> | Body3<SceneKinds3>

/** Something that happened, and after which tick. */
export interface Happening extends Told {
  readonly tick: number
}

/** Something that a hand changed. It finds its bodies by their ages, for handles of later bodies are new when the run passes again. */
interface Edit {
  readonly tick: number
  /** Edits of one key at one tick replace each other: a body that is dragged. */
  readonly key: string | null
  readonly apply: () => void
}

/** A place to go back to. */
interface Place {
  readonly tick: number
  readonly world: Snapshot
  readonly player: PlayerState
  readonly counted: CoverageState | null
  /** Edits that were made by then. */
  readonly edits: number
}

/** What was measured of each tick. */
export interface Measures {
  /** Milliseconds that it took. */
  readonly spent: number[]
  /** Pairs that came near. */
  readonly pairs: number[]
  /** The strongest impulse, newton seconds. */
  readonly impulse: number[]
}

/** Ticks between two places to go back to, and how many of them, and bytes, there are before every other is given up. */
const EACH = 10
const MOST_PLACES = 100
const MOST_BYTES = 2e8
/** Colliders up to which is counted who comes near whom: that costs a sort of their bounds each tick. */
const COUNTED = 1500
/** Bodies up to which the strongest impulse is looked for. */
const PRESSED = 1500

/** What a watch of a scene is counted under. */
export function keyOf({ name, a, b }: SceneWatch): string {
  const side = (each: SceneWatch['a']): string => (typeof each === 'string' ? each : Object.values(each).join(' '))
  return name ?? `${side(a)} : ${side(b)}`
}

export class Run {
  readonly scene: Scene
  readonly player: ScenePlayer
  /** Null where there are too many to be counted. */
  readonly counter: CoverageCounter | null
  /** By time. */
  happenings: Happening[] = []
  /** What an event log of it would say, but for its first and its last line. */
  lines: LogLine[] = []
  readonly measures: Measures = { spent: [], pairs: [], impulse: [] }
  /** The last tick that was reached. */
  furthest = 0
  private edits: Edit[] = []
  private applied = 0
  private places: Place[] = []
  private each = EACH
  private readonly own = new Set<string>()
  /** What watches made by hand heard in this step. */
  private heard: Happening[] = []
  private readonly onEdit: () => void

  /** @param onEdit is called after a hand has changed something */
  constructor(scene: Scene, models?: Models, onEdit: () => void = () => {}) {
    this.scene = scene
    this.onEdit = onEdit
    this.player = playScene(scene, models)
    this.counter = this.player.world.stats.colliders <= COUNTED ? new CoverageCounter(this.player) : null
    this.keepPlace()
  }

  get tick(): number {
    return this.player.world.tick
  }

  get ended(): boolean {
    return this.tick >= this.player.ticks
  }

  /** The bodies that are there now, by age. */
  bodies(): readonly AnyBody[] {
    return this.player.world.bodies()
  }

  body(serial: number): AnyBody | null {
    return this.bodies().find((body) => body.serial === serial) ?? null
  }

  step(): void {
    const { player } = this
    const { world } = player
    const isNew = this.tick >= this.furthest
    this.heard = []
    const begin = performance.now()
    const report = player.step()
    const spent = performance.now() - begin
    for (const event of report.events) {
      const watch = player.watchOf(event)
      this.counter?.note(keyOf(watch))
    }
    this.counter?.stepped()
    if (isNew) {
      this.furthest = this.tick
      const { tick } = this
      for (const told of tellings(player, report)) this.happenings.push({ ...told, tick })
      this.happenings.push(...this.heard)
      for (const action of report.actions) this.lines.push(actionLine(tick, world.rate, action))
      for (const event of report.events) this.lines.push(eventLine(event))
      for (const end of report.joints) {
        if (player.jointOf(end.joint) !== undefined) this.lines.push(jointLine(end))
      }
      for (const { ray, hit } of report.rays) this.lines.push(rayLine(world, ray.name, hit))
      const { spent: times, pairs, impulse } = this.measures
      times[tick - 1] = spent
      pairs[tick - 1] = world.stats.pairs
      impulse[tick - 1] = this.hardest()
      if (tick % this.each === 0) this.keepPlace()
    }
    this.applyDue()
  }

  /** Goes to a tick, back or forth, to the bit. */
  seek(tick: number): void {
    this.approach(tick, Infinity)
  }

  /**
   * Goes towards a tick for so many milliseconds.
   * @returns whether it is there
   */
  approach(tick: number, most: number): boolean {
    const wanted = Math.max(0, Math.min(tick, this.player.ticks))
    const end = performance.now() + most
    if (wanted < this.tick || this.places.some((place) => place.tick > this.tick && place.tick <= wanted)) {
      this.goTo(this.places.findLast((place) => place.tick <= wanted)!)
    }
    while (this.tick < wanted && performance.now() < end) this.step()
    return this.tick === wanted
  }

  /**
   * Changes something by hand at this tick. What the run would have done after it is forgotten.
   * @param key edits of the same key at the same tick replace each other
   */
  edit(apply: () => void, key: string | null = null): void {
    this.forget()
    const last = this.edits.at(-1)
    if (key !== null && last !== undefined && last.key === key && last.tick === this.tick) this.edits.pop()
    this.edits.push({ tick: this.tick, key, apply })
    apply()
    this.applied = this.edits.length
    this.onEdit()
  }

  /** Whether a hand has changed anything up to now. */
  get edited(): boolean {
    return this.applied > 0
  }

  /** Watches two bodies, beside what the scene watches. */
  watch(a: AnyBody, b: AnyBody): void {
    const key = `${a} : ${b}`
    const [one, other] = [a.serial, b.serial]
    this.edit(() => {
      // Watches stay when the world goes back.
      if (this.own.has(key)) return
      const first = this.body(one)
      const second = this.body(other)
      if (first === null || second === null) return
      const tell = (kind: 'begin' | 'end') => (event: { time: number; tick: number; cause: string }) => {
        const text = `${first} ${kind === 'begin' ? 'meets' : 'leaves'} ${second}`
        const names = [String(first), String(second)]
        this.heard.push({ kind, time: event.time, tick: event.tick, text, detail: `${kind} · ${event.cause}`, names })
      }
      const handlers = { begin: tell('begin'), end: tell('end') }
      this.player.world.watch(first as never, second as never, handlers, { key })
      this.own.add(key)
    })
  }

  /** Tries something out and takes it back: the world is afterwards as it was. */
  trial<T>(change: () => T): T {
    const { world } = this.player
    const before = world.snapshot()
    try {
      return change()
    } finally {
      world.restore(before)
    }
  }

  /** What is known of the time after this tick is no longer true. */
  private forget(): void {
    const { tick } = this
    this.furthest = tick
    this.happenings = this.happenings.filter((each) => each.tick <= tick)
    this.lines = this.lines.filter((line) => !('tick' in line) || line.tick <= tick)
    this.edits = this.edits.slice(0, this.applied)
    this.places = this.places.filter((place) => place.tick <= tick)
    for (const list of Object.values(this.measures) as number[][]) list.length = Math.min(list.length, tick)
  }

  private goTo(place: Place): void {
    this.player.resume(place.world, place.player)
    if (place.counted !== null) this.counter!.restore(place.counted)
    this.applied = place.edits
    this.applyDue()
  }

  private applyDue(): void {
    while (this.applied < this.edits.length && this.edits[this.applied].tick <= this.tick) {
      this.edits[this.applied++].apply()
    }
  }

  private keepPlace(): void {
    const { player, tick, counter, applied } = this
    const counted = counter?.state() ?? null
    this.places.push({ tick, world: player.world.snapshot(), player: player.state(), counted, edits: applied })
    const bytes = this.places.length * this.places[0].world.bytes
    if (this.places.length <= MOST_PLACES && bytes <= MOST_BYTES) return
    this.each *= 2
    this.places = this.places.filter((place) => place.tick % this.each === 0)
  }

  private hardest(): number {
    const bodies = this.bodies()
    if (bodies.length > PRESSED) return 0
    let most = 0
    for (const body of bodies) {
      if (body.type !== 'dynamic' || body.asleep) continue
      for (const { impulse } of body.touching()) if (impulse > most) most = impulse
    }
    return most
  }
}
