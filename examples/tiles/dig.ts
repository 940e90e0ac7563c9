/** The dig of the page: a grid of tiles that can be painted, water that flows through it by rules of its own, and balls that roll on it. */
import { type BodyOf, box, circle, createWorld, defineLayers, tiles } from 'keen-sentry/2d'

const LEVEL = [
  '################################################',
  '#..............................................#',
  '#..............................................#',
  '#..............................................#',
  '#\\.............................................#',
  '###\\...........................................#',
  '#####\\...................................~~~~~~#',
  '#######\\.................................~~~~~~#',
  '#########\\...............................~~~~~~#',
  '#.....##########\\...................############',
  '#.....#############>>>>>>...../###########.....#',
  '#......................##...../##..............#',
  '#......................##.../####..............#',
  '#......................##--####................#',
  '#...../##\\.............##..###.................#',
  '#..../####\\............##..##..................#',
  '#.../######\\...........##..##.................##',
  '#../########\\....########..##########\\........##',
  '#./##########\\...#...................##\\......##',
  '###############..#....................###\\...###',
  '###............--#.....................###..####',
  '##...............#...........................###',
  '##....##..##.....#............##...##.........##',
  '##....##..##.....#............##...##.........##',
  '##~~~~##~~##~~~~~#~~~~~~~~~~~~##~~~##~~~~~~~~~##',
  '##~~~~~~~~~~~~~~~#~~~~~~~~~~~~~~~~~~~~~~~~~~~~##',
  '##~~~~~~~~~~~~~~~#~~~~~~~~~~~~~~~~~~~~~~~~~~~~##',
  '################################################',
]

/** Columns and rows of the dig; a tile is a metre. */
export const COLUMNS = LEVEL[0].length
export const ROWS = LEVEL.length
export const SEEN = { min: { x: -0.5, y: -0.5 }, max: { x: COLUMNS + 0.5, y: ROWS + 0.5 } }
const BALLS = 40
/** Ticks between two balls, and between two steps of the water. */
const EVERY = 24
const FLOW = 3
/** Cells beside it that water looks along. */
const REACH = 12
/** Newtons of lift a square metre of water that is displaced, and how much it damps. */
const LIFT = 19.6
const DRAG = 2.5

const layers = defineLayers(['rock', 'ball', 'water', 'debris'], { pairs: [['water', '*', 'sense']] })

export function dig() {
  const world = createWorld({ layers })
  const rock = world.add({
    type: 'static',
    name: 'rock',
    colliders: [
      {
        layer: 'rock',
        friction: 0.4,
        shape: tiles({
          rows: LEVEL,
          kinds: {
            '#': {},
            '/': {
              shape: [
                { x: 0, y: 0 },
                { x: 1, y: 0 },
                { x: 1, y: 1 },
              ],
            },
            '\\': {
              shape: [
                { x: 0, y: 0 },
                { x: 1, y: 0 },
                { x: 0, y: 1 },
              ],
            },
            '>': { surfaceSpeed: 3 },
            '-': {
              shape: [
                { x: 0, y: 0.75 },
                { x: 1, y: 0.75 },
                { x: 1, y: 1 },
                { x: 0, y: 1 },
              ],
              oneWay: { x: 0, y: 1 },
            },
            '~': { layer: 'water', response: 'sense' },
          },
        }),
      },
    ],
  })
  const [ground] = rock.colliders
  const isEmpty = (column: number, row: number) => ground.tileAt(column, row) === '.'
  const move = (column: number, row: number, toColumn: number, toRow: number): void => {
    ground.setTile(column, row, '.')
    ground.setTile(toColumn, toRow, '~')
  }

  /** The way to where it can go down, among the empty cells beside it: -1, 1, or 0 for none within reach. */
  const wayDown = (column: number, row: number, first: number): number => {
    for (const by of [first, -first]) {
      for (let k = 1; k <= REACH && isEmpty(column + k * by, row); k++) {
        if (isEmpty(column + k * by, row + 1)) return by
      }
    }
    return 0
  }

  /** A step of the water: down, else towards where it can go down, else aside where more water presses from above. */
  const flow = (): void => {
    const first = world.tick % (2 * FLOW) === 0 ? 1 : -1
    for (let row = ROWS - 2; row > 0; row--) {
      for (let k = 1; k < COLUMNS - 1; k++) {
        const column = first > 0 ? k : COLUMNS - 1 - k
        if (ground.tileAt(column, row) !== '~') continue
        if (isEmpty(column, row + 1)) {
          move(column, row, column, row + 1)
          continue
        }
        let side = wayDown(column, row, first)
        if (side === 0 && ground.tileAt(column, row - 1) === '~') {
          side = [first, -first].find((by) => isEmpty(column + by, row)) ?? 0
        }
        if (side !== 0) move(column, row, column + side, row)
      }
    }
  }

  const balls: BodyOf<typeof world>[] = []
  let made = 0
  const drop = (): void => {
    const radius = 0.28 + 0.06 * (made % 4)
    balls.push(
      world.add({
        type: 'dynamic',
        name: `ball ${++made}`,
        at: { x: 2 + (made % 3), y: ROWS - 1.6 },
        colliders: [{ shape: circle(radius), layer: 'ball', friction: 0.4, restitution: 0.2 }],
      }),
    )
    if (balls.length > BALLS) balls.shift()!.remove()
  }

  /** What is in the water is lifted by what it displaces of it: the part below the highest water about it. */
  const float = (): void => {
    for (const body of world.bodies()) {
      if (body.type !== 'dynamic') continue
      const wet = body.overlapping().some(({ other }) => other.layer === 'water')
      body.damping = wet ? DRAG : 0
      if (!wet) continue
      const column = Math.floor(body.at.x)
      let row = Math.max(0, Math.min(ROWS - 1, ROWS - 1 - Math.floor(body.at.y)))
      if (column < 0 || column >= COLUMNS) continue
      while (row > 0 && ground.tileAt(column, row - 1) === '~') row--
      const area = body.colliders.reduce((sum, { shape }) => sum + shape.area, 0)
      const below = (ROWS - row - body.at.y) / Math.sqrt(area) + 0.5
      const part = Math.max(0, Math.min(1, below))
      body.applyForce({ x: 0, y: LIFT * area * part })
    }
  }

  return {
    world,
    ground,
    balls,
    /** Before each tick of the world. */
    prepare(): void {
      if (world.tick % EVERY === 0) drop()
      if (world.tick % FLOW === 0) flow()
      float()
    },
    /** A charge: tiles go, what is cut off falls. */
    blast(x: number, y: number, radius: number) {
      const { tiles: gone, pieces } = ground.carve({ shape: circle(radius), at: { x, y }, cutOff: 200 })
      for (const piece of pieces) {
        const { shape, at, angle } = piece
        world.add({ type: 'dynamic', name: 'debris', at, angle, colliders: [{ shape, layer: 'debris', density: 2 }] })
      }
      return { gone: gone.length, pieces: pieces.map((piece) => piece.tiles.length) }
    },
    /** A crate to drop somewhere. */
    crate(x: number, y: number): void {
      world.add({
        type: 'dynamic',
        name: 'crate',
        at: { x, y },
        colliders: [{ shape: box(0.9, 0.9), layer: 'debris', density: 0.6, friction: 0.5 }],
      })
    },
  }
}
