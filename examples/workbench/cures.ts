/** What would let two bodies meet or be told, as changes that can be made: each was tried, and lets the check pass that refused. */
import type { Explanation } from 'keen-sentry'
import type { AnyBody, Run } from './run.ts'

/** A change to the world of a run. */
export interface Cure {
  readonly text: string
  /** Makes it, as an edit of the run. */
  apply(): void
}

type Change = readonly [text: string, change: (a: AnyBody, b: AnyBody) => void]

/** Why two bodies meet or do not. */
export function explain(run: Run, a: AnyBody, b: AnyBody): Explanation {
  return run.player.world.explain(a as never, b as never)
}

/** The changes that let the check pass that refuses two bodies; none where there is nothing to press. */
export function curesOf(run: Run, a: AnyBody, b: AnyBody, explanation: Explanation): Cure[] {
  const refused = explanation.refusedBy
  if (refused === 'watched') return [{ text: `Watch ${a} and ${b}`, apply: () => run.watch(a, b) }]
  const [one, other] = [a.serial, b.serial]
  return changesFor(run, a, b, explanation)
    .filter(([, change]) =>
      run.trial(() => {
        change(a, b)
        return isBetter(explanation, explain(run, a, b))
      }),
    )
    .map(([text, change]) => ({
      text,
      apply: () =>
        run.edit(() => {
          const first = run.body(one)
          const second = run.body(other)
          if (first !== null && second !== null) change(first, second)
        }),
    }))
}

/** Whether a change lets pass what refused; or, where nothing did, lets the two press on each other. */
function isBetter(before: Explanation, after: Explanation): boolean {
  if (before.refusedBy === null) return before.response !== 'solid' && after.response === 'solid'
  const refused = after.checks.some(({ check, verdict }) => check === before.refusedBy && verdict === 'refused')
  return !refused && after.checks.length >= before.checks.length
}

function* candidates(run: Run, a: AnyBody, b: AnyBody, { refusedBy, checks }: Explanation): Generator<Change> {
  const layers = run.player.world.layers
  const notes = checks.flatMap(({ check, cure }) => (cure === null ? [] : check))
  if (refusedBy === 'enabled') {
    yield [`Switch ${[a, b].filter(isOff).join(' and ')} on`, (x, y) => [x, y].forEach(switchOn)]
  }
  if (refusedBy === 'both-static') {
    yield [`Make ${a} kinematic`, (x) => void (x.type = 'kinematic')]
    yield [`Make ${b} kinematic`, (_, y) => void (y.type = 'kinematic')]
  }
  if (refusedBy === 'ignored') {
    yield [
      `Let ${a} and ${b} not ignore each other`,
      (x, y) => {
        x.unignore(y as never)
        for (const c of x.colliders) for (const d of y.colliders) c.unignore(d as never)
      },
    ]
  }
  if (refusedBy === 'masks') {
    for (const [p, q] of layerPairs(a, b, layers)) {
      for (const response of ['solid', 'sense'] as const) {
        yield [`Set ${p} and ${q} to ${response}`, () => run.player.world.setPair(p as never, q as never, response)]
      }
    }
  }
  if (notes.includes('sensor') || notes.includes('masks')) {
    for (const [text, who] of [
      [a, 0],
      [b, 1],
    ] as const) {
      if (!text.colliders.some(({ sensor }) => sensor)) continue
      yield [`Make ${text} no sensor`, (...both) => both[who].colliders.forEach((each) => void (each.sensor = false))]
    }
    for (const [p, q] of layerPairs(a, b, layers)) {
      yield [`Set ${p} and ${q} to solid`, () => run.player.world.setPair(p as never, q as never, 'solid')]
    }
  }
}

function changesFor(run: Run, a: AnyBody, b: AnyBody, explanation: Explanation): Change[] {
  const found = new Map<string, Change>()
  for (const change of candidates(run, a, b, explanation)) found.set(change[0], change)
  return [...found.values()]
}

/** The pairs of layers that two bodies are on. */
function layerPairs(a: AnyBody, b: AnyBody, layers: { names(mask: number): string[] }): [string, string][] {
  const of = (body: AnyBody): string[] => [...new Set(body.colliders.flatMap((each) => layers.names(each.layerBits)))]
  return of(a).flatMap((p) => of(b).map((q): [string, string] => [p, q]))
}

const isOff = (body: AnyBody): boolean => !body.enabled || body.colliders.some(({ enabled }) => !enabled)

function switchOn(body: AnyBody): void {
  body.enabled = true
  for (const collider of body.colliders) collider.enabled = true
}
