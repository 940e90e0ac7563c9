/** A busy 2D world under forces: a floor of tiles, a one-way ledge, a turning belt, and sixty bodies thrown onto them. */
import fc from 'fast-check'
import { type Body2, box, circle, createWorld, defineLayers, type KindsOf, type World2 } from '../../src/2d/index.ts'
import { askingShape } from './arbitrary.ts'
import type { Random } from './random.ts'

type Piled = KindsOf<'rock' | 'crate' | 'ledge', never, unknown>

const SEED = 11

/** @param unit the world's unit: the bodies keep their sizes, so that at 64 they are grains in a wide room */
export function pileWorld(random: Random, unit: number): World2<Piled> {
  const layers = defineLayers(['rock', 'crate', 'ledge'])
  const shapes = fc.sample(askingShape, { seed: SEED, numRuns: 200 })
  const world = createWorld({ layers, unit, burst: unit === 64 })
  const at = (x: number, y: number) => ({ x: x * unit, y: y * unit })
  const put = (type: 'static' | 'kinematic', x: number, y: number, wide: number, more: object = {}): Body2<Piled> => {
    const shape = box(wide * unit, 0.5 * unit)
    return world.add({ type, at: at(x, y), colliders: [{ shape, layer: 'rock', ...more }] })
  }
  for (let i = 0; i < 12; i++) put('static', i, 0, 1)
  put('static', -0.5, 4, 0.5).teleport({ at: at(-0.5, 2), angle: Math.PI / 2 })
  put('static', 5, 3, 3, { layer: 'ledge', oneWay: { x: 0, y: 1 } })
  put('kinematic', 9, 2, 2, { surfaceSpeed: 2 * unit }).spin = 0.5
  world.decide('crate', 'ledge', (pair) => (pair.approach.x > 0 ? 'pass' : 'solid'))
  world.watch('crate', '*', { begin() {}, impact() {} }, { over: { impulse: unit } })
  for (let i = 0; i < 60; i++) {
    const shape = random.pick(shapes)
    world.add({
      type: 'dynamic',
      at: at(random.between(0, 11), 1 + i / 3),
      angle: random.between(-3, 3),
      velocity: at(random.between(-3, 3), i % 9 === 0 ? -200 : 0),
      sweep: random.pick(['off', 'statics', 'all'] as const),
      colliders: [
        {
          shape: shape.kind === 'segment' ? circle(0.3) : shape,
          layer: 'crate',
          friction: random.next(),
          restitution: random.next() / 2,
        },
      ],
    })
  }
  return world
}
