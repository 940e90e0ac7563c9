/** The rules of the game: what hurts, what helps, what is won. It knows no screen: a page shows it, and a test plays it. */
import { blast, circle, type Vec2 } from 'keen-sentry/2d'
import { Craft } from './craft.ts'
import { LEVELS, type Level } from './levels.ts'
import { type GameBody, openPlace, type Place } from './place.ts'
import { type Echo, ping } from './sonar.ts'

/** What the player does in a tick: how it steers, -1 to 1, and what was pressed since the last. */
export interface Controls {
  x: number
  y: number
  ping: boolean
  claw: boolean
  charge: boolean
}

/** Something that happened in a tick: to be heard, seen, or said. */
export type Happening =
  | { readonly kind: 'ping'; readonly at: Vec2; readonly echoes: readonly Echo[] }
  | { readonly kind: 'hit'; readonly at: Vec2; readonly harm: number }
  | { readonly kind: 'blast'; readonly at: Vec2 }
  | { readonly kind: 'said'; readonly text: string; readonly touch: string }
  | {
      readonly kind:
        | 'grab'
        | 'release'
        | 'slip'
        | 'empty'
        | 'drop'
        | 'pearl'
        | 'sting'
        | 'air'
        | 'lit'
        | 'checkpoint'
        | 'low'
    }

/** Seconds of air; a second in a pocket gives so many. */
export const AIR = 80
const BREATH = 22
/** Below this part of the air or of the hull one is warned. */
export const LOW = 0.3
export const HULL = 100
/** A hit below this change of speed, in metres a second, costs nothing; each beyond it costs so much. */
const SOFT = 2
const HARM = 11
const STING = 12
/** What is left of the hull of whoever goes back, at least. */
const MENDED = 50
/** Charges at hand, seconds for a new one, and until one goes off. */
export const CHARGES = 3
const RELOAD = 7
const FUSE = 2.6
/** How far a charge breaks rock, how far it pushes, and how hard. */
const BREAKS = 4.2
const PUSHES = 7
const STRENGTH = 260

/** What a checkpoint takes down besides the world. */
interface Numbers {
  air: number
  hull: number
  charges: number
  reload: number
  pearls: number
  /** Seconds from the start of the level. */
  time: number
  hits: number
}

/** How a level stands. */
export type Standing = 'under way' | 'won' | 'out of air' | 'broken'

type Watch = ReturnType<Place['world']['watch']>

export class Game {
  readonly level: Level
  readonly place: Place
  readonly craft: Craft
  numbers: Numbers = { air: AIR, hull: HULL, charges: CHARGES, reload: 0, pearls: 0, time: 0, hits: 0 }
  standing: Standing = 'under way'
  /** What happened in the last tick. */
  readonly happened: Happening[] = []
  private fuses: { readonly body: GameBody; left: number }[] = []
  private wantsCheckpoint = true
  /** Whether the last checkpoint is a pocket, not the start. */
  hasBreathed = false
  private readonly lit: Watch
  private readonly here: Watch
  private saved: {
    world: ReturnType<Place['world']['snapshot']>
    numbers: Numbers
    fuses: Game['fuses']
    hand: Craft['hand']
    facing: number
  } | null = null

  constructor(index: number) {
    this.level = LEVELS[index]
    this.place = openPlace(this.level)
    this.craft = new Craft(this.place.world, this.place.launch())
    const { craft, place } = this
    const { world } = place

    // tour: rock
    // A hard hit costs hull. `impact` comes when a pair begins to press that hard, and not again while it does.
    world.watch(
      craft.body,
      ['rock', 'gate', 'debris', 'cargo'],
      { impact: ({ impulse, points }) => this.hurt(impulse / craft.body.mass, points[0] ?? craft.body.at) },
      { over: { impulse: SOFT * craft.body.mass } },
    )
    // end

    // tour: air
    // The hull enters with three shapes, and begins once. Each tick inside gives air.
    for (const pocket of place.pockets) {
      world.watch(craft.body, pocket, {
        begin: () => {
          this.tell({ kind: 'air' })
          this.wantsCheckpoint = this.hasBreathed = true
          this.tell({ kind: 'checkpoint' })
        },
        during: ({ dt }) => {
          const { numbers } = this
          numbers.air = Math.min(AIR, numbers.air + (BREATH + 1) * dt)
        },
      })
    }
    // end

    // tour: pearl
    // What is taken is removed in the handler itself.
    world.watch(craft.body, 'pearl', {
      begin: ({ b }) => {
        b.remove()
        this.numbers.pearls++
        this.tell({ kind: 'pearl' })
      },
    })
    // end

    // tour: jelly
    world.watch(craft.body, 'jelly', {
      begin: () => {
        this.tell({ kind: 'sting' })
        this.lose(STING)
      },
    })
    // end

    // tour: hint
    world.watch(craft.body, 'zone', {
      begin: ({ b }) => {
        const { text, touch } = b.data
        if (text !== undefined) this.tell({ kind: 'said', text, touch: touch ?? text })
      },
    })
    // end

    // tour: current
    // Whoever is in a current is pushed, for as long as it is in it.
    world.watch(['craft', 'cargo'], 'zone', {
      during: ({ a, b }) => {
        const { push } = b.data
        if (push !== undefined) a.applyForce({ x: push.x * a.mass, y: push.y * a.mass })
      },
    })
    // end

    // tour: goal
    // A watch knows how many are in: nobody has to count.
    this.lit = world.watch(place.lantern, place.goal, { begin: () => this.tell({ kind: 'lit' }) })
    this.here = world.watch(craft.body, place.goal)
    // end
  }

