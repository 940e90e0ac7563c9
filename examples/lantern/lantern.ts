/** The game on a page: frames, screens, keys and touch, and the tour. */
import { fixedClock } from 'keen-sentry'
import { circle } from 'keen-sentry/2d'
import { drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { element, fit } from '../shared/page.ts'
import { Hands } from './controls.ts'
import { CHARGES, Game, type Happening, type Standing } from './game.ts'
import { LEVELS } from './levels.ts'
import { Picture } from './picture.ts'
import { Pilot, sightOf } from './pilot.ts'
import { Sound } from './sound.ts'
import { linesOf, STOPS, type Stop, stopOf } from './tour.ts'

/** Seconds that the radio speaks, and ticks between two looks of the pilot. */
const SPOKEN = 7
const LOOKS = 6
/** What the pointer asks with. */
const SPOT = circle(0.35)

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
const picture = new Picture(pen)
const sound = new Sound()
const clock = fixedClock(60)
const hands = new Hands(element('pad'), element('knob'), {
  ping: element('ping'),
  claw: element('claw'),
  charge: element('charge'),
})

let index = 0
let game = new Game(0)
/** Who plays, when it is not the player. */
let pilot: Pilot | null = null
let plays = false
let last = 0
let spoken = 0
let view: View | null = null
let showsColliders = false
/** What was done in the levels before. */
let total = { time: 0, pearls: 0, hits: 0, lost: 0 }
const isTouched = matchMedia('(pointer: coarse)')

// --- What is said -----------------------------------------------------------------------------------------------------

const put = (id: string, text: string): void => {
  const place = element(id)
  if (place.textContent !== text) place.textContent = text
}

function say(text: string): void {
  put('radio', text)
  spoken = SPOKEN
}

const SAID: Partial<Record<Happening['kind'], string>> = {
  checkpoint: 'Air. From here you can go on if you are lost.',
  low: 'Warning!',
  slip: 'It slipped off.',
  sting: 'Stung!',
}

function hear(happening: Happening): void {
  sound.take(happening)
  if (happening.kind === 'said') say(isTouched.matches ? happening.touch : happening.text)
  else if (SAID[happening.kind] !== undefined) say(SAID[happening.kind]!)
}

const clockText = (seconds: number): string =>
  `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`

function gauges(): void {
  const { numbers, craft } = game
  const { at } = craft.body
  element<HTMLMeterElement>('air').value = numbers.air
  element<HTMLMeterElement>('hull').value = numbers.hull
  put('charges', `${numbers.charges} of ${CHARGES}`)
  put('pearls', `${numbers.pearls} of ${game.level.pearls.length}`)
  put('where', `${at.x.toFixed(2)}, ${at.y.toFixed(2)} m`)
  put('time', clockText(numbers.time))
  element('claw').setAttribute('aria-pressed', String(craft.holds !== null))
}

// --- Screens ----------------------------------------------------------------------------------------------------------

interface Screen {
  readonly title: string
  readonly text: string
  readonly go: readonly [string, () => void]
  readonly other?: readonly [string, () => void]
  readonly score?: Readonly<Record<string, string>>
}

let onGo = (): void => {}
let onOther = (): void => {}

function screen({ title, text, go, other, score = {} }: Screen): void {
  plays = false
  hands.release()
  put('screen-title', title)
  put('screen-text', text)
  put('go', go[0])
  element('other').hidden = other === undefined
  put('other', other?.[0] ?? '')
  onGo = go[1]
  onOther = other?.[1] ?? (() => {})
  element('score').replaceChildren(
    ...Object.entries(score).flatMap(([name, value]) => {
      const [term, detail] = [document.createElement('dt'), document.createElement('dd')]
      term.textContent = name
      detail.textContent = value
      return [term, detail]
    }),
  )
  element('keys').hidden = Object.keys(score).length > 0
  element('screen').hidden = false
  element('go').focus()
}

function play(): void {
  sound.begin()
  element('screen').hidden = true
  canvas.focus()
  plays = true
  last = 0
}

function begin(level: number): void {
  index = level
  game = new Game(level)
  if (pilot !== null) pilot = new Pilot(level)
  picture.forget()
  put('task', `${index + 1} of ${LEVELS.length}: ${game.level.name}. ${game.level.task}.`)
  put('radio', '')
  gauges()
}

function start(): void {
  total = { time: 0, pearls: 0, hits: 0, lost: 0 }
  pilot = null
  begin(0)
  const watched = (): void => {
    pilot = new Pilot(0)
    play()
  }
  screen({
    title: 'Lantern Reef',
    text: 'The mine is flooded, and its lamps are out. Somewhere down there two lanterns lie. Bring light back.',
    go: ['Dive', play],
    other: ['Watch it played', watched],
  })
}

const pearlsOf = (level: number): number =>
  LEVELS.slice(0, level + 1).reduce((sum, { pearls }) => sum + pearls.length, 0)

function score(): Record<string, string> {
  return {
    Time: clockText(total.time),
    Pearls: `${total.pearls} of ${pearlsOf(index)}`,
    'Hard hits': String(total.hits),
    'Times lost': String(total.lost),
  }
}

const LOST: Partial<Record<Standing, readonly [string, string]>> = {
  'out of air': ['Out of air', 'Air is under the roofs. Stay in it until the gauge is full.'],
  broken: ['The hull is broken', 'Hard hits cost hull, and a charge that goes off near by costs most.'],
}

function over(): void {
  const { standing, numbers } = game
  const lost = LOST[standing]
  if (lost !== undefined) {
    total.lost++
    screen({
      title: lost[0],
      text: lost[1],
      go: [
        game.hasBreathed ? 'Back to the last pocket' : 'Begin again',
        () => {
          game.goBack()
          picture.forget()
          play()
        },
      ],
      other: ['Start screen', start],
    })
    return
  }
  total.time += numbers.time
  total.pearls += numbers.pearls
  total.hits += numbers.hits
  const isLast = index === LEVELS.length - 1
  screen({
    title: isLast ? 'There is light' : 'Docked',
    text: isLast ? 'The great lantern burns in its socket, and the reef has a light again.' : 'One lantern is home.',
    score: score(),
    go: isLast
      ? ['Start screen', start]
      : [
          'On to the works',
          () => {
            begin(index + 1)
            play()
          },
        ],
  })
}

function pause(): void {
  if (!plays) return
  screen({ title: 'Paused', text: game.level.task, go: ['Go on', play], other: ['Start screen', start] })
}

// --- Frames -----------------------------------------------------------------------------------------------------------

function controls() {
  const own = hands.take()
  if (pilot === null) return own
  if (game.place.world.tick % LOOKS !== 0) return { ...flown, ping: false, claw: false, charge: false }
  flown = pilot.steer(sightOf(game))
  return flown
}
let flown = { x: 0, y: 0, ping: false, claw: false, charge: false }

function tick(): void {
  if (game.standing !== 'under way') return
  const asked = controls()
  game.step(asked)
  sound.push(Math.min(1, Math.abs(asked.x) + Math.abs(asked.y)))
  picture.take(game)
  for (const happening of game.happened) hear(happening)
}

function frame(now: number): void {
  const seconds = last > 0 ? Math.min(0.25, (now - last) / 1000) : 0
  last = now
  if (plays) {
    clock.advance(seconds, tick)
    spoken -= seconds
    if (spoken <= 0) put('radio', '')
    gauges()
    if (game.standing !== 'under way') over()
  } else sound.push(0)
  const { width, height } = fit(canvas, pen)
  view = picture.draw(game, plays ? seconds : 0, plays ? clock.alpha : 1, width, height, !showsColliders)
  if (showsColliders) {
    const list = drawWorld2(game.place.world, { labels: false, show: { velocities: true } })
    toCanvas(list, pen, width, height, { view, ground: false })
  }
  requestAnimationFrame(frame)
}

// --- The tour ---------------------------------------------------------------------------------------------------------

function tell(stop: Stop): void {
  element<HTMLSelectElement>('thing').value = stop.name
  const text = document.createElement('p')
  text.textContent = `${stop.text} Guide: ${stop.guide}.`
  const parts = linesOf(stop).flatMap(({ file, code }) => {
    const [title, lines] = [document.createElement('h3'), document.createElement('pre')]
    title.textContent = file
    lines.textContent = code
    lines.tabIndex = 0
    return [title, lines]
  })
  element('lines').replaceChildren(text, ...parts)
}

function setTour(isOn: boolean): void {
  element('tour').hidden = !isOn
  element('how').setAttribute('aria-pressed', String(isOn))
  document.querySelector('main')!.classList.toggle('told', isOn)
  if (isOn) {
    pause()
    // The picture is free for pressing.
    element('screen').hidden = true
    if (element('lines').childElementCount === 0) tell(STOPS[0])
  } else if (!plays) element('screen').hidden = false
}

canvas.addEventListener('pointerdown', (event) => {
  if (element('tour').hidden || view === null) return
  const at = { x: view.worldX(event.offsetX), y: view.worldY(event.offsetY) }
  // What is smallest there is what was meant; zones of the radio lie over everything.
  const found = game.place.world.overlap
    .all({ shape: SPOT, at }, { sensors: true })
    .map(({ body }) => ({ stop: stopOf(body.data.thing), size: body.colliders[0].shape.area, thing: body.data.thing }))
    .filter(({ thing, stop }) => stop !== null && thing !== 'hint')
    .sort((a, b) => a.size - b.size)
  tell(found[0]?.stop ?? stopOf('lamp')!)
})

// --- What is pressed --------------------------------------------------------------------------------------------------

hands.onUse = () => {
  // Whoever takes the controls, has them.
  pilot = null
}
element('go').addEventListener('click', () => onGo())
element('other').addEventListener('click', () => onOther())
element('pause').addEventListener('click', () => {
  if (!plays) return
  setTour(false)
  pause()
})
element('how').addEventListener('click', () => setTour(element('tour').hidden === true))
element('layer').addEventListener('click', () => {
  showsColliders = !showsColliders
  element('layer').setAttribute('aria-pressed', String(showsColliders))
})
element('sound').addEventListener('click', () => {
  sound.setOn(!sound.isOn)
  element('sound').setAttribute('aria-pressed', String(sound.isOn))
})
document.addEventListener('keydown', ({ code, ctrlKey, metaKey, altKey, repeat }) => {
  if (ctrlKey || metaKey || altKey || repeat) return
  if (code === 'KeyP' || code === 'Escape') {
    if (plays) pause()
    else if (code === 'KeyP' && element('screen-title').textContent === 'Paused') play()
  }
})
document.addEventListener('visibilitychange', () => {
  if (document.hidden) pause()
})
const touch = (): void => void document.body.classList.toggle('touch', isTouched.matches)
isTouched.addEventListener('change', touch)
touch()
element('thing').append(...STOPS.map(({ name, title }) => new Option(title, name)))
element('thing').addEventListener('change', () => {
  tell(stopOf(element<HTMLSelectElement>('thing').value)!)
})
start()
requestAnimationFrame(frame)
