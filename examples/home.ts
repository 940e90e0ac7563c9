/** The home page: behind each card a small world that runs while it is in view. */
import { type DrawList, drawWorld2, type Overlays, questionItems2, toCanvas } from 'keen-sentry/draw'
import { playScene, readScene } from 'keen-sentry-scenes'
import { Game } from './lantern/game.ts'
import { Picture } from './lantern/picture.ts'
import { Pilot, sightOf } from './lantern/pilot.ts'
import { fit, theme } from './shared/page.ts'
import { ARENA, autopilot, newMatch, playTick } from './together/match.ts'

const FILES = import.meta.glob<unknown>('../scenes/*.json', { import: 'default' })

/** Frames of the screen a tick of a card: two, so that all cards together leave the page time. */
const EACH = 2

/** A small world. */
interface Live {
  step(): void
  draw(pen: CanvasRenderingContext2D, width: number, height: number): void
}

const drawList = (list: DrawList, pen: CanvasRenderingContext2D, width: number, height: number): void =>
  void toCanvas(list, pen, width, height, { theme: theme() })

interface View {
  readonly min: { readonly x: number; readonly y: number }
  readonly max: { readonly x: number; readonly y: number }
}

/** A scene that begins again when it has ended. */
async function scene(
  name: string,
  show: Overlays = {},
  asks: (time: number) => number | null = () => null,
): Promise<Live> {
  const checked = readScene(await FILES[`../scenes/${name}.json`](), '2d')
  const { view } = checked
  const seen: View | undefined = view && {
    min: { x: view.min[0], y: view.min[1] },
    max: { x: view.max[0], y: view.max[1] },
  }
  let player = playScene(checked)
  return {
    step() {
      if (player.world.tick >= player.ticks) player = playScene(checked)
      player.step()
    },
    draw(pen, width, height) {
      const { world } = player
      const list = drawWorld2(world, { view: seen, labels: false, show })
      const angle = asks(world.time)
      if (angle === null) {
        drawList(list, pen, width, height)
        return
      }
      // A ray that sweeps about, as one would drag it.
      const from = { x: 20, y: 11 }
      const to = { x: from.x + 24 * Math.cos(angle), y: from.y + 24 * Math.sin(angle) }
      const hits = world.raycast.all({ from, to })
      const items = [...list.items, ...questionItems2({ kind: 'ray', from, to }, hits)]
      drawList({ ...list, items }, pen, width, height)
    },
  }
}

/** The match of two, both steered by rule. */
function match(): Live {
  let played = newMatch()
  return {
    step() {
      if (played.world.tick > 60 * 60) played = newMatch()
      playTick(played, [autopilot(played, 0), autopilot(played, 1)], true)
    },
    draw: (pen, width, height) =>
      drawList(drawWorld2(played.world, { view: ARENA, labels: false }), pen, width, height),
  }
}

/** The game, flown by its pilot. */
function flown(): Live {
  let game = new Game(0)
  let pilot = new Pilot(0)
  let picture: Picture | null = null
  let asked = { x: 0, y: 0, ping: false, claw: false, charge: false }
  return {
    step() {
      if (game.standing !== 'under way') {
        game = new Game(0)
        pilot = new Pilot(0)
        picture?.forget()
      }
      const { tick } = game.place.world
      asked = tick % 6 === 0 ? pilot.steer(sightOf(game)) : { ...asked, ping: false, claw: false, charge: false }
      game.step(asked)
      picture?.take(game)
    },
    draw(pen, width, height) {
      picture ??= new Picture(pen)
      picture.draw(game, EACH / 60, 1, width, height, true)
    },
  }
}

const LIVES: Readonly<Record<string, () => Live | Promise<Live>>> = {
  game: flown,
  workbench: () => scene('lantern-reef', { bounds: true, velocities: true, ways: true }),
  reef: () => scene('lantern-reef'),
  questions: () => scene('lantern-reef', {}, (time) => 0.4 * time),
  forces: () => scene('salvage'),
  joints: () => scene('sluice'),
  walk: () => scene('gallery'),
  tiles: () => scene('mine'),
  together: match,
}

const isStill = matchMedia('(prefers-reduced-motion: reduce)')

class Card {
  private readonly canvas: HTMLCanvasElement
  private readonly pen: CanvasRenderingContext2D
  private live: Live | null = null
  private seen = false
  private drawn = false

  constructor(canvas: HTMLCanvasElement) {
    this.canvas = canvas
    this.pen = canvas.getContext('2d')!
    new IntersectionObserver(([entry]) => {
      this.seen = entry.isIntersecting
      if (this.seen) void this.begin()
    }).observe(canvas)
  }

  frame(): void {
    if (!this.seen || this.live === null || (isStill.matches && this.drawn)) return
    if (!isStill.matches) this.live.step()
    const { width, height } = fit(this.canvas, this.pen)
    this.live.draw(this.pen, width, height)
    this.drawn = true
    this.canvas.dataset['drawn'] = 'true'
  }

  private async begin(): Promise<void> {
    this.live ??= await LIVES[this.canvas.dataset['live']!]()
  }
}

const cards = [...document.querySelectorAll<HTMLCanvasElement>('[data-live]')].map((canvas) => new Card(canvas))
let count = 0
function frame(): void {
  count++
  // Each in its turn.
  for (const [i, card] of cards.entries()) if ((count + i) % EACH === 0) card.frame()
  requestAnimationFrame(frame)
}
requestAnimationFrame(frame)
