/** The picture of the game: rock, water, light and what moves, drawn by its own hand on a canvas. */
import type { Vec2 } from 'keen-sentry/2d'
import { type View, viewAt } from 'keen-sentry/draw'
import type { Game } from './game.ts'
import type { GameBody, Thing } from './place.ts'
import { type Echo, glow, glowPlace, type Lit, lamp, litPlace } from './sonar.ts'

/** Pixels a metre: as many as fit so many metres, within bounds. */
const WIDE = 24
const HIGH = 14
const NEAREST = 60
const FARTHEST = 24
/** Seconds that an echo is seen, and metres a second at which the sound goes. */
const ECHO = 5
const SOUND = 20
/** The dark is drawn in coarser dots than the rest: it has no edges that one would see. */
const COARSE = 0.5
const DARK = 'rgba(2, 9, 16, 0.86)'
const COLOURS: Readonly<Record<Thing, string>> = {
  rock: '#6fa8c9',
  craft: '#ffc25c',
  lantern: '#ffd98a',
  crate: '#d9a066',
  debris: '#8aa3b5',
  charge: '#ff7d5c',
  gate: '#8fd0a8',
  door: '#8fd0a8',
  plate: '#8fd0a8',
  pendulum: '#e08a8a',
  jelly: '#d59cff',
  pearl: '#f4f7ff',
  air: '#bfe9ff',
  current: '#5cc8d8',
  goal: '#ffd98a',
  hint: '#ffffff',
}

interface Bubble {
  x: number
  y: number
  left: number
  size: number
  colour: string
}

interface Ping {
  readonly from: Vec2
  readonly echoes: readonly Echo[]
  age: number
}

/** How bodies stand between two ticks. */
const pose = { at: { x: 0, y: 0 }, angle: 0 }

export class Picture {
  private readonly pen: CanvasRenderingContext2D
  private readonly dark = document.createElement('canvas')
  private readonly shade = this.dark.getContext('2d')!
  private readonly beam = litPlace()
  private readonly round = glowPlace()
  private readonly pings: Ping[] = []
  private readonly bubbles: Bubble[] = []
  private flash = 0
  private shake = 0
  private rock: { outline: readonly (readonly Vec2[])[]; path: Path2D } | null = null
  private camera: { x: number; y: number } | null = null
  /** Seconds of the picture, not of the world. */
  private time = 0

  constructor(pen: CanvasRenderingContext2D) {
    this.pen = pen
  }

  /** What was heard and seen in a tick. */
  take(game: Game): void {
    for (const happening of game.happened) {
      if (happening.kind === 'ping') this.pings.push({ from: happening.at, echoes: happening.echoes, age: 0 })
      else if (happening.kind === 'blast') {
        this.flash = 1
        this.shake = 1
        this.burst(happening.at, 40, '#ffb27a')
      } else if (happening.kind === 'hit') {
        this.shake = Math.max(this.shake, Math.min(1, happening.harm / 30))
        this.burst(happening.at, 8, '#d6e6f0')
      } else if (happening.kind === 'pearl') this.burst(game.craft.body.at, 10, '#f4f7ff')
    }
  }

  /** Nothing is left of what was seen before. */
  forget(): void {
    this.pings.length = 0
    this.bubbles.length = 0
    this.flash = this.shake = 0
    this.rock = null
    this.camera = null
  }

  /** Draws, and says where it was drawn. `seconds` since the last picture, `alpha` on the way to the next tick. */
  draw(game: Game, seconds: number, alpha: number, width: number, height: number, isLit: boolean): View {
    this.time += seconds
    const { pen } = this
    const view = this.look(game, seconds, alpha, width, height)
    this.water(view, width, height)
    pen.save()
    pen.setTransform(pen.getTransform().multiply(matrix(view)))
    this.zones(game)
    this.things(game, alpha)
    this.stone(game)
    this.bubbling(game, seconds)
    pen.restore()
    this.craft(game, alpha, view)
    if (isLit) this.darkness(game, view, width, height)
    this.echoing(seconds, view)
    if (this.flash > 0) {
      pen.fillStyle = `rgba(255, 214, 160, ${0.5 * this.flash})`
      pen.fillRect(0, 0, width, height)
      this.flash = Math.max(0, this.flash - 3 * seconds)
    }
    return view
  }

