/** The command over and over in one thread, whose code is warm after the first time. Bundled with the command, and started as a worker. */
import { type MessagePort, workerData } from 'node:worker_threads'
import { run } from '../../scenes-package/src/cli/program.ts'

const { port, answered } = workerData as { port: MessagePort; answered: Int32Array }
const said = { out: '', err: '' }
for (const [stream, name] of [
  [process.stdout, 'out'],
  [process.stderr, 'err'],
] as const)
  stream.write = (text: unknown) => {
    said[name] += String(text)
    return true
  }

port.on('message', async ({ words, width }: { words: readonly string[]; width: number | null }) => {
  Object.assign(said, { out: '', err: '' })
  process.exitCode = 0
  if (width === null) delete process.env['COLUMNS']
  else process.env['COLUMNS'] = String(width)
  await run(words)
  port.postMessage({ code: process.exitCode, ...said })
  Atomics.store(answered, 0, 1)
  Atomics.notify(answered, 0)
})
