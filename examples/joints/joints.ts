/** Joints of every type of 2D, to drag about: sliders say how stiff, how strong and how weak, and gauges what they bear. */
import { fixedClock } from 'keen-sentry'
import { type Body2, box, circle, createWorld, defineLayers, type Joint2, type Vec2, type World2 } from 'keen-sentry/2d'
import { drawWorld2, toCanvas, type View } from 'keen-sentry/draw'
import { TimePlot } from '../shared/gauges.ts'
import { Hand2 } from '../shared/hand2.ts'
import { element, eventItem, fit, theme } from '../shared/page.ts'

const SEEN = { min: { x: 0, y: 0 }, max: { x: 24, y: 13 } }
const layers = defineLayers(['rock', 'part', 'wheel'])
type Kind = typeof world extends World2<infer K> ? K : never

const canvas = element<HTMLCanvasElement>('view')
const pen = canvas.getContext('2d')!
const slider = (id: string): HTMLInputElement => element<HTMLInputElement>(id)
const choice = element<HTMLSelectElement>('joint')
const forces = new TimePlot('force', [{ stroke: '#6cc4f5', fill: '#6cc4f530' }])
const torques = new TimePlot('torque', [{ stroke: '#ffb545', fill: '#ffb54530' }])
const hand = new Hand2<Kind>()

let world = build()
const clock = fixedClock(world.rate)
let playing = true
let last = 0
let view: View | null = null
let ended = 0

/** A world with a joint of every type. */
function build() {
  const made = createWorld({ layers })
  const part = (x: number, y: number, width: number, height: number, density = 20): Body2 =>
    made.add({
      type: 'dynamic',
      at: { x, y },
      spinDamping: 0.2,
      colliders: [{ shape: box(width, height), layer: 'part', density }],
    })
  const disc = (x: number, y: number, radius: number, density = 30): Body2 =>
    made.add({
      type: 'dynamic',
      at: { x, y },
      colliders: [{ shape: circle(radius), layer: 'wheel', density, friction: 1 }],
    })
  for (const [x, y, width, height] of [
    [12, 0.25, 24, 0.5],
    [12, 12.75, 24, 0.5],
    [0.25, 6.5, 0.5, 13],
    [23.75, 6.5, 0.5, 13],
  ]) {
    made.add({ type: 'static', at: { x, y }, colliders: [{ shape: box(width, height), layer: 'rock' }] })
  }
  const at = (x: number, y: number): Vec2 => ({ x, y })
  made.join({
    type: 'hinge',
    name: 'hinge with a motor and limits',
    a: part(2.8, 9, 2.2, 0.25),
    at: at(1.8, 9),
    limits: { min: -1.2, max: 1.2 },
    motor: { speed: 1, torque: 20 },
  })
  made.join({ type: 'distance', name: 'rod', a: disc(6.5, 9.2, 0.35), atB: at(5.5, 12) })
  made.join({ type: 'distance', name: 'rope', a: disc(8, 10.5, 0.35), atB: at(8, 12), min: 0, max: 3 })
  made.join({
    type: 'spring',
    name: 'spring',
    a: part(10.5, 9.5, 0.8, 0.8),
    atB: at(10.5, 12),
    length: 2,
    frequency: 1.5,
    damping: 0.1,
  })
  made.join({
    type: 'slide',
    name: 'slide with a motor',
    a: part(13.5, 9, 1, 0.5),
    at: at(13.5, 9),
    axis: at(0, 1),
    limits: { min: -2, max: 2.5 },
    motor: { speed: 0, force: 150 },
  })
  made.join({ type: 'fixed', name: 'weld', a: part(17, 10, 2.5, 0.25), at: at(15.8, 10) })
  made.join({
    type: 'fixed',
    name: 'soft weld',
    a: part(21, 10, 2.5, 0.25),
    at: at(19.8, 10),
    frequency: 4,
    damping: 0.2,
  })
  let before: Body2 | undefined
  for (let i = 0; i < 12; i++) {
    const link = part(1.5 + 0.6 * (i + 0.5), 5.5, 0.58, 0.14)
    made.join({
      type: 'hinge',
      name: i === 0 ? 'end of the chain' : undefined,
      a: link,
      b: before,
      at: at(1.5 + 0.6 * i, 5.5),
    })
    before = link
  }
  disc(7.8, 4, 0.5, 20)
  const hull = part(14, 1.7, 2.6, 0.5)
  for (const [name, x] of [
    ['hind axle', 13],
    ['fore axle', 15],
  ] as const) {
    made.join({
      type: 'axle',
      name,
      a: hull,
      b: disc(x, 1, 0.45),
      at: at(x, 1),
      axis: at(0, 1),
      frequency: 4,
      damping: 0.5,
      limits: { min: -0.3, max: 0.4 },
      motor: { speed: 0, torque: 10 },
    })
  }
  for (let i = 0; i < 3; i++) part(20 + 0.2 * i, 1 + i, 0.9, 0.9)
  made.watchJoints({
    end: ({ joint, time, cause, force }) => {
      if (joint.type === 'carry') return
      element('events').append(eventItem('impact', time, String(joint), `${cause} · ${force.toFixed(0)} N`))
      element('count').textContent = String(++ended)
    },
  })
  choice.replaceChildren(
    ...made
      .joints()
      .filter(({ name }) => name !== null)
      .map(({ name }) => new Option(name!)),
  )
  return made
}

