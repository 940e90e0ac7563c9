/** The workbench: any scene, what the layer sees of it, and why. */
import { fixedClock } from 'keen-sentry'
import { OVERLAYS, type Overlays } from 'keen-sentry/draw'
import type { LogLine } from 'keen-sentry/record'
import { TimePlot } from '../shared/gauges.ts'
import { element, theme } from '../shared/page.ts'
import { showLog, showProblems } from './findings.ts'
import { HappenedPanel } from './happened.ts'
import { LayersPanel } from './layers.ts'
import { DEMOS, type Opened, openDemo, openFiles } from './open.ts'
import { PickedPanel } from './picked.ts'
import { type AnyBody, type Happening, Run } from './run.ts'
import type { Ears, Stage } from './stage.ts'
import { Stage2 } from './stage2.ts'
import { tabs } from './tabs.ts'
import { Timeline } from './timeline.ts'

const OVERLAY_TEXTS: Readonly<Record<(typeof OVERLAYS)[number] | 'names' | 'rays', string>> = {
  names: 'names',
  touches: 'contacts: normals and impulses',
  joints: 'joints',
  loads: 'forces of joints',
  rays: 'rays',
  bounds: 'bounds',
  tree: 'tree of bounds',
  velocities: 'velocities',
  ways: 'ways: of the last tick, of what travels',
  asleep: 'what sleeps is faint',
}
/** Milliseconds between two looks at what is picked, while the world runs. */
const LOOK = 150
/** Milliseconds of a frame that the way to another tick may take. */
const WAY = 30
/** Lengths that an arrow key moves what is picked. */
const NUDGE = 0.1

const room = element('stage')
const select = element<HTMLSelectElement>('scene')
const said = element('said')
const isLight = matchMedia('(prefers-color-scheme: light)')

let opened: Opened
let run: Run
let stage: Stage | null = null
let clock = fixedClock(60)
let playing = false
let dirty = true
let picked: number | null = null
let second: number | null = null
let last = 0
let looked = 0
/** The tick that is gone to, and what is done there. */
let target: { readonly tick: number; readonly then: () => void } | null = null
/** Counts what was asked to be opened: what comes late is not shown. */
let asked = 0
let log: readonly LogLine[] | null = null
const shown: Record<string, boolean> = { names: true, touches: true, joints: true, rays: true }

const changed = (): void => {
  dirty = true
}
const ears: Ears = {
  pick: (body, isSecond) => pick(body, isSecond || element('pair').getAttribute('aria-pressed') === 'true'),
  get playing() {
    return playing
  },
  changed,
}

const choosePanel = tabs(document.querySelector('[role=tablist]')!, changed)
const pickedPanel = new PickedPanel(pick, () => run)
const layersPanel = new LayersPanel(changed)
const happened = new HappenedPanel((happening) => goTo(happening), changed)
const plots = {
  spent: new TimePlot('plot-spent', [{ stroke: '#6cc4f5' }]),
  pairs: new TimePlot('plot-pairs', [{ stroke: '#2fb68a' }]),
  impulse: new TimePlot('plot-impulse', [{ stroke: '#ff8f70' }]),
}
let timeline: Timeline | null = null

function pick(body: AnyBody | null, isSecond: boolean): void {
  if (isSecond && picked !== null && body?.serial !== picked) {
    second = body?.serial ?? null
    element('pair').setAttribute('aria-pressed', 'false')
  } else {
    picked = body?.serial ?? null
    second = null
  }
  if (body !== null) choosePanel('picked')
  changed()
}

function say(text: string): void {
  said.textContent = text
}

function setPlaying(value: boolean): void {
  target = null
  playing = value && !run.ended
  element('play').textContent = playing ? 'Pause' : 'Play'
  clock = fixedClock(run.player.world.rate)
  changed()
}

function step(): void {
  if (run.ended) {
    setPlaying(false)
    return
  }
  stage?.beforeStep()
  run.step()
  changed()
}

function seek(tick: number, then: () => void = () => {}): void {
  setPlaying(false)
  target = { tick, then }
}

function goTo({ tick, names }: Happening): void {
  seek(tick, () => {
    const [one, other] = names.map((name) => run.bodies().find((body) => String(body) === name) ?? null)
    picked = one?.serial ?? null
    second = other?.serial ?? null
  })
}

