/** Everything that is checked before tests run, as many at once as there are cores: `npm run checks`. What each says is shown when it is through. */
import { spawn } from 'node:child_process'
import { availableParallelism } from 'node:os'

const CHECKS = ['types', 'lint', 'imports', 'dead', 'size -- --check']

/** Runs an npm script; whether it was content. */
function check(words: string): Promise<boolean> {
  return new Promise((resolve) => {
    const child = spawn('npm', ['run', '--silent', ...words.split(' ')], { stdio: ['ignore', 'pipe', 'pipe'] })
    let said = ''
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => (said += data))
    child.on('error', (error) => (said += error.message))
    child.on('close', (code) => {
      console.log(`${code === 0 ? 'ok' : 'FAILED'}  ${words}${said.trim() === '' ? '' : `\n${said.trimEnd()}`}`)
      resolve(code === 0)
    })
  })
}

const waiting = [...CHECKS]
let content = true
await Promise.all(
  Array.from({ length: availableParallelism() }, async () => {
    for (let next = waiting.shift(); next !== undefined; next = waiting.shift())
      content = (await check(next)) && content
  }),
)
if (!content) process.exitCode = 1