  /** The camera follows the craft a little late, and stays in the level where that is larger than the picture. */
  private look(game: Game, seconds: number, alpha: number, width: number, height: number): View {
    const scale = Math.max(FARTHEST, Math.min(NEAREST, width / WIDE, height / HIGH))
    const { at } = game.craft.body.poseAt(alpha, pose)
    const [columns, rows] = [game.level.rows[0].length, game.level.rows.length]
    const want = { x: within(at.x, columns, width / scale), y: within(at.y, rows, height / scale) }
    const near = 1 - Math.exp(-6 * seconds)
    this.camera ??= want
    this.camera.x += near * (want.x - this.camera.x)
    this.camera.y += near * (want.y - this.camera.y)
    this.shake = Math.max(0, this.shake - 2.5 * seconds)
    const { x, y } = this.camera
    const aside = 0.25 * this.shake * Math.sin(60 * this.time)
    return viewAt({ x: x + aside, y }, scale, width, height)
  }

  private water(view: View, width: number, height: number): void {
    const { pen } = this
    const deep = pen.createLinearGradient(0, view.y(26), 0, view.y(0))
    deep.addColorStop(0, '#12506b')
    deep.addColorStop(1, '#062033')
    pen.fillStyle = deep
    pen.fillRect(0, 0, width, height)
  }

  private zones({ level, place }: Game): void {
    const { pen, time } = this
    for (const { x, y, width, height } of level.pockets) {
      pen.fillStyle = '#8fd3ee'
      pen.beginPath()
      pen.moveTo(x - 2, y + height + 1)
      for (let at = x - 2; at <= x + width + 2; at += 0.25) pen.lineTo(at, y + 0.08 * Math.sin(2 * at + 2 * time))
      pen.lineTo(x + width + 2, y + height + 1)
      pen.fill()
    }
    pen.strokeStyle = '#5cc8d8aa'
    pen.lineWidth = 0.06
    for (const { x, y, width, height, push } of level.currents) {
      for (let i = 0; i < 26; i++) {
        const along = (time * Math.abs(push.y) + i * 3.7) % height
        const at = x + ((i * 7.31) % width)
        const from = push.y < 0 ? y + height - along : y + along
        pen.beginPath()
        pen.moveTo(at, from)
        pen.lineTo(at + 0.1 * Math.sin(i), from - Math.sign(push.y) * 0.9)
        pen.stroke()
      }
    }
    const { x, y, width, height } = level.goal
    pen.strokeStyle = place.goal.overlapping().length > 0 ? '#fff1c9' : '#ffd98a'
    pen.lineWidth = 0.1
    pen.setLineDash([0.4, 0.25])
    pen.strokeRect(x, y, width, height)
    pen.setLineDash([])
    for (const { plate } of level.doors) {
      pen.fillStyle = '#8fd0a8'
      pen.fillRect(plate.x, plate.y, plate.width, plate.height)
    }
  }

  private stone(game: Game): void {
    const { pen } = this
    const { ground } = game.place
    const { outline } = ground
    if (this.rock?.outline !== outline) {
      const path = loops(outline)
      this.rock = { outline, path }
    }
    pen.fillStyle = '#1a2b38'
    pen.fill(this.rock.path)
    pen.lineWidth = 0.09
    pen.strokeStyle = '#3f5f75'
    pen.stroke(this.rock.path)
    // Cracks.
    pen.strokeStyle = '#93b3c7'
    pen.lineWidth = 0.05
    const rows = game.level.rows
    for (const [row, signs] of rows.entries()) {
      for (let column = signs.indexOf('%'); column >= 0; column = signs.indexOf('%', column + 1)) {
        if (ground.tileAt(column, row) !== '%') continue
        const [x, y] = [column, rows.length - 1 - row]
        pen.beginPath()
        pen.moveTo(x + 0.1, y + 0.9)
        pen.lineTo(x + 0.45, y + 0.55)
        pen.lineTo(x + 0.3, y + 0.2)
        pen.moveTo(x + 0.45, y + 0.55)
        pen.lineTo(x + 0.9, y + 0.4)
        pen.stroke()
      }
    }
  }

