/** The craft: how it is steered, and its claw. */
import type { Vec2 } from 'keen-sentry/2d'
import type { GameBody, GameJoint, GameWorld } from './place.ts'

/** Metres a second squared, and how hard the craft turns itself upright. */
const THRUST = 9
const UPRIGHT = 30
const STEADY = 8
/** How far the claw grabs, and where what it holds hangs. */
const REACH = 1.6
const CLAW: Vec2 = { x: 0.55, y: -1.15 }
/** Newtons that it can hold, and metres by which what it holds may fall behind. */
const GRIP = 420
const SLIPS = 2.6

export class Craft {
  readonly body: GameBody
  /** 1: the bow is on the right; -1: on the left. */
  facing = 1
  /** What the claw holds it with. */
  hand: GameJoint | null = null
  private readonly world: GameWorld

  constructor(world: GameWorld, body: GameBody) {
    this.world = world
    this.body = body
  }

  get holds(): GameBody | null {
    return this.hand?.alive ? (this.hand.a as GameBody) : null
  }

  /** Where the claw is. */
  claw(): Vec2 {
    const { at, angle } = this.body
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
    const x = CLAW.x * this.facing
    return { x: at.x + cos * x - sin * CLAW.y, y: at.y + sin * x + cos * CLAW.y }
  }

  // tour: craft
  /** Pushes with a part of the thrust along x and y, -1 to 1, and turns the craft upright. */
  steer(x: number, y: number): void {
    const { body } = this
    if (Math.abs(x) > 0.2) this.facing = Math.sign(x)
    const much = Math.sqrt(x * x + y * y)
    const part = (THRUST * body.mass) / Math.max(1, much)
    body.applyForce({ x: x * part, y: y * part })
    body.applyTorque(-(UPRIGHT * (body.angle + 0.12 * x) + STEADY * body.spin) * body.inertia)
  }
  // end

  // tour: cargo
  /** Grabs what is nearest to the claw; it passes through the craft meanwhile. */
  grab(): GameBody | null {
    const hit = this.world.nearest.first({ point: this.claw(), reach: REACH }, { layers: 'cargo' })
    if (hit === null) return null
    this.body.ignore(hit.body)
    this.hand = this.world.join({
      type: 'carry',
      a: hit.body,
      target: this.claw(),
      force: GRIP,
      torque: 40,
      end: ({ a }) => this.body.unignore(a as GameBody),
    })
    return hit.body
  }

  /** Before each tick: the claw draws what it holds after it. False when that slipped off. */
  carry(): boolean {
    const { hand } = this
    if (!hand?.alive) return true
    hand.target = this.claw()
    if (hand.distance < SLIPS) return true
    this.release()
    return false
  }

  release(): void {
    if (this.hand?.alive) this.hand.remove()
    this.hand = null
  }
  // end
}
