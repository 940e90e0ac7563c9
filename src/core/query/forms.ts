/**
 * Shapes as the plain functions place them: kept with the shape, so that one that is asked about again, at the same pose or at another, is neither
 * checked nor made room for again. Each argument of a function has forms of its own, for a shape may be asked against itself.
 */

/** A shape of more pieces is placed anew each time: it is not worth the memory. */
const MOST_PIECES = 64

export interface Form<P> {
  readonly placed: readonly P[]
  /** The pose at which the pieces stand, as the caller gave it; NaN before the first. */
  readonly pose: Float64Array
}

export class Forms<S extends object, P> {
  private readonly forms = new WeakMap<S, Form<P>>()
  private readonly size: number
  private readonly make: (shape: S) => readonly P[]
  private last: S | null = null
  private lastForm: Form<P> | null = null

  /**
   * @param size numbers of a pose
   * @param make makes room for the pieces of a shape that was checked
   */
  constructor(size: number, make: (shape: S) => readonly P[]) {
    this.size = size
    this.make = make
  }

  /** The form of a shape. @param check refuses what is no shape */
  of(shape: S, check: (shape: unknown, what: string) => void, what: string): Form<P> {
    if (shape === this.last) return this.lastForm!
    const known = typeof shape === 'object' && shape !== null ? this.forms.get(shape) : undefined
    if (known === undefined) check(shape, what)
    const form = known ?? { placed: this.make(shape), pose: new Float64Array(this.size).fill(Number.NaN) }
    if (form.placed.length > MOST_PIECES) return form
    if (known === undefined) this.forms.set(shape, form)
    this.last = shape
    this.lastForm = form
    return form
  }
}