  /** One tick. */
  step(controls: Controls): void {
    this.happened.length = 0
    if (this.standing !== 'under way') return
    if (this.wantsCheckpoint) this.checkpoint()
    const { craft, numbers, place } = this
    const dt = place.world.dt
    numbers.time += dt
    this.breathe(dt)
    this.act(controls)
    craft.steer(controls.x, controls.y)
    if (!craft.carry()) this.tell({ kind: 'slip' })
    this.burn(dt)
    place.prepare()
    place.world.step()
    if (this.isWon()) this.standing = 'won'
    else if (numbers.hull <= 0) this.standing = 'broken'
    else if (numbers.air <= 0) this.standing = 'out of air'
  }

  // tour: goal
  /** The lantern is there, and, where the level says so, the craft too. */
  private isWon(): boolean {
    return this.lit.count > 0 && (!this.level.docks || this.here.count > 0)
  }
  // end

  // tour: checkpoint
  /** Takes everything down, between two ticks. */
  private checkpoint(): void {
    const { craft, fuses, numbers, place } = this
    this.wantsCheckpoint = false
    this.saved = {
      world: place.world.snapshot(),
      numbers: { ...numbers },
      fuses: fuses.map((fuse) => ({ ...fuse })),
      hand: craft.hand,
      facing: craft.facing,
    }
  }

  /** Back to the last checkpoint: rock that was blown up is whole again, pearls are where they were. */
  goBack(): void {
    if (this.saved === null) return
    const { world, numbers, fuses, hand, facing } = this.saved
    this.place.world.restore(world)
    // The time that was lost is not given back; a hull that would not last is.
    const { time, hits } = this.numbers
    this.numbers = { ...numbers, hull: Math.max(numbers.hull, MENDED), time, hits }
    this.fuses = fuses.map((fuse) => ({ ...fuse }))
    this.craft.hand = hand
    this.craft.facing = facing
    this.happened.length = 0
    this.standing = 'under way'
  }
  // end

  private tell(happening: Happening): void {
    this.happened.push(happening)
  }

  private act({ ping: pings, claw, charge }: Controls): void {
    const { craft, place } = this
    if (pings) this.tell({ kind: 'ping', at: craft.body.at, echoes: ping(place.world, craft) })
    if (claw && craft.holds !== null) {
      craft.release()
      this.tell({ kind: 'release' })
    } else if (claw) this.tell({ kind: craft.grab() === null ? 'empty' : 'grab' })
    if (charge) this.dropCharge()
  }

  private dropCharge(): void {
    const { craft, numbers, place } = this
    if (numbers.charges === 0) {
      this.tell({ kind: 'empty' })
      return
    }
    numbers.charges--
    const { at, velocity } = craft.body
    const body = place.drop({ x: at.x + 0.3 * craft.facing, y: at.y - 0.9 }, velocity)
    this.fuses.push({ body, left: FUSE })
    this.tell({ kind: 'drop' })
  }

  /** Seconds until each charge goes off. */
  burning(): readonly { readonly body: GameBody; readonly left: number }[] {
    return this.fuses
  }

  private burn(dt: number): void {
    const { numbers } = this
    if (numbers.charges < CHARGES) numbers.reload += dt
    if (numbers.reload >= RELOAD) {
      numbers.reload = 0
      numbers.charges++
    }
    for (const fuse of this.fuses) fuse.left -= dt
    const due = this.fuses.filter(({ left }) => left <= 0)
    this.fuses = this.fuses.filter(({ left }) => left > 0)
    for (const { body } of due) this.explode(body)
  }

  // tour: charge
  /** A charge goes off: cracked rock goes, what is cut off falls, and what is in the open is pushed away. */
  private explode(charge: GameBody): void {
    const { craft, place } = this
    const { at } = charge
    charge.remove()
    const { pieces } = place.ground.carve({ shape: circle(BREAKS), at, tiles: 'touched', cutOff: 60 })
    for (const piece of pieces) place.fall(piece)
    for (const { body, impulse } of blast(place.world, { at, reach: PUSHES, strength: STRENGTH, cover: 'rock' })) {
      if (body !== craft.body) continue
      const speed = Math.sqrt(impulse.x * impulse.x + impulse.y * impulse.y) / body.mass
      this.hurt(speed, body.at)
    }
    this.tell({ kind: 'blast', at })
  }
  // end

  /** The craft is struck: by so many metres a second it is faster or slower. */
  private hurt(speed: number, at: Vec2): void {
    const harm = Math.max(0, (speed - SOFT) * HARM)
    if (harm === 0) return
    this.numbers.hits++
    this.tell({ kind: 'hit', at, harm })
    this.lose(harm)
  }

  private lose(harm: number): void {
    const { numbers } = this
    const before = numbers.hull
    numbers.hull = Math.max(0, before - harm)
    if (before >= LOW * HULL && numbers.hull < LOW * HULL) this.tell({ kind: 'low' })
  }

  private breathe(dt: number): void {
    const { numbers } = this
    const before = numbers.air
    numbers.air = Math.max(0, before - dt)
    if (before >= LOW * AIR && numbers.air < LOW * AIR) this.tell({ kind: 'low' })
  }
}
