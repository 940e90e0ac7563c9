/** Runs recipes one after the other in one process, and prints what each printed as one JSON object. */
import { pathToFileURL } from 'node:url'
import { format } from 'node:util'

const printed: Record<string, string> = {}
const { log } = console
for (const path of process.argv.slice(2)) {
  printed[path] = ''
  console.log = (...values: unknown[]) => {
    printed[path] += `${format(...values)}\n`
  }
  await import(pathToFileURL(path).href)
}
log(JSON.stringify(printed))
