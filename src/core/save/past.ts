/** The four questions, as of an earlier tick. Made by `world.past()`. */

/** A world, as far as it can be asked. */
export interface Asked {
  readonly raycast: unknown
  readonly shapecast: unknown
  readonly overlap: unknown
  readonly nearest: unknown
}

/** A world as it stood at the end of an earlier tick, to be asked. It lasts as long as the world remembers that tick. */
export class Past<W extends Asked = Asked> {
  /** The tick at whose end it stood so. */
  readonly tick: number
  private readonly show: () => W

  /** @internal */
  constructor(tick: number, show: () => W) {
    this.tick = tick
    this.show = show
  }

  /** What a ray would have met. */
  get raycast(): W['raycast'] {
    return this.show().raycast
  }

  /** What a moving shape would have met. */
  get shapecast(): W['shapecast'] {
    return this.show().shapecast
  }

  /** What a standing shape would have overlapped. */
  get overlap(): W['overlap'] {
    return this.show().overlap
  }

  /** Who would have been nearest. */
  get nearest(): W['nearest'] {
    return this.show().nearest
  }
}
