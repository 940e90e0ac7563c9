/** A network that is simulated: it delays, by more and less, loses some, and so puts them out of order. The same seed gives the same troubles. */

export interface Troubles {
  /** Milliseconds that a message takes one way, at least; and by how many more it may be late. */
  delay: number
  jitter: number
  /** The part that is lost, 0..1. */
  loss: number
}

interface Parcel<M> {
  readonly due: number
  readonly to: 0 | 1
  readonly message: M
}

export class Network<M> {
  readonly troubles: Troubles
  sent = 0
  lost = 0
  private under: Parcel<M>[] = []
  private state: number

  constructor(seed: number, troubles: Troubles) {
    this.state = seed >>> 0
    this.troubles = troubles
  }

  /** @param now milliseconds */
  send(now: number, to: 0 | 1, message: M): void {
    this.sent++
    const { delay, jitter, loss } = this.troubles
    if (this.random() < loss) {
      this.lost++
      return
    }
    this.under.push({ due: now + delay + jitter * this.random(), to, message })
  }

  /** What has arrived, in the order in which it did. */
  arrived(now: number): { readonly to: 0 | 1; readonly message: M }[] {
    const due = this.under.filter((parcel) => parcel.due <= now).sort((a, b) => a.due - b.due)
    this.under = this.under.filter((parcel) => parcel.due > now)
    return due
  }

  /** From 0 to 1: a linear congruence (Numerical Recipes), its high bits. */
  private random(): number {
    this.state = (Math.imul(this.state, 1664525) + 1013904223) >>> 0
    return this.state / 4294967296
  }
}
