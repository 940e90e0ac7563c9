/** Coverage of the rules of a scene: which watches told nothing, which layers came near each other and met, which rows of the pair table decided anything. */
import type { ScenePlayer } from './play.ts'
import type { Scene } from './schema.ts'

/** Two layers, and what became of them in a run. */
export interface LayerPair {
  /** The layer that comes first in the file. */
  readonly a: string
  /** The other; the same for a layer with itself. */
  readonly b: string
  /** What the pair table of the scene says of them. */
  readonly response: string
  /** How often a collider of the one came near to one of the other: their bounds touched. */
  near: number
  /** How often two of them began to meet. */
  met: number
}

/** What a run made use of: of the watches, the layers and the pair table of its scene. */
export interface Coverage {
  /** Each watch, by its key, and how many events it told. */
  readonly watches: readonly { readonly key: string; readonly told: number }[]
  /** Each two layers. */
  readonly pairs: readonly LayerPair[]
  /** Each row of the pair table, and how often two came near of whom it decided. */
  readonly rows: readonly {
    /** As in the file. */
    readonly row: readonly [string, string, string]
    /** How often two came near of whom it decided. */
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

/** A body of either dimension, as far as it is looked at. */
interface AnyBody {
  readonly type: string
  readonly enabled: boolean
  readonly colliders: readonly AnyCollider[]
}

interface AnyCollider {
  readonly serial: number
  readonly enabled: boolean
  readonly layerBits: number
  readonly bounds: { readonly min: Vector; readonly max: Vector } | null
}

interface Bounds {
  readonly collider: AnyCollider
  readonly body: AnyBody
  readonly min: readonly number[]
  readonly max: readonly number[]
}

/** Lengths by which bounds may be apart and still count as near. */
const NEAR = 0.05

/** What a counter has counted, to go back to. */
export interface CoverageState {
  /** Of each two layers: near and met. */
  readonly counts: readonly (readonly [number, number])[]
  /** Events of each watch. */
  readonly told: ReadonlyMap<string, number>
  /** Pairs that are near. */
  readonly near: ReadonlySet<string>
}

/**
 * Counts what a run makes use of while its scene is played. It watches every pair, so that those are tested that no watch of the scene asks for.
 * Cost of a tick: the bounds of every collider, sorted.
 */
export class CoverageCounter {
  private readonly player: ScenePlayer
  private readonly scene: Scene
  private readonly names: readonly string[]
  private readonly pairs: LayerPair[] = []
  private readonly told = new Map<string, number>()
  /** Pairs of colliders that are near, by their ages. */
  private near: ReadonlySet<string> = new Set<string>()
  private readonly key = 'of all, for coverage'

  /** @param player before its first tick */
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
    player.world.watch('*', '*', {}, { key: this.key, per: 'collider', observer: true })
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

  /** What was counted so far, to go back to. */
  state(): CoverageState {
    return { counts: this.pairs.map(({ near, met }) => [near, met]), told: new Map(this.told), near: this.near }
  }

  /** Goes back to what was counted then. */
  restore({ counts, told, near }: CoverageState): void {
    for (const [i, pair] of this.pairs.entries()) [pair.near, pair.met] = counts[i]
    this.told.clear()
    for (const [key, count] of told) this.told.set(key, count)
    this.near = near
  }

  /** What was counted so far. @param watches the keys of the watches of the scene */
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
    const now = new Set<string>()
    this.near = now
    for (let i = 0; i < all.length; i++) {
      const a = all[i]
      for (let j = i + 1; j < all.length && all[j].min[0] <= a.max[0]; j++) {
        const b = all[j]
        if (a.body === b.body || (a.body.type === 'static' && b.body.type === 'static') || !overlap(a, b)) continue
        const [one, other] = [a.collider.serial, b.collider.serial].sort((x, y) => x - y)
        const key = `${one} ${other}`
        now.add(key)
        if (before.has(key)) continue
        for (const pair of this.of(a.collider.layerBits, b.collider.layerBits)) pair.near++
      }
    }
  }
}

function overlap(a: Bounds, b: Bounds): boolean {
  return a.min.every((low, k) => low <= b.max[k] && b.min[k] <= a.max[k])
}

/** The bounds of a collider, a little wider. */
function boundsOf(body: AnyBody, collider: AnyCollider): Bounds {
  const { min, max } = collider.bounds!
  const numbers = ({ x, y, z }: Vector, by: number): number[] =>
    (z === undefined ? [x, y] : [x, y, z]).map((v) => v + by)
  return { collider, body, min: numbers(min, -NEAR), max: numbers(max, NEAR) }
}
