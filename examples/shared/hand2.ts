/** The pointer as a hand in 2D: a `carry` joint draws the body that it grabbed after it. */
import type { Kinds } from 'keen-sentry'
import type { Body2, Joint2, Vec2, World2 } from 'keen-sentry/2d'

/** How near to a body one must press, and how many times its weight on earth the hand can give. */
const NEAR = 0.4
const STRENGTH = 80

export class Hand2<K extends Kinds> {
  private joint: Joint2<K> | null = null

  get body(): Body2<K> | null {
    return this.joint?.alive ? this.joint.a : null
  }

  /** Grabs the nearest dynamic body; false where none is near. */
  grab(world: World2<K>, at: Vec2): boolean {
    const near = world.nearest.all({ point: at, reach: NEAR }).find((hit) => hit.body.type === 'dynamic')
    if (near === undefined) return false
    this.hold(world, near.body, at)
    return true
  }

  /** Holds a dynamic body at a place. */
  hold(world: World2<K>, body: Body2<K>, at: Vec2): void {
    this.joint = world.join({ type: 'carry', a: body, at, target: at, force: STRENGTH * 9.8 * body.mass })
  }

  aim(at: Vec2): void {
    if (this.joint?.alive) this.joint.target = at
  }

  /** Puts what is held so that it is held at a place: for a world that stands still. */
  put(at: Vec2): void {
    if (!this.joint?.alive) return
    const { a: body, anchors } = this.joint
    body.teleport({ x: body.at.x + at.x - anchors.a.x, y: body.at.y + at.y - anchors.a.y })
    this.joint.target = at
  }

  release(): void {
    if (this.joint?.alive) this.joint.remove()
    this.joint = null
  }
}
