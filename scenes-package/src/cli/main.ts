#!/usr/bin/env node
/** The command `keen-sentry`, as a process of its own. */
import { FAILED } from './failure.ts'
import { run } from './program.ts'

// A reader that has seen enough closes the pipe: that is no failure.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0)
  process.stderr.write(`keen-sentry: cannot print: ${error.message}\n`)
  process.exit(FAILED)
})

await run(process.argv.slice(2))
