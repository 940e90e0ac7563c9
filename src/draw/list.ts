/** The draw list: what is to be seen, in world units and without a renderer. Any renderer can show it. */

export interface Point {
  readonly x: number
  readonly y: number
}

/** A convex outline: points counter-clockwise, grown by a radius. One point is a circle, two a capsule. */
export interface RoundItem {
  readonly kind: 'round'
  readonly points: readonly Point[]
  readonly radius: number
  readonly colour: string
  /** Plain: filled. Hatched: a sensor. Ghost: outline only, for what is disabled. */
  readonly fill: 'plain' | 'hatched' | 'ghost'
  /** Drawn stronger: a sensor with somebody in it, or what the pointer is on. */
  readonly lit: boolean
}

/** A flat face, filled without an outline; hatched for a sensor. */
export interface FaceItem {
  readonly kind: 'face'
  readonly points: readonly Point[]
  readonly colour: string
  readonly hatched: boolean
}

export interface LineItem {
  readonly kind: 'line'
  readonly from: Point
  readonly to: Point
  readonly colour: string
  /** Pixels. */
  readonly width: number
  readonly dashed: boolean
}

/** A small sign of a fixed size on the screen. */
export interface MarkItem {
  readonly kind: 'mark'
  readonly at: Point
  readonly sign: 'dot' | 'ring' | 'cross'
  readonly colour: string
  /** Pixels across. */
  readonly size: number
}

/** An arrow of a fixed length on the screen, as for a normal. */
export interface ArrowItem {
  readonly kind: 'arrow'
  readonly at: Point
  readonly direction: Point
  readonly colour: string
  /** Pixels. */
  readonly length: number
}

export interface LabelItem {
  readonly kind: 'label'
  /** The box that the label belongs to; it is put above, below or beside it, where there is room. */
  readonly min: Point
  readonly max: Point
  /** The largest solid piece of the body, within which the label is put where it fits; null when there is none. */
  readonly inner: {
    readonly min: Point
    readonly max: Point
    readonly points: readonly Point[]
    readonly radius: number
  } | null
  readonly text: string
  readonly colour: string
}

export type DrawItem = RoundItem | FaceItem | LineItem | MarkItem | ArrowItem | LabelItem

export interface LegendEntry {
  readonly text: string
  readonly colour: string
  readonly fill: 'plain' | 'hatched' | 'line'
}

export interface DrawList {
  readonly title: string
  readonly caption: string
  /** What there is to see, in world units. */
  readonly min: Point
  readonly max: Point
  /** From the back to the front. */
  readonly items: readonly DrawItem[]
  readonly legend: readonly LegendEntry[]
  /** Whether a grid of world units lies behind it. Default true. */
  readonly grid?: boolean | undefined
}