  private things(game: Game, alpha: number): void {
    const { pen, time } = this
    const { place, craft } = game
    const fuses = game.burning()
    for (const joint of place.world.joints()) {
      if (joint.name !== 'chain' || joint.b === null) continue
      const { a, b } = joint.anchors
      pen.strokeStyle = '#7d8f9c'
      pen.lineWidth = 0.08
      pen.beginPath()
      pen.moveTo(a.x, a.y)
      pen.lineTo(b.x, b.y)
      pen.stroke()
    }
    for (const body of place.world.bodies()) {
      const { thing } = body.data
      if (thing === 'rock' || thing === 'craft' || body.colliders[0].layer === 'zone') continue
      const { at, angle } = body.poseAt(alpha, pose)
      pen.save()
      pen.translate(at.x, at.y)
      pen.rotate(angle)
      if (thing === 'pearl') this.pearl(time + at.x)
      else if (thing === 'jelly') this.jelly(time + at.x)
      else if (thing === 'lantern') this.lantern(craft.holds === body)
      else if (thing === 'charge') this.charge(fuses.find((fuse) => fuse.body === body)?.left ?? 0)
      else this.solid(body)
      pen.restore()
    }
  }

  private pearl(phase: number): void {
    const { pen } = this
    const size = 0.2 + 0.02 * Math.sin(3 * phase)
    const shine = pen.createRadialGradient(-0.07, 0.07, 0.02, 0, 0, size)
    shine.addColorStop(0, '#ffffff')
    shine.addColorStop(1, '#9fb4d8')
    pen.fillStyle = shine
    this.disc(0, 0, size)
  }

  private jelly(phase: number): void {
    const { pen } = this
    const wide = 0.45 + 0.06 * Math.sin(4 * phase)
    pen.fillStyle = '#c98cffcc'
    pen.beginPath()
    pen.ellipse(0, 0.1, wide, 0.42, 0, 0, Math.PI)
    pen.fill()
    pen.strokeStyle = '#d9b3ffaa'
    pen.lineWidth = 0.06
    for (const at of [-0.25, 0, 0.25]) {
      pen.beginPath()
      pen.moveTo(at, 0.1)
      pen.quadraticCurveTo(at + 0.12 * Math.sin(4 * phase + at), -0.4, at + 0.1 * Math.sin(4 * phase + 2 + at), -0.9)
      pen.stroke()
    }
  }

  private lantern(isHeld: boolean): void {
    const { pen } = this
    pen.fillStyle = '#7a5a22'
    this.disc(0, 0, 0.45)
    pen.fillStyle = isHeld ? '#fff3cf' : '#ffd98a'
    this.disc(0, 0, 0.32)
    pen.fillStyle = '#7a5a22'
    pen.fillRect(-0.05, -0.45, 0.1, 0.9)
    pen.fillRect(-0.45, -0.05, 0.9, 0.1)
  }

  private charge(left: number): void {
    const { pen } = this
    pen.fillStyle = '#3c4650'
    this.disc(0, 0, 0.25)
    pen.fillStyle = (left * (left < 1 ? 8 : 3)) % 1 > 0.5 ? '#ff4d2e' : '#6b2a20'
    this.disc(0, 0.05, 0.11)
  }

  private solid(body: GameBody): void {
    const { pen } = this
    const colour = COLOURS[body.data.thing]
    pen.fillStyle = `${colour}99`
    pen.strokeStyle = colour
    pen.lineWidth = 0.07
    for (const { shape } of body.colliders) {
      if (shape.kind === 'circle') this.disc(0, 0, shape.radius, true)
      else if (shape.kind === 'box') {
        const { width, height } = shape
        pen.fillRect(-width / 2, -height / 2, width, height)
        pen.strokeRect(-width / 2, -height / 2, width, height)
      } else if (shape.kind === 'tiles') {
        const path = loops(shape.outline)
        pen.fill(path)
        pen.stroke(path)
      }
    }
  }

  private disc(x: number, y: number, radius: number, isEdged = false): void {
    const { pen } = this
    pen.beginPath()
    pen.arc(x, y, radius, 0, 2 * Math.PI)
    pen.fill()
    if (isEdged) pen.stroke()
  }

