/** Coverage of the rules of a scene: which watches told nothing, which layers came near each other and met, which rows of the pair table decided anything. */
import type { Scene, ScenePlayer } from '../scene/index.ts'
import { RowPrinter } from './table.ts'

/** Two layers, and what became of them in a run. */
export interface LayerPair {
  readonly a: string
  readonly b: string
  /** What the pair table of the scene says of them. */
  readonly response: string
  /** How often a collider of the one came near to one of the other: their bounds touched. */
  near: number
  /** How often two of them began to meet. */
  met: number
}

export interface Coverage {
  /** Each watch, by its key, and how many events it told. */
  readonly watches: readonly { readonly key: string; readonly told: number }[]
  readonly pairs: readonly LayerPair[]
  /** Each row of the pair table, and how often two came near of whom it decided. */
  readonly rows: readonly {
    readonly row: readonly [string, string, string]
    readonly decided: number
    /** Whether later rows say otherwise of all its layers. */
    readonly overridden: boolean
  }[]
}

interface Vector {
  readonly x: number
  readonly y: number
  readonly z?: number
}

/** A collider of either dimension, as far as it is looked at. */
interface AnyCollider {
  readonly serial: number
  readonly enabled: boolean
  readonly layerBits: number
  readonly at: Vector
  readonly angle?: number
  readonly rotation?: Vector & { readonly w: number }
  readonly shape: { readonly bounds: { readonly min: Vector; readonly max: Vector } }
}

interface AnyBody {
  readonly serial: number
  readonly type: string
  readonly enabled: boolean
  readonly at: Vector
  readonly angle?: number
  readonly rotation?: Vector & { readonly w: number }
  readonly colliders: readonly AnyCollider[]
}

interface Bounds {
  readonly collider: AnyCollider
  readonly body: AnyBody
  readonly min: number[]
  readonly max: number[]
}

/** Lengths by which bounds may be apart and still count as near. */
const NEAR = 0.05

/** Counts while a scene is played. */
export class CoverageCounter {
  private readonly player: ScenePlayer
  private readonly scene: Scene
  private readonly names: readonly string[]
  private readonly pairs: LayerPair[] = []
  private readonly told = new Map<string, number>()
  /** Pairs of colliders that are near, by their ages. */
  private near = new Set<string>()
  private readonly key = 'of all, for coverage'

  constructor(player: ScenePlayer) {
    this.player = player
    this.scene = player.scene
    this.names = this.scene.layers.names
    for (let i = 0; i < this.names.length; i++) {
      for (let j = i; j < this.names.length; j++) {
        const [a, b] = [this.names[i], this.names[j]]
        this.pairs.push({ a, b, response: player.world.layers.pair(a as never, b as never), near: 0, met: 0 })
      }
    }
    // Without it, sense pairs that nobody watches would not be tested.
    player.world.watch('*', '*', {}, { key: this.key, per: 'collider' })
    this.look()
  }

  /** A watch of the scene has told something. */
  note(key: string): void {
    this.told.set(key, (this.told.get(key) ?? 0) + 1)
  }

  /** After each tick. */
  stepped(): void {
    const { world } = this.player
    for (const event of world.events({ per: 'collider' })) {
      if (event.joint !== null || event.kind !== 'begin' || event.watch.key !== this.key) continue
      for (const pair of this.of(event.aCollider.layerBits, event.bCollider.layerBits)) pair.met++
    }
    this.look()
  }

  result(watches: readonly string[]): Coverage {
    const rows = (this.scene.layers.pairs ?? []) as readonly (readonly [string, string, string])[]
    const covers = ([a, b]: readonly [string, string, string], { a: one, b: other }: LayerPair): boolean =>
      ((a === '*' || a === one) && (b === '*' || b === other)) ||
      ((a === '*' || a === other) && (b === '*' || b === one))
    // The last row that covers two layers decides.
    const deciding = this.pairs.map((pair) => rows.findLastIndex((row) => covers(row, pair)))
    return {
      watches: watches.map((key) => ({ key, told: this.told.get(key) ?? 0 })),
      pairs: this.pairs,
      rows: rows.map((row, index) => {
        const own = this.pairs.filter((_, i) => deciding[i] === index)
        return { row, decided: own.reduce((sum, { near }) => sum + near, 0), overridden: own.length === 0 }
      }),
    }
  }

  /** The pairs of layers of two masks. */
  private of(one: number, other: number): LayerPair[] {
    const bit = (name: string): number => 1 << this.names.indexOf(name)
    return this.pairs.filter(
      ({ a, b }) =>
        ((one & bit(a)) !== 0 && (other & bit(b)) !== 0) || ((one & bit(b)) !== 0 && (other & bit(a)) !== 0),
    )
  }

