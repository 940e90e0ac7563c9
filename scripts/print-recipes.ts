/**
 * Runs recipes one after the other in one process, and prints as one JSON object what each printed, and what its worlds would advise. Every
 * world is made with `advise`, though no recipe asks for it.
 */
import { pathToFileURL } from 'node:url'
import { format } from 'node:util'
import { World2 } from '../src/2d/index.ts'
import { World3 } from '../src/3d/index.ts'

interface Stepped {
  advice(): readonly { readonly text: string; readonly cure: string }[]
  step(...given: unknown[]): unknown
}

const worlds = new Set<Stepped>()
for (const { prototype } of [World2, World3]) {
  const world = prototype as unknown as Stepped
  const { step } = world
  world.step = function (this: Stepped, ...given: unknown[]) {
    worlds.add(this)
    return step.apply(this, given)
  }
}
// Options that do not say otherwise have it from here.
Object.defineProperty(Object.prototype, 'advise', { value: true, enumerable: false })

const printed: Record<string, { printed: string; advice: string[] }> = {}
const { log } = console
for (const path of process.argv.slice(2)) {
  let text = ''
  console.log = (...values: unknown[]) => {
    text += `${format(...values)}\n`
  }
  worlds.clear()
  await import(pathToFileURL(path).href)
  const advice = [...worlds].flatMap((world) => world.advice().map((each) => `${each.text} => ${each.cure}`))
  printed[path] = { printed: text, advice }
}
log(JSON.stringify(printed))