  private craft({ craft }: Game, alpha: number, view: View): void {
    const { pen, time } = this
    const { at, angle } = craft.body.poseAt(alpha, pose)
    pen.save()
    pen.translate(view.x(at.x), view.y(at.y))
    pen.scale(view.scale, -view.scale)
    pen.rotate(angle)
    pen.scale(craft.facing, 1)
    // The claw.
    pen.strokeStyle = '#8a6a2e'
    pen.lineWidth = 0.1
    pen.beginPath()
    pen.moveTo(0.4, -0.45)
    pen.lineTo(0.55, -0.8)
    pen.moveTo(0.4, -0.95)
    pen.lineTo(0.55, -0.8)
    pen.lineTo(0.7, -0.95)
    pen.stroke()
    // The propeller.
    const speed = craft.body.velocity
    const turn = Math.cos(time * (6 + 4 * Math.sqrt(speed.x * speed.x + speed.y * speed.y)))
    pen.fillStyle = '#c9d3da'
    pen.beginPath()
    pen.ellipse(-1.3, 0, 0.07, 0.32 * Math.abs(turn) + 0.05, 0, 0, 2 * Math.PI)
    pen.fill()
    // Keel, cabin, hull.
    pen.fillStyle = '#8a6a2e'
    pen.fillRect(-0.45, -0.64, 0.9, 0.24)
    pen.fillStyle = '#d89a34'
    this.disc(0, 0.45, 0.42)
    pen.fillStyle = '#f2b64a'
    pen.beginPath()
    pen.roundRect(-1.25, -0.5, 2.5, 1, 0.5)
    pen.fill()
    pen.fillStyle = '#a8752088'
    pen.beginPath()
    pen.roundRect(-1.2, -0.5, 2.4, 0.42, [0, 0, 0.4, 0.4])
    pen.fill()
    pen.fillStyle = '#bfeaff'
    this.disc(0.12, 0.5, 0.22)
    this.disc(0.72, 0.05, 0.18)
    pen.fillStyle = '#fff6d8'
    this.disc(1.22, -0.08, 0.12)
    pen.restore()
  }

  /** All is dark but for what the lamp and the glow light, the pockets, and what shines by itself. */
  private darkness(game: Game, view: View, width: number, height: number): void {
    const { dark, shade, pen } = this
    const { place, craft, level } = game
    const [wide, high] = [Math.ceil(width * COARSE), Math.ceil(height * COARSE)]
    if (dark.width !== wide || dark.height !== high) {
      dark.width = wide
      dark.height = high
    }
    shade.setTransform(COARSE, 0, 0, COARSE, 0, 0)
    shade.globalCompositeOperation = 'copy'
    shade.fillStyle = DARK
    shade.fillRect(0, 0, width, height)
    shade.globalCompositeOperation = 'destination-out'
    /** Light that fades with distance, as a colour to fill with. */
    const fading = (x: number, y: number, radius: number, much: number): CanvasGradient => {
      const fade = shade.createRadialGradient(view.x(x), view.y(y), 0, view.x(x), view.y(y), radius * view.scale)
      fade.addColorStop(0, `rgba(0, 0, 0, ${much})`)
      fade.addColorStop(0.6, `rgba(0, 0, 0, ${0.6 * much})`)
      fade.addColorStop(1, 'rgba(0, 0, 0, 0)')
      return fade
    }
    const { at } = craft.body
    shade.fillStyle = fading(at.x, at.y, 13.5, 1)
    shade.fill(this.polygon(lamp(place.world, craft, this.beam), view))
    shade.fillStyle = fading(at.x, at.y, 3.3, 1)
    shade.fill(this.polygon(glow(place.world, craft, this.round), view))
    const shining = [
      ...level.pockets.map(({ x, y, width: w }) => ({ x: x + w / 2, y, radius: 0.7 * w })),
      { x: level.goal.x + level.goal.width / 2, y: level.goal.y + level.goal.height / 2, radius: 3 },
      { ...place.lantern.at, radius: 3 },
      ...game.burning().map(({ body: { at: there } }) => ({ ...there, radius: 1.4 })),
    ]
    for (const { x, y, radius } of shining) {
      const [left, top, size] = [view.x(x - radius), view.y(y + radius), 2 * radius * view.scale]
      if (left > width || top > height || left + size < 0 || top + size < 0) continue
      shade.fillStyle = fading(x, y, radius, 0.75)
      shade.fillRect(left, top, size, size)
    }
    pen.drawImage(dark, 0, 0, width, height)
    // The light itself is warm.
    pen.save()
    pen.globalCompositeOperation = 'lighter'
    const warm = pen.createRadialGradient(view.x(at.x), view.y(at.y), 0, view.x(at.x), view.y(at.y), 13 * view.scale)
    warm.addColorStop(0, 'rgba(255, 214, 150, 0.22)')
    warm.addColorStop(1, 'rgba(255, 214, 150, 0)')
    pen.fillStyle = warm
    pen.fill(this.polygon(this.beam, view))
    pen.restore()
  }

