/** The worker of `main.mjs`: the mesh comes as shared memory. */
import { parentPort, workerData } from 'node:worker_threads'
import { sharedMesh } from 'keen-sentry/3d'
import { fan } from './fan.mjs'

parentPort.postMessage(fan(sharedMesh(workerData)))