/** Shows a scene from its start. */
async function show(next: Opened, turn: number): Promise<void> {
  const made = new Run(next.scene, next.models, changed)
  // The picture of 3D brings its renderer along, and is loaded with the first scene of 3D.
  const Picture = next.scene.dimension === '2d' ? Stage2 : (await import('./stage3.ts')).Stage3
  if (turn !== asked) return
  stage?.close()
  opened = next
  run = made
  picked = second = null
  log = null
  stage = new Picture(room, run, ears)
  timeline ??= new Timeline(run, seek)
  timeline.show(run)
  layersPanel.show(run)
  showProblems(next.problems, run, (name) => pick(run.player.world.find(name), false))
  element('about').textContent = next.scene.about ?? ''
  setPlaying(false)
}

function restart(): void {
  const beside = log
  void show(opened, ++asked).then(() => {
    if (beside !== null) openLog(beside)
  })
}

function openLog(lines: readonly LogLine[]): void {
  log = lines
  timeline!.beside(lines)
  choosePanel('findings')
  changed()
}

async function openNamed(name: string): Promise<void> {
  const turn = ++asked
  const demo = DEMOS.includes(name) ? name : DEMOS[0]
  select.value = demo
  try {
    await show(await openDemo(demo), turn)
    if (turn === asked) say('')
  } catch (error) {
    say((error as Error).message)
  }
}

async function take(files: readonly File[]): Promise<void> {
  if (files.length === 0) return
  const turn = ++asked
  try {
    const found = await openFiles(files)
    if (turn !== asked) return
    if (found.opened !== null) {
      await show(found.opened, turn)
      select.value = ''
    }
    if (found.log !== null) openLog(found.log)
    say(`opened ${files.map(({ name }) => name).join(', ')}`)
  } catch (error) {
    say((error as Error).message)
  }
}

function drawPlots(): void {
  const { dt } = run.player.world
  for (const [name, plot] of Object.entries(plots) as [keyof typeof plots, TimePlot][]) {
    const values = run.measures[name].slice(0, run.tick)
    plot.set(
      values.map((_, i) => (i + 1) * dt),
      values,
    )
  }
}

function draw(): void {
  const { world } = run.player
  const body = picked === null ? null : run.body(picked)
  const other = second === null ? null : run.body(second)
  stage!.canvas.dataset['picked'] = picked === null ? '' : String(picked)
  stage!.draw({
    picked: body,
    second: other,
    layers: layersPanel.shown,
    show: Object.fromEntries(OVERLAYS.map((name) => [name, shown[name] ?? false])) as Overlays,
    names: shown['names'],
    rays: shown['rays'],
    alpha: playing ? clock.alpha : 1,
    theme: theme(),
  })
  element('clock').textContent = `tick ${run.tick} · ${world.time.toFixed(2)} s`
  timeline!.draw()
  element<HTMLButtonElement>('back').disabled = run.tick === 0
  element<HTMLButtonElement>('step').disabled = element<HTMLButtonElement>('play').disabled = run.ended
  element<HTMLButtonElement>('restart').disabled = run.tick === 0 && !run.edited
  element<HTMLButtonElement>('pair').disabled = picked === null
}

function drawPanels(): void {
  if (!element('picked').hidden) {
    pickedPanel.draw(run, picked === null ? null : run.body(picked), second === null ? null : run.body(second))
  }
  if (!element('happened').hidden) happened.draw(run)
  if (!element('layers').hidden) layersPanel.draw()
  if (!element('plots').hidden) drawPlots()
  if (log !== null) showLog(run, log)
}

function frame(now: number): void {
  requestAnimationFrame(frame)
  if (playing && last > 0)
    clock.advance(((now - last) / 1000) * Number(element<HTMLSelectElement>('speed').value), step)
  last = now
  if (target !== null && stage !== null) {
    const { tick, then } = target
    if (run.approach(tick, WAY)) {
      target = null
      then()
    }
    changed()
  }
  if (stage !== null && (dirty || playing)) {
    const panels = (!playing && target === null) || now - looked > LOOK
    dirty = false
    draw()
    if (panels) {
      looked = now
      drawPanels()
    }
  }
}

