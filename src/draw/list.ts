/** The draw list: what is to be seen, in world units and without a renderer. Any renderer can show it. */

export interface Point {
  /** Along x. */
  readonly x: number
  /** Along y. */
  readonly y: number
}

/** A convex outline: points counter-clockwise, grown by a radius. One point is a circle, two a capsule. */
export interface RoundItem {
  /** Which item it is. */
  readonly kind: 'round'
  /** The corners of its core. */
  readonly points: readonly Point[]
  /** By how much the core is grown. */
  readonly radius: number
  /** The colour of its outline and its fill. */
  readonly colour: string
  /** Plain: filled. Hatched: a sensor. Ghost: outline only, for what is disabled. */
  readonly fill: 'plain' | 'hatched' | 'ghost'
  /** Drawn stronger: a sensor with somebody in it, or what the pointer is on. */
  readonly lit: boolean
}

/** What lies within loops of corners, holes left out: outer loops run counter-clockwise, holes clockwise. */
export interface RegionItem {
  /** Which item it is. */
  readonly kind: 'region'
  /** The corners of each loop. */
  readonly loops: readonly (readonly Point[])[]
  /** The colour of its outline and its fill. */
  readonly colour: string
  /** As of a {@link RoundItem}. */
  readonly fill: RoundItem['fill']
  /** As of a {@link RoundItem}. */
  readonly lit: boolean
}

/** A flat face, filled without an outline; hatched for a sensor. */
export interface FaceItem {
  /** Which item it is. */
  readonly kind: 'face'
  /** Its corners. */
  readonly points: readonly Point[]
  /** The colour of its outline and its fill. */
  readonly colour: string
  /** Whether it is hatched, as sensors are. */
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
interface MarkItem {
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

/** A name beside what it names. */
export interface LabelItem {
  /** Which item it is. */
  readonly kind: 'label'
  /** The box that the label belongs to; it is put above, below or beside it, where there is room. */
  readonly min: Point
  /** The upper right corner of what it names. */
  readonly max: Point
  /** The largest solid piece of the body, within which the label is put where it fits; null when there is none. */
  readonly inner: {
    readonly min: Point
    readonly max: Point
    readonly points: readonly Point[]
    readonly radius: number
  } | null
  /** What it says. */
  readonly text: string
  /** The colour of the text. */
  readonly colour: string
}

/** One thing to be drawn. */
export type DrawItem = RoundItem | RegionItem | FaceItem | LineItem | MarkItem | ArrowItem | LabelItem

/** What one colour means. */
export interface LegendEntry {
  /** What it means. */
  readonly text: string
  /** The colour. */
  readonly colour: string
  /** How it is filled. */
  readonly fill: 'plain' | 'hatched' | 'line'
}

/** A picture as data: what is to be drawn, in order, in lengths of the world. */
export interface DrawList {
  /** Stands above the picture. */
  readonly title: string
  /** Stands below the picture. */
  readonly caption: string
  /** What there is to see, in world units. */
  readonly min: Point
  /** The upper right corner of what is to be seen. */
  readonly max: Point
  /** From the back to the front. */
  readonly items: readonly DrawItem[]
  /** What the colours mean. */
  readonly legend: readonly LegendEntry[]
  /** Whether a grid of world units lies behind it. Default true. */
  readonly grid?: boolean | undefined
}
