/** A scene of five thousand shapes: a shoal that drifts over a reef of stones. */
import type { Scene2 } from 'keen-sentry-scenes'

const ACROSS = 100
const ROWS = 50

/** Made up by a rule, so that it is the same each time. */
export function crowd(): Scene2 {
  const bodies: Scene2['bodies'] = [
    {
      name: 'bed',
      type: 'static',
      colliders: [{ layer: 'rock', shape: { kind: 'halfspace', normal: [0, 1], offset: 0 } }],
    },
  ]
  let state = 7
  const random = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 2 ** 32
  }
  for (let row = 0; row < ROWS; row++) {
    for (let column = 0; column < ACROSS; column++) {
      const at: [number, number] = [2 * column + random(), 2 * row + 1.5 + random()]
      const number = ROWS * column + row + 1
      if (number % 2 === 0) {
        const points: [number, number][] = [0, 1, 2, 3, 4].map((i) => {
          const angle = (2 * Math.PI * (i + 0.6 * random())) / 5
          return [0.6 * Math.cos(angle), 0.6 * Math.sin(angle)]
        })
        bodies.push({
          name: `stone ${number}`,
          type: 'static',
          at,
          colliders: [{ layer: 'rock', shape: { kind: 'polygon', points } }],
        })
      } else {
        const end: [number, number] = [at[0] + 8 * (random() - 0.5), Math.max(1, at[1] + 4 * (random() - 0.5))]
        bodies.push({
          name: `fish ${number}`,
          type: 'kinematic',
          path: {
            loop: true,
            points: [
              { time: 0, at },
              { time: 2 + 3 * random(), at: end },
              { time: 8, at },
            ],
          },
          colliders: [{ layer: 'fish', shape: { kind: 'capsule', a: [-0.25, 0], b: [0.25, 0], radius: 0.2 } }],
        })
      }
    }
  }
  return {
    format: 'keen-sentry-scene',
    version: 1,
    dimension: '2d',
    name: 'Five thousand',
    about: 'Half of them stones, half of them fish that drift to and fro, every one with every other.',
    layers: { names: ['rock', 'fish'], otherwise: 'pass', pairs: [['fish', 'rock', 'sense']] },
    ticks: 600,
    bodies,
    watches: [{ name: 'shy', a: { body: 'fish 1' }, b: 'rock' }],
  } as Scene2
}