/** Picks the body that comes so many after the one that is picked. */
function pickNext(by: number, isSecond: boolean): void {
  const bodies = run.bodies()
  if (bodies.length < (isSecond ? 2 : 1)) return
  const now = bodies.findIndex(({ serial }) => serial === (isSecond ? (second ?? picked) : picked))
  let next = bodies[(now + by + bodies.length) % bodies.length]
  if (isSecond && next.serial === picked) next = bodies[(now + 2 * by + bodies.length) % bodies.length]
  pick(next, isSecond)
  say(`${isSecond ? 'asked about' : 'picked'} ${next}`)
}

function nudge(event: KeyboardEvent): boolean {
  const way = {
    ArrowLeft: [-1, 0, 0],
    ArrowRight: [1, 0, 0],
    ArrowUp: [0, 1, 0],
    ArrowDown: [0, -1, 0],
    PageUp: [0, 0, -1],
    PageDown: [0, 0, 1],
  }[event.key]
  const body = picked === null ? null : run.body(picked)
  if (way === undefined || body === null) return false
  const by = NUDGE * (run.scene.unit ?? 1) * (event.shiftKey ? 10 : 1)
  stage!.nudge(body, way[0] * by, way[1] * by, way[2] * by)
  return true
}

const KEYS: Readonly<Record<string, () => void>> = {
  ' ': () => setPlaying(!playing),
  '.': () => {
    setPlaying(false)
    step()
  },
  ',': () => seek((target?.tick ?? run.tick) - 1),
  '+': () => stage?.zoom(1.25),
  '=': () => stage?.zoom(1.25),
  '-': () => stage?.zoom(0.8),
  '0': () => stage?.fit(),
  n: () => pickNext(1, false),
  p: () => pickNext(-1, false),
  x: () => {
    if (picked !== null) pickNext(1, true)
  },
}

document.addEventListener('keydown', (event) => {
  const target = event.target as HTMLElement
  if (event.ctrlKey || event.metaKey || event.altKey || stage === null) return
  const isField = target.matches('input, select, button, a, [role=tabpanel]')
  // A field has its own use for keys; only the picture moves what is picked.
  const isDone = target === stage.canvas && nudge(event)
  const act = isField ? undefined : KEYS[event.key.toLowerCase()]
  if (!isDone && act === undefined) return
  act?.()
  changed()
  event.preventDefault()
})

const press = (id: string, act: () => void): void => element(id).addEventListener('click', act)
press('play', () => setPlaying(!playing))
press('step', KEYS['.'])
press('back', KEYS[','])
press('restart', restart)
press('nearer', KEYS['+'])
press('farther', KEYS['-'])
press('fit', KEYS['0'])
press('pair', () => {
  const button = element('pair')
  const isOn = button.getAttribute('aria-pressed') !== 'true'
  button.setAttribute('aria-pressed', String(isOn))
  say(isOn ? 'Press the second body.' : '')
})

for (const [name, text] of Object.entries(OVERLAY_TEXTS)) {
  const label = document.createElement('label')
  const box = document.createElement('input')
  box.type = 'checkbox'
  box.checked = shown[name] ?? false
  box.dataset['overlay'] = name
  box.addEventListener('change', () => {
    shown[name] = box.checked
    changed()
  })
  label.append(box, text)
  element('overlays').append(label)
}

select.append(...DEMOS.map((name) => new Option(name.replaceAll('-', ' '), name)))
select.addEventListener('change', () => {
  // After a file the same scene may be chosen again.
  if (location.hash === `#${select.value}`) void openNamed(select.value)
  else location.hash = select.value
})
addEventListener('hashchange', () => void openNamed(location.hash.slice(1)))
const files = element<HTMLInputElement>('files')
files.addEventListener('change', () => void take([...(files.files ?? [])]))
for (const kind of ['dragover', 'dragleave', 'drop'] as const) {
  document.addEventListener(kind, (event) => {
    event.preventDefault()
    room.classList.toggle('dropping', kind === 'dragover')
    if (kind === 'drop') void take([...(event.dataTransfer?.files ?? [])])
  })
}
isLight.addEventListener('change', changed)
new ResizeObserver(changed).observe(room)

await openNamed(location.hash === '' ? 'lantern-reef' : location.hash.slice(1))
requestAnimationFrame(frame)
