/**
 * The past of a world: who was where at the end of each of the last ticks, and how filtered. Of each tick what can move is taken down, a few numbers
 * a body; what stands still is taken down when it has changed. Asked about, a tick is shown in a world beside, in the same slots and under the same
 * handles, and questions are asked there: the world itself does not notice.
 */
import type { Filter } from '../filter/filter.ts'
import type { Layers } from '../filter/layers.ts'
import { type Population, STATIC } from '../state/population.ts'
import { IntList } from '../state/table.ts'

/** Of a body: its slot, age and type. */
const BODY = 3
/** Of a collider: its slot, age, the place of its body in the frame, flags, and the three effective words. */
const COLLIDER = 7

/** A shape, as far as history knows it. */
interface KnownShape {
  readonly kind: string
  readonly pieces: readonly never[]
}

/** What history asks of a world of either dimension. */
export interface HistoryHost<C extends object> {
  readonly population: Population<object, C>
  readonly kernel: {
    refresh(): void
    readonly poses: {
      readonly kept: number
      keep(body: number, out: Float64Array): void
      set(body: number, pose: Float64Array): void
    }
    readonly broadPhase: {
      takeOut(collider: number): void
      release(collider: number): void
      markMoved(body: number): void
      forgetEdits(): void
    }
  }
  /** The layers and their pair table, as they are now. */
  layers(): Layers
  showLayers(layers: Layers): void
  /** The shape of a collider as it is now. @internal */
  shapeOf(collider: C): KnownShape
  /** Its place within its body, as numbers. @internal */
  placeOf(collider: C): Float64Array
  /** Takes a shape of then in, in a world that shows the past. @internal */
  showShape(collider: number, shape: KnownShape, place: Float64Array): void
  /** A world like this one, in which nothing moves, to show the past in. @internal */
  beside(): HistoryHost<C>
}

/** Bodies and their colliders: who they are and how they are filtered. Shared by all ticks in which that is the same. */
class Roster<C extends object> {
  readonly bodies = new IntList()
  readonly colliders = new IntList()
  readonly bodyHandles: object[] = []
  readonly handles: C[] = []
  readonly shapes: KnownShape[] = []
  /** The count of changes that it belongs to. */
  readonly changes: number

  constructor(changes: number) {
    this.changes = changes
  }

  /** Takes a body and its colliders down. */
  add(host: HistoryHost<C>, body: number): void {
    const { population } = host
    const index = this.bodyHandles.length
    this.bodies.push(body)
    this.bodies.push(population.bodySerial.data[body])
    this.bodies.push(population.type.data[body])
    this.bodyHandles.push(population.bodyHandles[body]!)
    const { filter, serial } = population
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const handle = population.handles.of(c)
      this.colliders.push(c)
      this.colliders.push(serial.data[c])
      this.colliders.push(index)
      this.colliders.push(filter.flags.data[c])
      this.colliders.push(filter.activeLayers.data[c])
      this.colliders.push(filter.activeSolid.data[c])
      this.colliders.push(filter.activeMeet.data[c])
      this.handles.push(handle)
      this.shapes.push(host.shapeOf(handle))
    }
  }
}

/** A roster, and where its bodies were. */
interface Placed<C extends object> {
  roster: Roster<C>
  poses: Float64Array
}

/** The end of a tick. */
interface Tick<C extends object> extends Placed<C> {
  tick: number
  layers: Layers
  still: Placed<C>
}

export class History<C extends object> {
  /** How many ticks can be asked about, besides that of now. */
  readonly length: number
  private readonly host: HistoryHost<C>
  private readonly ring: Tick<C>[]
  private readonly pose: Float64Array
  private still: Placed<C>
  private movers: Roster<C>
  private side: HistoryHost<C> | null = null
  /** What the world beside shows. */
  private shown: Tick<C> | null = null
  private shownTick = -1
  private shownRoster: Roster<C> | null = null
  private shownStill: Placed<C> | null = null
  /** Of each body slot, what is shown there: 1 + its place in the roster of now, while rosters are compared. */
  private places = new Int32Array(64)
  private readonly seated = new IntList()
  private readonly seatedColliders: number[][] = []
  /** Of each collider slot that is shown: its age, words and shape. */
  private readonly looks: ({ readonly words: readonly number[]; readonly shape: object } | undefined)[] = []

