/** What is known of the body that is picked, whom it overlaps, and, of two, why they meet or not, with what would cure it. */
import { element } from '../shared/page.ts'
import { curesOf, explain } from './cures.ts'
import type { AnyBody, Run } from './run.ts'

const MARKS = { passed: '✓', refused: '✗', note: '·' } as const
const WORDS = { passed: 'passed', refused: 'refused', note: 'note' } as const

/** A number as it is shown. */
const number = (value: number): string => String(Number(value.toPrecision(5)))
const vector = (value: object): string => `(${Object.values(value).map(number).join(', ')})`

export class PickedPanel {
  private readonly first = element<HTMLSelectElement>('first')
  private readonly second = element<HTMLSelectElement>('second')
  private readonly pick: (body: AnyBody | null, isSecond: boolean) => void
  /** What was written last: nothing is written again that is there. */
  private readonly written = new Map<string, string>()

  constructor(pick: (body: AnyBody | null, isSecond: boolean) => void, run: () => Run) {
    this.pick = pick
    for (const [select, isSecond] of [
      [this.first, false],
      [this.second, true],
    ] as const) {
      select.addEventListener('change', () =>
        pick(select.value === '' ? null : run().body(Number(select.value)), isSecond),
      )
    }
  }

  draw(run: Run, picked: AnyBody | null, second: AnyBody | null): void {
    const bodies = run.bodies()
    const names = bodies.map((body) => `${body.serial} ${body}`).join('\n')
    if (this.isNew('names', names)) {
      for (const select of [this.first, this.second]) {
        select.replaceChildren(
          new Option('nothing', ''),
          ...bodies.map((body) => new Option(String(body), String(body.serial))),
        )
      }
    }
    this.first.value = picked === null ? '' : String(picked.serial)
    this.second.value = second === null ? '' : String(second.serial)
    this.second.disabled = picked === null
    this.drawWhy(run, picked, second)
    this.drawFacts(picked)
  }

  private drawWhy(run: Run, picked: AnyBody | null, second: AnyBody | null): void {
    const room = element('why')
    if (picked === null || second === null || picked === second) {
      if (this.isNew('why', '')) room.replaceChildren()
      return
    }
    const found = explain(run, picked, second)
    // Cures are tried out only where what they would cure has changed.
    if (!this.isNew('why', `${picked.serial} ${second.serial} ${run.edited} ${found}`)) return
    const verdict = line('p', found.summary(), 'verdict')
    const checks = document.createElement('ol')
    checks.className = 'checks'
    for (const { check, verdict: said, detail } of found.checks) {
      const item = document.createElement('li')
      item.className = said
      const mark = line('span', MARKS[said])
      mark.setAttribute('role', 'img')
      mark.setAttribute('aria-label', WORDS[said])
      item.append(mark, line('b', check), line('span', detail))
      checks.append(item)
    }
    const cures = document.createElement('div')
    cures.className = 'cures'
    for (const cure of curesOf(run, picked, second, found)) cures.append(button(cure.text, () => cure.apply()))
    const words = found.cures.map((text) => line('p', `→ ${text}`, 'faint'))
    room.replaceChildren(line('h2', `${found.a} and ${found.b}`), verdict, cures, ...words, checks)
  }

  private drawFacts(body: AnyBody | null): void {
    const room = element('facts')
    if (body === null) {
      if (this.isNew('facts', ''))
        room.replaceChildren(line('p', 'Press a body in the picture, or choose one above.', 'faint'))
      return
    }
    const rows = factsOf(body)
    const overlaps = body.alive ? overlapsOf(body) : []
    const joints = body.alive ? body.joints().map((joint) => String(joint)) : []
    const text = JSON.stringify([body.serial, rows, overlaps.map(([other, how]) => [other.serial, how]), joints])
    if (!this.isNew('facts', text)) return
    const list = document.createElement('dl')
    list.className = 'facts'
    for (const [name, value] of rows) list.append(line('dt', name), line('dd', value))
    const others = document.createElement('ul')
    others.className = 'plain'
    for (const [other, how] of overlaps) {
      const item = document.createElement('li')
      const link = button(String(other), () => this.pick(other, true))
      link.className = 'link'
      item.append(link, ` ${how}`)
      others.append(item)
    }
    room.replaceChildren(
      line('h2', String(body)),
      list,
      line('h2', overlaps.length === 0 ? 'It overlaps nobody' : 'It overlaps'),
      others,
      ...(joints.length === 0 ? [] : [line('h2', 'Joints'), ...joints.map((each) => line('p', each))]),
    )
  }

  private isNew(what: string, text: string): boolean {
    if (this.written.get(what) === text) return false
    this.written.set(what, text)
    return true
  }
}

function factsOf(body: AnyBody): [string, string][] {
  if (!body.alive) return [['alive', 'no: it was removed']]
  const { velocity, spin } = body
  const turn = 'angle' in body ? `${number(body.angle)} rad` : vector(body.rotation)
  const state = [body.type, ...(body.enabled ? [] : ['switched off']), ...(body.asleep ? ['asleep'] : [])].join(', ')
  const rows: [string, string][] = [
    ['is', state],
    ['at', `${vector(body.at)} m`],
    ['turned', turn],
  ]
  if (body.type !== 'static') {
    rows.push(['velocity', `${vector(velocity)} m/s`])
    rows.push(['spin', typeof spin === 'number' ? `${number(spin)} rad/s` : `${vector(spin)} rad/s`])
  }
  if (body.type === 'dynamic') {
    rows.push(['mass', `${number(body.mass)} kg`], ['gravity', `${number(body.gravityScale)} of the world's`])
    rows.push(['swept', body.sweep])
  }
  for (const collider of body.colliders) {
    const { layer, shape, sensor, enabled, tags, index } = collider
    const layers = typeof layer === 'string' ? layer : layer.join(', ')
    const words = [shape.kind, `on ${layers}`, ...(sensor ? ['sensor'] : []), ...(enabled ? [] : ['switched off'])]
    if (tags.length > 0) words.push(`tags ${tags.join(', ')}`)
    rows.push([`collider ${index}`, words.join(', ')])
  }
  return rows
}

/** Whom a body overlaps or touches, and how. */
function overlapsOf(body: AnyBody): [AnyBody, string][] {
  const found = new Map<AnyBody, string>()
  for (const { other, response } of body.overlapping()) {
    const { body: whom } = other as { body: AnyBody }
    if (found.get(whom) !== 'solid') found.set(whom, response)
  }
  return [...found]
}

function line(tag: string, text: string, className = ''): HTMLElement {
  const element = document.createElement(tag)
  element.textContent = text
  if (className !== '') element.className = className
  return element
}

function button(text: string, press: () => void): HTMLButtonElement {
  const element = document.createElement('button')
  element.type = 'button'
  element.textContent = text
  element.addEventListener('click', press)
  return element
}
