/** How colliders look in either dimension: the colour of their layer, solid, sensing or off, and the legend. */
import type { Layers } from '../core/index.ts'
import type { LegendEntry } from './list.ts'
import { overlayLegend, type overlaysOf } from './overlays.ts'
import { FAINT_TEXT, JOINT, layerColour, RAY, TOUCH, WAY } from './palette.ts'

interface Shape {
  readonly layerBits: number
  readonly solidBits: number
  readonly senseBits: number
  readonly sensor: boolean
  readonly enabled: boolean
  readonly body: { readonly enabled: boolean }
}

export interface Look {
  colour: string
  readonly fill: 'plain' | 'hatched' | 'ghost'
  readonly lit: boolean
}

/** The layers that a picture shows, and whether only as sensors. */
export type Shown = Map<string, 'plain' | 'hatched'>

/** A collider as the user sees it: flagged a sensor, or one by its words. */
export function isSensor(collider: Shape): boolean {
  return collider.sensor || (collider.solidBits === 0 && collider.senseBits !== 0)
}

/** The bits of some layers. */
export function maskOf(layers: Layers, names: readonly string[]): number {
  return names.length === 0 ? 0 : layers.mask(...names)
}

export function lookOf(layers: Layers, collider: Shape, lit: boolean): Look {
  const [first] = layers.names(collider.layerBits)
  const colour = layerColour(first === undefined ? 0 : layers.index(first))
  if (!collider.enabled || !collider.body.enabled) return { colour, fill: 'ghost', lit }
  return { colour, fill: isSensor(collider) ? 'hatched' : 'plain', lit }
}

export function noteLayers(layers: Layers, collider: Shape, shown: Shown): void {
  for (const name of layers.names(collider.layerBits)) {
    shown.set(name, isSensor(collider) && shown.get(name) !== 'plain' ? 'hatched' : 'plain')
  }
}

interface Overlapping<C> {
  readonly type: string
  overlapping(): readonly { readonly mine: C; readonly other: C; readonly response: string }[]
}

/** The sensors that somebody is in. */
export function enteredSensors<C extends Shape>(bodies: readonly Overlapping<C>[]): Set<C> {
  const entered = new Set<C>()
  for (const body of bodies) {
    if (body.type === 'static') continue
    for (const { mine, other, response } of body.overlapping()) {
      if (response !== 'sense') continue
      if (isSensor(other)) entered.add(other)
      if (isSensor(mine)) entered.add(mine)
    }
  }
  return entered
}

interface Touching<V> {
  readonly serial: number
  touching(): readonly {
    readonly body: { readonly serial: number }
    readonly point: V
    readonly normal: V
    readonly impulse: number
  }[]
}

/** Pixels of the arrow of a touch that presses nothing, and how many more the hardest of a picture has. */
const TOUCH_LENGTH = 16
const TOUCH_MORE = 34

/** Each pair that touches, once, from its younger body; how long its arrow is tells how hard it presses. */
export function touchesOf<V>(bodies: readonly Touching<V>[]): { point: V; normal: V; length: number }[] {
  const touches = bodies.flatMap((body) => body.touching().filter((touch) => touch.body.serial <= body.serial))
  const hardest = touches.reduce((most, { impulse }) => Math.max(most, impulse), 0)
  return touches.map(({ point, normal, impulse }) => {
    // The root, so that what rests is still to be seen beside what strikes.
    const part = hardest > 0 ? Math.sqrt(impulse / hardest) : 0
    return { point, normal, length: TOUCH_LENGTH + TOUCH_MORE * part }
  })
}

/** What is drawn besides the bodies. */
interface Besides {
  readonly rays: boolean
  readonly joints: boolean
  readonly trails: boolean
  readonly overlays: ReturnType<typeof overlaysOf>
}

/** A body, as far as its name is ordered. */
interface Named {
  readonly type: string
  readonly asleep: boolean
}

/** The order in which names find room: what is picked, then what moves, then what rests. */
export function nameOrder<B extends Named>(bodies: readonly B[], picked: B | null | undefined): Map<B, number> {
  return new Map(bodies.map((body) => [body, body === picked ? 0 : body.type === 'static' || body.asleep ? 2 : 1]))
}

export function legendOf(layers: Layers, shown: Shown, { rays, joints, trails, overlays }: Besides): LegendEntry[] {
  const entries: LegendEntry[] = []
  for (const [index, text] of layers.all.entries()) {
    const fill = shown.get(text)
    if (fill !== undefined) entries.push({ text, colour: layerColour(index), fill })
  }
  entries.push({ text: 'sensor', colour: FAINT_TEXT, fill: 'hatched' })
  if (joints && overlays.joints) entries.push({ text: 'joint', colour: JOINT, fill: 'line' })
  if (trails) entries.push({ text: 'way, with what it met', colour: WAY, fill: 'line' })
  if (rays) entries.push({ text: 'ray', colour: RAY, fill: 'line' })
  if (overlays.touches) entries.push({ text: 'touch: the longer, the harder', colour: TOUCH, fill: 'line' })
  return [...entries, ...overlayLegend(overlays)]
}

/** The way of a body that travels, to be shown. */
export interface ShownTrail<V> {
  /** Where it was, in order. */
  readonly points: readonly V[]
  /** Where it met something, and the normal there. */
  readonly hits: readonly { readonly point: V; readonly normal: V }[]
}

/** A way as a line with arrows where it met something, in the items that both dimensions have. */
export function trailItems<V>({ points, hits }: ShownTrail<V>) {
  const lines = points.slice(1).map((to, index) => ({
    kind: 'line' as const,
    from: points[index],
    to,
    colour: WAY,
    width: 1.6,
    dashed: false,
  }))
  const marks = hits.flatMap(({ point, normal }) => [
    { kind: 'mark' as const, at: point, sign: 'ring' as const, colour: WAY, size: 5 },
    { kind: 'arrow' as const, at: point, direction: normal, colour: WAY, length: 12 },
  ])
  return [...lines, ...marks]
}
