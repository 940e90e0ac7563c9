/** The shape that a question is asked with, placed where the question starts, as far as it knows no dimension: its pieces as flat numbers. */

export abstract class PlacedShape {
  /** Number of its convex pieces, and where the block of each is addressed. */
  pieces = 0
  offset = new Int32Array(8)
  /** Blocks at the start pose, and about the shape's own origin. */
  placed = new Float64Array(64)
  readonly own: Float64Array[] = []
  /** Bounds at the start pose: the least coordinates, then the greatest. */
  readonly bounds: Float64Array
  /** Distance of the outermost point from the shape's origin. */
  reach = 0
  /** Whether it is a box along the axes, without rounding: then it is its bounds. */
  fills = false

  protected shape: unknown = null
  /** {@link reach} of the shape that was taken in last. */
  protected ownReach = 0

  constructor(axes: number) {
    this.bounds = new Float64Array(2 * axes)
  }

  /** A box along the axes: the least coordinates at a place, then the greatest. */
  abstract setBox(from: Float64Array, at: number): void

  /** A point, by its coordinates at a place. */
  abstract setPointAt(from: Float64Array, at: number): void

  protected clear(): void {
    const { bounds } = this
    const { length } = bounds
    this.pieces = 0
    for (let i = 0; 2 * i < length; i++) bounds[i] = Infinity
    for (let i = length / 2; i < length; i++) bounds[i] = -Infinity
  }

  /** Makes room for one more piece, whose block is addressed at `at` and ends before `end`. */
  protected addPiece(at: number, end: number): void {
    const i = this.pieces++
    if (i === this.offset.length) {
      const wider = new Int32Array(2 * i)
      wider.set(this.offset)
      this.offset = wider
    }
    while (end > this.placed.length) {
      const wider = new Float64Array(2 * this.placed.length)
      wider.set(this.placed)
      this.placed = wider
    }
    this.offset[i] = at
  }
}
