/** A new kind of constraint is one file and one line in the list of kinds: a rod between two bodies, made here. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import { box, circle, createWorld, defineLayers } from '../../src/2d/index.ts'
import { BODY, DX, IX, IY, VX, VY } from '../../src/2d/solve/bodyRows.ts'
import type { Motion } from '../../src/2d/solve/motion.ts'
import type { Islands } from '../../src/core/solve/islands.ts'
import { type ConstraintKind, SUBSTEP } from '../../src/core/solve/substeps.ts'
import { DYNAMIC } from '../../src/core/state/population.ts'

/** Keeps the centres of two bodies at a distance. */
class Rod implements ConstraintKind {
  impulse = 0
  total = 0
  private readonly motion: Motion
  private readonly bodies: readonly [number, number]
  private readonly isDynamic: boolean
  private readonly length: number
  private rows = [0, 0]
  private normal = [0, 0]
  private gap = 0
  private mass = 0

  constructor(motion: Motion, bodies: readonly [number, number], isDynamic: boolean, length: number) {
    this.motion = motion
    this.bodies = bodies
    this.isDynamic = isDynamic
    this.length = length
  }

  begin(): void {
    const { motion, bodies } = this
    const at = new Float64Array(4)
    motion.centreOf(bodies[0], at, 0)
    motion.centreOf(bodies[1], at, 2)
    const [x, y] = [at[2] - at[0], at[3] - at[1]]
    const distance = Math.hypot(x, y)
    this.rows = bodies.map((body) => motion.rowOf(body))
    this.normal = [x / distance, y / distance]
    this.gap = distance - this.length
    this.total = 0
    for (const row of this.rows) motion.bodyRows.held[row] = 1
  }

  prepare(): void {
    const { data } = this.motion.bodyRows
    const [nx, ny] = this.normal
    let inverse = 0
    for (const row of this.rows) inverse += data[BODY * row + IX] * nx * nx + data[BODY * row + IY] * ny * ny
    this.mass = inverse > 0 ? 1 / inverse : 0
  }

  warmStart(): void {
    this.push(this.impulse)
  }

  solve(time: Float64Array, soft: boolean): void {
    const along = (at: number): number =>
      this.difference(at) * this.normal[0] + this.difference(at + 1) * this.normal[1]
    const bias = soft ? (0.2 * (this.gap + along(DX))) / time[SUBSTEP] : 0
    const change = -this.mass * (along(VX) + bias)
    this.impulse += change
    this.push(change)
  }

  moved(): void {}
  sum(): void {
    this.total += this.impulse
  }

  finish(): void {}

  readBack(): void {}

  joinIslands(islands: Islands): void {
    if (this.isDynamic) islands.join(...this.bodies)
  }

  private difference(at: number): number {
    const { data } = this.motion.bodyRows
    return data[BODY * this.rows[1] + at] - data[BODY * this.rows[0] + at]
  }

  private push(impulse: number): void {
    const { data } = this.motion.bodyRows
    for (const [side, row] of this.rows.entries()) {
      const sign = side === 0 ? -1 : 1
      data[BODY * row + VX] += sign * impulse * this.normal[0] * data[BODY * row + IX]
      data[BODY * row + VY] += sign * impulse * this.normal[1] * data[BODY * row + IY]
    }
  }
}

const layers = defineLayers(['rock', 'bob'])

function addRod(world: ReturnType<typeof createWorld>, a: { slot: number }, b: { slot: number }, length: number): Rod {
  const { motion } = world.kernel.forces!
  const { type } = world.population
  const isDynamic = type.data[a.slot] === DYNAMIC && type.data[b.slot] === DYNAMIC
  const rod = new Rod(motion, [a.slot, b.slot], isDynamic, length)
  motion.solver.kinds.unshift(rod)
  return rod
}

test('a bob on a rod swings, as long as the rod is, and pulls as hard as it must', () => {
  const world = createWorld({ layers, gravity: { x: 0, y: -10 } })
  const anchor = world.add({ type: 'static', at: { x: 0, y: 5 } })
  const bob = world.add({
    type: 'dynamic',
    at: { x: 2, y: 5 },
    mass: 3,
    colliders: [{ shape: circle(0.2), layer: 'bob' }],
  })
  const rod = addRod(world as never, anchor, bob, 2)
  let lowest = Infinity
  let most = 0
  for (let tick = 0; tick < 240; tick++) {
    world.step()
    const length = Math.hypot(bob.at.x, bob.at.y - 5)
    assert.ok(Math.abs(length - 2) < 0.02, `the rod is ${length} long in tick ${tick}`)
    lowest = Math.min(lowest, bob.at.y)
    most = Math.max(most, -rod.total * 60)
  }
  assert.ok(lowest < 3.01 && lowest > 2.98, `the lowest point is ${lowest}`)
  // From level, the pull at the lowest point is three times the weight.
  assert.ok(Math.abs(most - 90) < 2, `the greatest pull was ${most} N`)
})

test('a body at rest stays awake while what it is held by moves, and sleeps when nothing holds it', () => {
  const asleep = [true, false].map((joined) => {
    const world = createWorld({ layers, gravity: { x: 0, y: -10 } })
    world.add({ type: 'static', colliders: [{ shape: box(40, 1), layer: 'rock' }] })
    const crate = world.add({ type: 'dynamic', at: { x: 0, y: 1 }, colliders: [{ shape: box(1, 1), layer: 'bob' }] })
    const spinner = world.add({
      type: 'dynamic',
      at: { x: 8, y: 1 },
      gravityScale: 0,
      spin: 3,
      colliders: [{ shape: circle(0.4), layer: 'bob' }],
    })
    if (joined) addRod(world as never, crate, spinner, 8)
    for (let tick = 0; tick < 120; tick++) world.step()
    assert.ok(Math.abs(crate.at.x) < 0.01, `the crate went to ${crate.at.x}`)
    return crate.asleep
  })
  assert.deepEqual(asleep, [false, true])
})