  private polygon({ points, count }: Lit, view: View): Path2D {
    const path = new Path2D()
    for (let i = 0; i < count; i++) {
      const [x, y] = [view.x(points[2 * i]), view.y(points[2 * i + 1])]
      if (i === 0) path.moveTo(x, y)
      else path.lineTo(x, y)
    }
    path.closePath()
    return path
  }

  private echoing(seconds: number, view: View): void {
    const { pen } = this
    for (const ping of this.pings) {
      ping.age += seconds
      const reach = ping.age * SOUND
      const { x, y } = ping.from
      if (reach < 24) {
        pen.strokeStyle = `rgba(143, 220, 255, ${0.5 * (1 - reach / 24)})`
        pen.lineWidth = 2
        pen.beginPath()
        pen.arc(view.x(x), view.y(y), reach * view.scale, 0, 2 * Math.PI)
        pen.stroke()
      }
      for (const { at, distance, thing, name } of ping.echoes) {
        if (distance > reach) continue
        const left = 1 - (ping.age - distance / SOUND) / ECHO
        if (left <= 0) continue
        pen.globalAlpha = left
        pen.fillStyle = COLOURS[thing]
        pen.beginPath()
        pen.arc(view.x(at.x), view.y(at.y), thing === 'rock' ? 2.2 : 3.4, 0, 2 * Math.PI)
        pen.fill()
        if (name !== null) {
          pen.font = '600 14px "DejaVu Sans", "Segoe UI", sans-serif'
          pen.fillText(name.replace(/ \d+$/, ''), view.x(at.x) + 8, view.y(at.y) - 16)
        }
      }
      pen.globalAlpha = 1
    }
    while (this.pings.length > 0 && this.pings[0].age > ECHO + 2) this.pings.shift()
  }

  private burst(at: Vec2, count: number, colour: string): void {
    for (let i = 0; i < count; i++) {
      const turn = i * 2.4
      const way = 0.3 + 1.4 * ((i * 0.37) % 1)
      this.bubbles.push({
        x: at.x + way * Math.cos(turn),
        y: at.y + way * Math.sin(turn),
        left: 0.8 + ((i * 0.61) % 1),
        size: 0.04 + 0.09 * ((i * 0.53) % 1),
        colour,
      })
    }
  }

  private bubbling({ craft, standing }: Game, seconds: number): void {
    const { pen, bubbles } = this
    const { velocity, at } = craft.body
    const isFast = velocity.x * velocity.x + velocity.y * velocity.y > 2
    if (isFast && standing === 'under way' && Math.sin(31 * this.time) > 0.6) {
      bubbles.push({ x: at.x - 1.3 * craft.facing, y: at.y, left: 1.4, size: 0.06, colour: '#bfe9ff' })
    }
    for (const bubble of bubbles) {
      bubble.left -= seconds
      bubble.y += 0.9 * seconds
      bubble.x += 0.3 * Math.sin(5 * this.time + 9 * bubble.size) * seconds
      pen.globalAlpha = Math.max(0, Math.min(1, bubble.left))
      pen.fillStyle = bubble.colour
      this.disc(bubble.x, bubble.y, bubble.size)
    }
    pen.globalAlpha = 1
    for (let i = bubbles.length - 1; i >= 0; i--) if (bubbles[i].left <= 0) bubbles.splice(i, 1)
  }
}

function loops(outline: readonly (readonly Vec2[])[]): Path2D {
  const path = new Path2D()
  for (const loop of outline) {
    for (const [i, { x, y }] of loop.entries()) i === 0 ? path.moveTo(x, y) : path.lineTo(x, y)
    path.closePath()
  }
  return path
}

const within = (at: number, size: number, seen: number): number =>
  seen >= size ? size / 2 : Math.max(seen / 2, Math.min(size - seen / 2, at))

/** From metres, y up, to pixels. */
const matrix = (view: View): DOMMatrix => new DOMMatrix([view.scale, 0, 0, -view.scale, view.x(0), view.y(0)])
