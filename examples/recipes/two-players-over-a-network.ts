/** Two players over a network: each plays at once with what the other did last, goes back when that was wrong, and both hold the same world. */
import { type Body2, box, circle, createWorld, defineLayers, type Snapshot, type World2 } from 'keen-sentry/2d'

const layers = defineLayers(['rock', 'craft'])

/** The input of a tick: which way a craft is pushed. */
type Input = -1 | 0 | 1

class Player {
  readonly world: World2 = createWorld({ layers })
  again = 0
  private readonly crafts: Body2[]
  private readonly inputs: Input[][] = [[], []]
  private readonly used: Input[][] = [[], []]
  private readonly states: Snapshot[] = []
  private wrongFrom = Infinity
  private readonly me: 0 | 1

  constructor(me: 0 | 1) {
    this.me = me
    this.world.add({ type: 'static', at: { x: 0, y: -0.5 }, colliders: [{ shape: box(30, 1), layer: 'rock' }] })
    this.crafts = [-3, 3].map((x) =>
      this.world.add({ type: 'dynamic', at: { x, y: 0.5 }, colliders: [{ shape: circle(0.5), layer: 'craft' }] }),
    )
    this.states[0] = this.world.snapshot()
  }

  /** What one does oneself, or what has come from the other: for a tick. */
  hear(who: 0 | 1, tick: number, input: Input): void {
    this.inputs[who][tick] = input
    if (tick <= this.world.tick && this.used[who][tick] !== input) this.wrongFrom = Math.min(this.wrongFrom, tick)
  }

  /** A tick, after those that were played wrong were played again. */
  play(input: Input): void {
    const now = this.world.tick
    if (this.wrongFrom <= now) {
      this.world.restore(this.states[this.wrongFrom - 1])
      this.again += now - this.wrongFrom + 1
      this.wrongFrom = Infinity
      while (this.world.tick < now) this.step(true)
    }
    this.hear(this.me, now + 1, input)
    this.step(false)
  }

  private step(quiet: boolean): void {
    const tick = this.world.tick + 1
    for (const [who, craft] of this.crafts.entries()) {
      // Where nothing is known yet: as the other did last.
      const input = this.inputs[who][tick] ?? this.inputs[who].at(-1) ?? 0
      this.used[who][tick] = input
      craft.applyImpulse({ x: 0.2 * input, y: 0 })
    }
    this.world.step({ quiet })
    this.states[tick] = this.world.snapshot()
  }
}

const players = [new Player(0), new Player(1)] as const
/** What is under way: it arrives twelve ticks later, 200 ms. */
const under: { due: number; to: 0 | 1; tick: number; input: Input }[] = []
for (let now = 0; now < 240; now++) {
  for (const { due, to, tick, input } of under) if (due === now) players[to].hear(to === 0 ? 1 : 0, tick, input)
  for (const me of [0, 1] as const) {
    // For a second of rest at the end both know what the other has done.
    const input: Input = now > 220 ? 0 : Math.floor(now / (20 + 7 * me)) % 2 === me ? 1 : -1
    players[me].play(input)
    under.push({ due: now + 12, to: me === 0 ? 1 : 0, tick: now + 1, input })
  }
}
for (const player of players)
  console.log(`tick ${player.world.tick}, ${player.world.hash()}, ${player.again} ticks played again`)
