/** The books of the 2D broad phase: what `core/step/broadPhase.ts` says, and bounds for motions with bends. */
import type { Population } from '../core/state/population.ts'
import { BroadPhase, NOWHERE } from '../core/step/broadPhase.ts'
import { cosSin } from '../core/util/maths.ts'
import { Geometry } from './geometry.ts'
import type { Path2 } from './path.ts'
import type { Poses } from './poses.ts'
import type { Piece } from './shapes/shape.ts'
import { Tree } from './tree/tree.ts'

export class BroadPhase2 extends BroadPhase<Piece, Geometry, Tree> {
  private readonly poses: Poses
  private readonly bend = new Float64Array(5)
  private readonly box = new Float64Array(4)

  constructor(population: Population<object, object>, poses: Poses, touch: number) {
    super(population, new Geometry(population.colliders, poses), [new Tree(), new Tree(), new Tree()], 2, touch)
    this.poses = poses
  }

  /** As {@link follow}, for a motion with bends: wide bounds that hold the body at its start, at every bend and at its end. */
  followBends(body: number, path: Path2): void {
    const { population, geometry, treeOf, bend, box } = this
    const { previous, turn } = this.poses
    const { wideBounds, first } = geometry
    for (let c = population.first(body); c >= 0; c = population.next(c)) {
      const tree = treeOf.data[c]
      if (tree === NOWHERE) continue
      this.changedTick.data[c] = this.now
      for (let piece = first.data[c]; piece !== NOWHERE; piece = geometry.after(piece)) {
        geometry.transform(piece, body)
        this.expandBounds(piece)
        const at = 4 * piece
        const wide = wideBounds.data
        let angle = previous.data[3 * body + 2]
        let most = 0
        const bends = path.bendsIn(body)
        for (let i = -1; i < bends; i++) {
          if (i < 0) for (let k = 0; k < 3; k++) bend[k] = previous.data[3 * body + k]
          else path.bendAt(body, i, bend)
          most = Math.max(most, Math.abs(bend[2] - angle))
          angle = bend[2]
          cosSin(bend, 2)
          geometry.boundsAt(piece, bend, box)
          for (let k = 0; k < 2; k++) if (box[k] < wide[at + k]) wide[at + k] = box[k]
          for (let k = 2; k < 4; k++) if (box[k] > wide[at + k]) wide[at + k] = box[k]
        }
        most = Math.max(most, Math.abs(turn.data[3 * body] - angle))
        const stray = most === 0 ? 0 : Math.min((most * most) / 8, 2) * geometry.turnReach.data[c]
        for (let k = 0; k < 4; k++) wide[at + k] += k < 2 ? -stray : stray
        this.trees[tree].move(piece, wide, at)
      }
      this.enqueue(c)
    }
  }
}
