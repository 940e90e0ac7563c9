/** What check says of the file of a scene, and where a run parts from an event log. */
import { compareLogs, headerLine, type LogLine } from 'keen-sentry/record'
import type { Problem } from 'keen-sentry-scenes'
import { element } from '../shared/page.ts'
import type { Run } from './run.ts'

/** Lists what check found; a press on the place goes to the body. */
export function showProblems(problems: readonly Problem[], run: Run, pick: (name: string) => void): void {
  const list = element('problems')
  if (problems.length === 0) {
    const item = document.createElement('li')
    item.textContent = 'Nothing: no error, no warning, no hint.'
    list.replaceChildren(item)
    return
  }
  list.replaceChildren(
    ...problems.map(({ level, place, message, cure }) => {
      const item = document.createElement('li')
      const kind = document.createElement('b')
      kind.className = level
      kind.textContent = `${level} `
      item.append(kind)
      const name = bodyOf(run, place)
      if (name === null) item.append(place)
      else {
        const link = document.createElement('button')
        link.type = 'button'
        link.className = 'link'
        link.textContent = `${place} (${name})`
        link.addEventListener('click', () => pick(name))
        item.append(link)
      }
      item.append(`: ${message}${cure === undefined ? '' : ` → ${cure}`}`)
      return item
    }),
  )
}

/** The name of the body that a place in a file is of. */
function bodyOf(run: Run, place: string): string | null {
  const index = /^bodies\[(\d+)\]/.exec(place)?.[1]
  return index === undefined ? null : (run.scene.bodies[Number(index)]?.name ?? null)
}

/** Says how far a run and an event log agree, as far as the run has come. */
export function showLog(run: Run, log: readonly LogLine[]): void {
  const ticks = run.furthest
  // Of the first and the last lines nothing is compared: a log of a longer run begins alike.
  const header = headerLine(run.scene.name, '', run.scene.dimension, run.player.world.rate, 0)
  const until = (lines: readonly LogLine[]): LogLine[] => [
    header,
    ...lines.filter(
      (line) => 'tick' in line && 'kind' in line && line.kind !== 'state' && line.tick >= 1 && line.tick <= ticks,
    ),
  ]
  const parted = compareLogs(until(run.lines), until(log))
  const said =
    ticks === 0
      ? 'The log is open. Play the scene: it is compared tick by tick.'
      : parted === null
        ? `The run and the log are the same up to tick ${ticks}.`
        : `They part in tick ${parted.tick}: ${parted.fields.length > 0 ? `${parted.fields.join(', ')} differ` : parted.a === null ? 'only the log has a line there' : parted.b === null ? 'only the run has a line there' : 'different things happened'}.`
  if (element('log').textContent !== said) element('log').textContent = said
}