  constructor(host: HistoryHost<C>, length: number) {
    this.host = host
    this.length = length
    this.pose = new Float64Array(host.kernel.poses.kept)
    const nobody = new Roster<C>(-1)
    this.movers = nobody
    this.still = { roster: nobody, poses: this.pose }
    const { still } = this
    this.ring = Array.from({ length: length + 1 }, () => ({
      tick: -1,
      layers: host.layers(),
      roster: nobody,
      poses: new Float64Array(64),
      still,
    }))
  }

  /** Takes down the end of a tick. Cost: the poses of what can move; and who that is, or all that stands still, when any of it has changed. */
  record(tick: number): void {
    const { population, kernel } = this.host
    // Tiles that a handler has changed are brought in, and counted.
    kernel.refresh()
    const { stillChanges, moverChanges } = population
    if (this.still.roster.changes !== stillChanges) {
      const roster = new Roster<C>(stillChanges)
      for (let body = 0; body < population.bodies.size; body++) {
        const isThere = population.bodySerial.data[body] !== 0 && population.bodyAlive(body)
        if (isThere && population.type.data[body] === STATIC) roster.add(this.host, body)
      }
      this.still = { roster, poses: new Float64Array(0) }
      this.writePoses(this.still)
    }
    if (this.movers.changes !== moverChanges) {
      this.movers = new Roster<C>(moverChanges)
      for (const set of [population.kinematics, population.dynamics]) {
        for (let body = set.from(0); body >= 0; body = set.from(body + 1))
          if (population.bodyAlive(body)) this.movers.add(this.host, body)
      }
    }
    const entry = this.ring[tick % this.ring.length]
    entry.tick = tick
    entry.layers = this.host.layers()
    entry.still = this.still
    entry.roster = this.movers
    this.writePoses(entry)
  }

  /** Writes where the bodies of a roster are now. */
  private writePoses(into: Placed<C>): void {
    const { poses } = this.host.kernel
    const { kept } = poses
    const { bodies, bodyHandles } = into.roster
    if (kept * bodyHandles.length > into.poses.length) into.poses = new Float64Array(2 * kept * bodyHandles.length)
    const { pose } = this
    const to = into.poses
    for (let i = 0, at = 0; i < bodies.length; i += BODY, at += kept) {
      poses.keep(bodies.data[i], pose)
      for (let k = 0; k < kept; k++) to[at + k] = pose[k]
    }
  }

  /** Whether a tick is still known. */
  knows(tick: number): boolean {
    return tick >= 0 && this.ring[tick % this.ring.length].tick === tick
  }

  /** The world beside, as the world was at the end of a tick. */
  show(tick: number): HistoryHost<C> {
    const side = (this.side ??= this.host.beside())
    const entry = this.ring[tick % this.ring.length]
    if (this.shownStill !== entry.still) {
      while (this.seated.length > 0) this.unseat(this.seated.pop())
      this.shownStill = entry.still
      this.shownRoster = null
      this.seatAll(entry.still)
    } else if (this.shown === entry && this.shownTick === tick) return side
    this.showMovers(entry)
    side.showLayers(entry.layers)
    side.kernel.broadPhase.forgetEdits()
    this.shown = entry
    this.shownTick = tick
    return side
  }

  /** Moves what is shown already, seats what is not, takes out what was not there. */
  private showMovers(entry: Tick<C>): void {
    const { roster } = entry
    const { bodies } = roster
    if (this.shownRoster !== roster) this.clearFor(roster)
    const { population, kernel } = this.side!
    for (let i = 0; i < bodies.length; i += BODY) {
      const body = bodies.data[i]
      const index = i / BODY
      if (population.bodyHandles[body] === roster.bodyHandles[index]) {
        this.readPose(entry, index)
        kernel.poses.set(body, this.pose)
        kernel.broadPhase.markMoved(body)
      } else this.seat(entry, index)
    }
    this.shownRoster = roster
  }