  /** Who is near whom now: swept along x. */
  private look(): void {
    const all: Bounds[] = []
    for (const body of this.player.world.bodies() as unknown as AnyBody[]) {
      if (!body.enabled) continue
      for (const collider of body.colliders) if (collider.enabled) all.push(boundsOf(body, collider))
    }
    all.sort((a, b) => a.min[0] - b.min[0])
    const before = this.near
    this.near = new Set()
    for (let i = 0; i < all.length; i++) {
      const a = all[i]
      for (let j = i + 1; j < all.length && all[j].min[0] <= a.max[0]; j++) {
        const b = all[j]
        if (a.body === b.body || (a.body.type === 'static' && b.body.type === 'static') || !overlap(a, b)) continue
        const [one, other] = [a.collider.serial, b.collider.serial].sort((x, y) => x - y)
        const key = `${one} ${other}`
        this.near.add(key)
        if (before.has(key)) continue
        for (const pair of this.of(a.collider.layerBits, b.collider.layerBits)) pair.near++
      }
    }
  }
}

function overlap(a: Bounds, b: Bounds): boolean {
  return a.min.every((low, k) => low <= b.max[k] && b.min[k] <= a.max[k])
}

/** The bounds of a collider in the world, from those of its shape. */
function boundsOf(body: AnyBody, collider: AnyCollider): Bounds {
  const { min, max } = collider.shape.bounds
  const corners = [min, max].flatMap(({ x }) =>
    [min, max].flatMap(({ y }) =>
      min.z === undefined
        ? [{ x, y }]
        : [
            { x, y, z: min.z },
            { x, y, z: max.z! },
          ],
    ),
  )
  const axes = min.z === undefined ? 2 : 3
  const low = new Array<number>(axes).fill(Infinity)
  const high = new Array<number>(axes).fill(-Infinity)
  for (const corner of corners) {
    const placed = place(place(corner, collider), body)
    const parts = axes === 2 ? [placed.x, placed.y] : [placed.x, placed.y, placed.z!]
    for (let k = 0; k < axes; k++) {
      // What has no end is everywhere.
      low[k] = Math.min(low[k], Number.isFinite(parts[k]) ? parts[k] - NEAR : -Infinity)
      high[k] = Math.max(high[k], Number.isFinite(parts[k]) ? parts[k] + NEAR : Infinity)
    }
  }
  return { collider, body, min: low, max: high }
}

/** A point of what stands somewhere, one step further out. */
function place(point: Vector, { at, angle, rotation }: Pick<AnyBody, 'at' | 'angle' | 'rotation'>): Vector {
  if (rotation === undefined) {
    const [c, s] = [Math.cos(angle ?? 0), Math.sin(angle ?? 0)]
    return { x: at.x + c * point.x - s * point.y, y: at.y + s * point.x + c * point.y }
  }
  const { x, y, z = 0, w } = rotation
  const [px, py, pz] = [point.x, point.y, point.z ?? 0]
  // p + 2 w (q × p) + 2 q × (q × p)
  const [ux, uy, uz] = [y * pz - z * py, z * px - x * pz, x * py - y * px]
  return {
    x: at.x + px + 2 * (w * ux + y * uz - z * uy),
    y: at.y + py + 2 * (w * uy + z * ux - x * uz),
    z: (at.z ?? 0) + pz + 2 * (w * uz + x * uy - y * ux),
  }
}

/** What was covered, as text. */
export function coverageText(coverage: Coverage, print: (text: string) => void): void {
  const { watches, pairs, rows } = coverage
  const widest = (words: readonly string[], least: number): number =>
    Math.min(30, Math.max(least, ...words.map(({ length }) => length)))
  const count = (told: number): string => (told === 0 ? 'never' : String(told))
  print('\n')
  const watchRows = new RowPrinter(
    [
      {
        head: 'watch',
        width: widest(
          watches.map(({ key }) => key),
          5,
        ),
        spare: 0,
        isName: true,
      },
      { head: 'events', width: 6, spare: 0 },
    ],
    print,
  )
  for (const { key, told } of watches) watchRows.row({ watch: key, events: count(told) })
  print('\n')
  const layers = widest(
    pairs.map(({ a }) => a),
    5,
  )
  const pairRows = new RowPrinter(
    [
      { head: 'layer', width: layers, spare: 0, isName: true },
      { head: 'and', width: layers, spare: 0, isName: true },
      { head: 'response', width: 8, spare: 0 },
      { head: 'near', width: 6, spare: 0 },
      { head: 'met', width: 6, spare: 0 },
    ],
    print,
  )
  for (const { a, b, response, near, met } of pairs) {
    pairRows.row({ layer: a, and: b, response, near: count(near), met: response === 'pass' ? '' : count(met) })
  }
  if (rows.length === 0) return
  print('\n')
  const texts = rows.map(({ row }) => row.join(', '))
  const tableRows = new RowPrinter(
    [
      { head: 'row of the pair table', width: widest(texts, 21), spare: 0, isName: true },
      { head: 'decided', width: 34, spare: 0 },
    ],
    print,
  )
  for (const [i, { decided, overridden }] of rows.entries()) {
    const text = overridden ? 'never: later rows say otherwise' : count(decided)
    tableRows.row({ 'row of the pair table': texts[i], decided: text })
  }
}
