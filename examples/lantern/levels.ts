/** The two levels: rock as rows of signs, and what else is there. A sign is a metre; y counts from the lower edge. */
import type { Vec2 } from 'keen-sentry/2d'

/** A rectangle of water or air. */
export interface Area {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** Water that flows: how it pushes, in metres a second squared. */
export interface Current extends Area {
  readonly push: Vec2
}

/** What the radio says when the craft comes by. */
export interface Hint extends Area {
  readonly text: string
  /** What is said on a screen without keys, where that is something else. */
  readonly touch?: string
}

export interface Level {
  readonly name: string
  readonly task: string
  /** `#` rock, `%` cracked rock; `/ \ ( )` rock in one corner; `.` water. */
  readonly rows: readonly string[]
  readonly start: Vec2
  readonly lantern: Vec2
  /** Where the lantern has to go. */
  readonly goal: Area
  /** Whether the craft has to come along. */
  readonly docks: boolean
  readonly pockets: readonly Area[]
  readonly currents: readonly Current[]
  readonly crates: readonly Vec2[]
  readonly pearls: readonly Vec2[]
  readonly jellies: readonly { readonly at: Vec2; readonly way: Vec2 }[]
  /** Gates that hang on a hinge: where that is, and how long they are. */
  readonly gates: readonly { readonly at: Vec2; readonly length: number }[]
  /** A door that goes up while something heavy lies on its plate. */
  readonly doors: readonly { readonly at: Vec2; readonly height: number; readonly plate: Area }[]
  /** A ball that swings on a chain. */
  readonly pendulums: readonly { readonly at: Vec2; readonly length: number; readonly radius: number }[]
  readonly hints: readonly Hint[]
}

const rowsOf = (text: string): string[] => text.trim().split('\n')

const SHAFT: Level = {
  name: 'The flooded shaft',
  task: 'Bring the lantern to the dock',
  rows: rowsOf(String.raw`
################################################################
################################################################
###############################........#########################
##############################(........)########..............##
#############################(............)####(..............##
#####(..........############..................................##
##..............############..................................##
##..............############..................................##
##..............############........................../\......##
##..............############............../#############......##
##..............)##########(..............######################
##........................................######################
##........................................########(..)####(...##
##........................................###.................##
##........................................###.................##
##............../##########\..............%%..................##
##..............############..............%%..................##
##....../##\....############..............%%..................##
##......####....############..............%%..................##
############################..............%%..................##
#############################\../####\....%%..................##
################################################################
################################################################
################################################################`),
  start: { x: 6, y: 14 },
  lantern: { x: 57, y: 4.5 },
  goal: { x: 57, y: 14, width: 4.5, height: 2.6 },
  docks: true,
  pockets: [{ x: 31, y: 20, width: 8, height: 2 }],
  currents: [],
  crates: [
    { x: 7.5, y: 7.5 },
    { x: 34, y: 4.5 },
  ],
  pearls: [
    { x: 4, y: 16 },
    { x: 12.5, y: 7 },
    { x: 25, y: 11 },
    { x: 39.5, y: 4.6 },
    { x: 29.5, y: 17 },
    { x: 48, y: 4.8 },
    { x: 60.5, y: 11 },
    { x: 51, y: 19.5 },
  ],
  jellies: [],
  gates: [{ at: { x: 21.5, y: 13 }, length: 3.7 }],
  doors: [],
  pendulums: [],
  hints: [
    {
      x: 2,
      y: 6,
      width: 14,
      height: 13,
      text: 'Arrow keys steer. Space pings: what the sound meets, lights up.',
      touch: 'The round pad steers. Ping: what the sound meets, lights up.',
    },
    { x: 16, y: 9, width: 5, height: 4, text: 'The gate hangs on a hinge. Push.' },
    { x: 28, y: 8, width: 8, height: 6, text: 'Air is short down here. There is some under the roof above.' },
    {
      x: 36,
      y: 3,
      width: 6,
      height: 7,
      text: 'Cracked rock. X drops a charge: then keep away from it.',
      touch: 'Cracked rock. Charge drops one: then keep away from it.',
    },
    {
      x: 50,
      y: 3,
      width: 11,
      height: 9,
      text: 'The lantern! C grabs it with the claw, and lets it go.',
      touch: 'The lantern! Claw grabs it, and lets it go.',
    },
    { x: 42, y: 15, width: 6, height: 4, text: 'Slowly: rock that is hit hard hits back.' },
  ],
}

const WORKS: Level = {
  name: 'The drowned works',
  task: 'Set the great lantern into its socket',
  rows: rowsOf(String.raw`
########################################################################
########################################################################
########################################################################
##...)##(.....##########################################(.............##
##............####################################....................##
##............####################################....................##
##............###########################...)####(....................##
##............###########################.............................##
#######\......###########################.............................##
########......###########################.............................##
########......###########################.............................##
########......###########################................/#\..........##
########......###########################................###..........##
########......###########################................###..........##
########......###########################................###..........##
########......###########################................###..........##
########......)(..)######################................###..........##
########..........................#######................###..........##
########..........................)#####(................###..........##
########.................................................%%...........##
########.................................................%%...........##
########.................................................%%...........##
########...../#\................/\.......................%%........./###
########.....###......../##################\../#############....../#####
########################################################################
########################################################################`),
  start: { x: 5, y: 20 },
  lantern: { x: 64.5, y: 2.5 },
  goal: { x: 57.7, y: 15, width: 1.6, height: 1.2 },
  docks: false,
  pockets: [{ x: 50, y: 20, width: 7, height: 2 }],
  currents: [{ x: 60, y: 8, width: 10, height: 7, push: { x: 0, y: -4 } }],
  crates: [{ x: 29, y: 4 }],
  pearls: [
    { x: 3.5, y: 21 },
    { x: 9, y: 3.6 },
    { x: 16.5, y: 9.2 },
    { x: 38, y: 3.7 },
    { x: 43, y: 18 },
    { x: 54, y: 5 },
    { x: 61.5, y: 13 },
    { x: 68, y: 21 },
  ],
  jellies: [
    { at: { x: 43, y: 13 }, way: { x: 0, y: 3 } },
    { at: { x: 53, y: 15 }, way: { x: 2, y: 0 } },
    { at: { x: 64, y: 18 }, way: { x: 3, y: 0 } },
  ],
  gates: [],
  doors: [{ at: { x: 37, y: 5 }, height: 4, plate: { x: 16.3, y: 2, width: 7.4, height: 0.25 } }],
  pendulums: [{ at: { x: 48.5, y: 20 }, length: 14.2, radius: 0.9 }],
  hints: [
    {
      x: 8,
      y: 8,
      width: 6,
      height: 8,
      text: 'The works are below. Their door opens while something heavy is on the plate.',
    },
    { x: 34, y: 3, width: 3, height: 4, text: 'Closed. A crate on the plate would hold it open.' },
    { x: 41, y: 2, width: 4, height: 6, text: 'Mind the pendulum.' },
    {
      x: 60,
      y: 3,
      width: 9,
      height: 5,
      text: 'The great lantern. The current above bears down: go up along a wall, and do not let go.',
    },
  ],
}

export const LEVELS: readonly Level[] = [SHAFT, WORKS]