  /** Takes out what is shown and not on a roster, or otherwise. */
  private clearFor(roster: Roster<C>): void {
    const { seated } = this
    const { bodies } = roster
    for (let i = 0; i < bodies.length; i += BODY) this.placeOf(bodies.data[i], 1 + i / BODY)
    let kept = 0
    for (let i = 0; i < seated.length; i++) {
      const body = seated.data[i]
      const isStill = this.side!.population.type.data[body] === STATIC
      const index = body < this.places.length ? this.places[body] - 1 : -1
      if (isStill || (index >= 0 && this.looksLike(body, roster, index))) seated.data[kept++] = body
      else this.unseat(body)
    }
    seated.length = kept
    for (let i = 0; i < bodies.length; i += BODY) this.places[bodies.data[i]] = 0
  }

  private placeOf(body: number, value: number): void {
    if (body >= this.places.length) {
      const wider = new Int32Array(Math.max(2 * this.places.length, body + 1))
      wider.set(this.places)
      this.places = wider
    }
    this.places[body] = value
  }

  private readPose({ poses }: Placed<C>, index: number): void {
    const { length } = this.pose
    for (let k = 0; k < length; k++) this.pose[k] = poses[length * index + k]
  }

  /** Whether a body that is shown is that of a roster, with the same colliders. */
  private looksLike(body: number, frame: Roster<C>, index: number): boolean {
    const { population } = this.side!
    const at = BODY * index
    if (population.bodySerial.data[body] !== frame.bodies.data[at + 1]) return false
    if (population.type.data[body] !== frame.bodies.data[at + 2]) return false
    const shown = this.seatedColliders[body]
    let count = 0
    for (let k = firstOf(frame, index); k < frame.handles.length; k++) {
      const words = frame.colliders.data
      if (words[COLLIDER * k + 2] !== index) break
      const look = this.looks[words[COLLIDER * k]]
      if (look === undefined || look.shape !== frame.shapes[k]) return false
      for (let w = 0; w < COLLIDER; w++) if (w !== 2 && look.words[w] !== words[COLLIDER * k + w]) return false
      count++
    }
    return count === shown.length
  }

  /** Knows nothing of what was before, any more. */
  forget(tick: number): void {
    for (const each of this.ring) each.tick = -1
    this.shownTick = -1
    this.record(tick)
  }

  private seatAll(placed: Placed<C>): void {
    for (let index = 0; index < placed.roster.bodyHandles.length; index++) this.seat(placed, index)
  }

  /** Puts a body and its colliders where they were, in the world beside. */
  private seat(placed: Placed<C>, index: number): void {
    const { population, kernel } = this.side!
    const frame = placed.roster
    const { data } = frame.bodies
    const body = data[BODY * index]
    population.seatBody(body, data[BODY * index + 1], data[BODY * index + 2], frame.bodyHandles[index])
    this.readPose(placed, index)
    kernel.poses.set(body, this.pose)
    this.seated.push(body)
    this.seatedColliders[body] = []
    for (let k = firstOf(frame, index); k < frame.handles.length; k++) {
      const words = Array.from(frame.colliders.data.subarray(COLLIDER * k, COLLIDER * (k + 1)))
      const [c, age, owner, flags, layers, solid, meet] = words
      if (owner !== index) break
      population.seatCollider(c, body, age, frame.handles[k])
      const { filter } = population
      write(filter, c, flags, layers, solid, meet)
      this.looks[c] = { words, shape: frame.shapes[k] }
      this.seatedColliders[body].push(c)
      const handle = frame.handles[k]
      this.side!.showShape(c, frame.shapes[k], this.host.placeOf(handle))
    }
    kernel.broadPhase.markMoved(body)
  }

  private unseat(body: number): void {
    const { population, kernel } = this.side!
    for (const c of this.seatedColliders[body]) {
      kernel.broadPhase.takeOut(c)
      kernel.broadPhase.release(c)
      this.looks[c] = undefined
    }
    population.unseat(body, this.seatedColliders[body])
    this.seatedColliders[body] = []
  }
}

/** The first collider of a body of a roster: they stand in the order of their bodies. */
function firstOf<C extends object>(frame: Roster<C>, index: number): number {
  const { data } = frame.colliders
  let low = 0
  let high = frame.handles.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (data[COLLIDER * middle + 2] < index) low = middle + 1
    else high = middle
  }
  return low
}

function write(filter: Filter, c: number, flags: number, layers: number, solid: number, meet: number): void {
  filter.flags.data[c] = flags
  filter.activeLayers.data[c] = layers
  filter.activeSolid.data[c] = solid
  filter.activeMeet.data[c] = meet
}