const chosen = (): Joint2<Kind> | undefined => world.joints().find(({ name }) => name === choice.value)
const isSoft = ({ type }: Joint2<Kind>): boolean => type === 'spring' || type === 'axle' || type === 'fixed'
const isDriven = ({ type }: Joint2<Kind>): boolean => type === 'hinge' || type === 'axle' || type === 'slide'

/** Shows how the chosen joint is set. */
function showJoint(): void {
  const joint = chosen()
  for (const label of document.querySelectorAll<HTMLElement>('[data-for]')) {
    const fits = joint !== undefined && (label.dataset['for'] === 'soft' ? isSoft(joint) : isDriven(joint))
    label.hidden = !fits
  }
  forces.clear()
  torques.clear()
  if (joint === undefined) return
  if (isSoft(joint)) {
    slider('frequency').value = String(joint.frequency)
    slider('damping').value = String(joint.damping)
  }
  if (isDriven(joint)) {
    const { motor } = joint
    slider('speed').value = String(motor?.speed ?? 0)
    slider('strength').value = String(motor?.torque ?? motor?.force ?? 0)
  }
  slider('breaks').value = String(joint.breaks?.force ?? slider('breaks').max)
  tellSettings()
}

/** Sets the chosen joint by the sliders. */
function setJoint(): void {
  const joint = chosen()
  if (joint !== undefined) {
    if (isSoft(joint)) {
      joint.frequency = Number(slider('frequency').value)
      joint.damping = Number(slider('damping').value)
    }
    if (isDriven(joint)) {
      const [speed, strength] = [Number(slider('speed').value), Number(slider('strength').value)]
      joint.motor =
        strength === 0 ? null : joint.type === 'slide' ? { speed, force: strength } : { speed, torque: strength }
    }
    const { value, max } = slider('breaks')
    joint.breaks = value === max ? null : { force: Number(value) }
  }
  tellSettings()
}

function tellSettings(): void {
  const slides = chosen()?.type === 'slide'
  const { value, max } = slider('breaks')
  element('frequency-text').textContent = `${slider('frequency').value} Hz`
  element('damping-text').textContent = slider('damping').value
  element('speed-text').textContent = `${slider('speed').value} ${slides ? 'm/s' : 'rad/s'}`
  element('strength-text').textContent = `${slider('strength').value} ${slides ? 'N' : 'Nm'}`
  element('breaks-text').textContent = value === max ? 'nothing' : `${value} N`
}

function step(): void {
  world.step()
  const joint = chosen()
  forces.push(world.time, joint?.force ?? 0)
  torques.push(world.time, joint?.torque ?? 0)
  element('force-now').textContent = joint === undefined ? 'ended' : joint.force.toFixed(0)
  element('torque-now').textContent = joint === undefined ? '' : joint.torque.toFixed(0)
}

function draw(): void {
  const { width, height } = fit(canvas, pen)
  view = toCanvas(
    drawWorld2(world, { view: SEEN, highlight: hand.body, alpha: playing ? clock.alpha : 1 }),
    pen,
    width,
    height,
    { theme: theme() },
  )
  const joint = chosen()
  if (joint !== undefined) {
    // A ring about the chosen one.
    const { a } = joint.anchors
    pen.strokeStyle = '#ffb545'
    pen.lineWidth = 2
    pen.beginPath()
    pen.arc(view.x(a.x), view.y(a.y), 13, 0, 2 * Math.PI)
    pen.stroke()
  }
  forces.draw()
  torques.draw()
  element('state').textContent =
    hand.body === null ? `${world.joints().length} joints` : `holds a body of ${hand.body.mass.toFixed(0)} kg`
  element('clock').textContent = `tick ${world.tick} · ${world.time.toFixed(2)} s`
}

function frame(now: number): void {
  if (playing && last > 0) clock.advance((now - last) / 1000, step)
  last = now
  draw()
  requestAnimationFrame(frame)
}

function setPlaying(value: boolean): void {
  playing = value
  element('play').textContent = playing ? 'Pause' : 'Play'
}

const pointOf = (event: PointerEvent): Vec2 => ({ x: view!.worldX(event.offsetX), y: view!.worldY(event.offsetY) })

element('play').addEventListener('click', () => setPlaying(!playing))
element('step').addEventListener('click', () => {
  setPlaying(false)
  step()
})
element('restart').addEventListener('click', () => {
  hand.release()
  ended = 0
  element('events').replaceChildren()
  element('count').textContent = '0'
  world = build()
  showJoint()
})
choice.addEventListener('change', showJoint)
for (const id of ['frequency', 'damping', 'speed', 'strength', 'breaks']) slider(id).addEventListener('input', setJoint)
canvas.addEventListener('pointerdown', (event) => {
  if (!hand.grab(world, pointOf(event))) return
  // What hangs on joints is not put elsewhere while they stand still: the world goes on.
  setPlaying(true)
  canvas.classList.add('held')
  canvas.setPointerCapture(event.pointerId)
})
canvas.addEventListener('pointermove', (event) => hand.aim(pointOf(event)))
for (const kind of ['pointerup', 'pointercancel'] as const) {
  canvas.addEventListener(kind, () => {
    hand.release()
    canvas.classList.remove('held')
  })
}
showJoint()
requestAnimationFrame(frame)
