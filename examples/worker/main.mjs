/**
 * A mesh of the sea floor is built once, in shared memory. A worker takes it without a copy and casts a fan of rays; the main thread finds
 * the same. Needs `npm install keen-sentry`; run it with `node main.mjs`.
 */
import { once } from 'node:events'
import { Worker } from 'node:worker_threads'
import { mesh, shareMesh } from 'keen-sentry/3d'
import { fan } from './fan.mjs'

const CELLS = 10
const positions = []
const indices = []
for (let i = 0; i <= CELLS; i++) for (let k = 0; k <= CELLS; k++) positions.push(4 * i - 20, (i * k) % 3, 4 * k - 20)
for (let i = 0; i < CELLS; i++) {
  for (let k = 0; k < CELLS; k++) {
    const corner = (CELLS + 1) * i + k
    const across = corner + CELLS + 1
    indices.push(corner, corner + 1, across, across, corner + 1, across + 1)
  }
}
const floor = mesh({ positions, indices, shared: true })

const worker = new Worker(new URL('./worker.mjs', import.meta.url), { workerData: shareMesh(floor) })
const [found] = await once(worker, 'message')
const here = fan(floor)
console.log(`worker: ${found.filter((fraction) => fraction >= 0).length} of ${found.length} rays meet the sea floor`)
console.log(
  `main thread: ${here.every((fraction, i) => fraction === found[i]) ? 'the same, to the bit' : 'not the same'}`,
)
