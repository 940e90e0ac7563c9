/** The command as a user runs it, bundled once from the sources: as a process of its own, or in a thread that stays warm. */
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { MessageChannel, receiveMessageOnPort, Worker } from 'node:worker_threads'
import { build } from 'esbuild'

export const root = fileURLToPath(new URL('../..', import.meta.url))
// Colours are for terminals; without them the words can be matched.
export const PLAIN = { ...process.env, NO_COLOR: '1' }
const OUT = join(root, 'scenes-package/out/cli')
/** What Node is given to run it. */
export const COMMAND = join(OUT, 'main.js')
/** Milliseconds that a command may take. */
const PATIENCE = 240_000

export interface Said {
  readonly code: number | null
  readonly out: string
  readonly err: string
}

let worker: Worker | null = null
const answered = new Int32Array(new SharedArrayBuffer(4))
const { port1, port2 } = new MessageChannel()

/** Bundles the command. */
export async function open(): Promise<void> {
  const rooms = ['core', '2d', '3d', '2d/kinematic', '3d/kinematic', 'record', 'draw', 'internal']
  await build({
    absWorkingDir: root,
    entryPoints: { main: 'scenes-package/src/cli/main.ts', warm: 'test/helpers/warm-command.ts' },
    outdir: OUT,
    bundle: true,
    platform: 'node',
    format: 'esm',
    // Packages that are CommonJS ask for `require`.
    banner: {
      js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url)",
    },
    alias: Object.fromEntries(
      rooms.map((room) => [
        room === 'core' ? 'keen-sentry' : `keen-sentry/${room}`,
        join(root, `src/${room}/index.ts`),
      ]),
    ),
  })
  worker = new Worker(join(OUT, 'warm.js'), {
    execArgv: [],
    env: PLAIN,
    workerData: { port: port2, answered },
    transferList: [port2],
  })
}

/** Ends the thread. */
export async function close(): Promise<void> {
  await worker?.terminate()
  port1.close()
}

/** What the command says to words, in the thread that stays warm: a tenth of the time of a process. */
export function keen(...words: string[]): Said {
  return keenAt(null, ...words)
}

/** The same on a terminal so many characters wide. */
export function keenAt(width: number | null, ...words: string[]): Said {
  Atomics.store(answered, 0, 0)
  port1.postMessage({ words, width })
  if (Atomics.wait(answered, 0, 0, PATIENCE) === 'timed-out') throw new Error(`no answer to ${words.join(' ')}`)
  return receiveMessageOnPort(port1)!.message as Said
}

/** The same as a process of its own, with a terminal so many characters wide, and something on standard input. */
export function keenIn(width: number, input: string, ...words: string[]): Said {
  const env = { ...PLAIN, COLUMNS: String(width) }
  const { status, stdout, stderr } = spawnSync(process.execPath, [COMMAND, ...words], {
    cwd: root,
    encoding: 'utf8',
    env,
    input,
  })
  return { code: status, out: stdout, err: stderr }
}
