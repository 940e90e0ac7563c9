/** A Redis of one's own, for the example and its test: Debian's redis-server, in memory only, ended with the program that began it. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process'
import { createServer } from 'node:net'
import { Redis } from 'ioredis'

/** Whether there is one to start. */
export function hasRedis(): boolean {
  return spawnSync('redis-server', ['--version']).status === 0
}

export async function startRedis(): Promise<{ url: string; stop(): Promise<void> }> {
  const port = await freePort()
  const child: ChildProcess = spawn(
    'redis-server',
    ['--port', String(port), '--bind', '127.0.0.1', '--save', '', '--appendonly', 'no'],
    { stdio: 'ignore' },
  )
  const url = `redis://127.0.0.1:${port}`
  const redis = new Redis(url, { retryStrategy: () => 50, maxRetriesPerRequest: null, lazyConnect: false })
  redis.on('error', () => {})
  await redis.ping()
  redis.disconnect()
  return {
    url,
    stop: () =>
      new Promise((resolve) => {
        child.once('exit', () => resolve())
        child.kill('SIGKILL')
      }),
  }
}

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const server = createServer()
    server.once('error', reject)
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number }
      server.close(() => resolve(port))
    })
  })
}
