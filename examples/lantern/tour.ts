/** The tour: each thing of the game, with the lines of its code that do it. They are cut out of the code as it runs. */
import craft from './craft.ts?raw'
import game from './game.ts?raw'
import place from './place.ts?raw'
import sonar from './sonar.ts?raw'

/** A thing that can be asked for its lines. */
export interface Stop {
  readonly name: string
  readonly title: string
  readonly text: string
  /** Where the guide tells more. */
  readonly guide: string
}

export const STOPS: readonly Stop[] = [
  {
    name: 'craft',
    title: 'The craft',
    text: 'A dynamic body of three shapes. Water is damping; keys are forces.',
    guide: 'Forces and contacts',
  },
  {
    name: 'cargo',
    title: 'Claw and cargo',
    text: 'The claw finds what is nearest, and holds it by a soft joint that has a bound.',
    guide: 'Joints',
  },
  {
    name: 'ping',
    title: 'The sonar',
    text: 'A ping is 180 raycasts. What they meet says what it is.',
    guide: 'Queries',
  },
  { name: 'lamp', title: 'The lamp', text: 'Light is a fan of rays, as far as they come.', guide: 'Queries' },
  {
    name: 'rock',
    title: 'Rock',
    text: 'The level is one shape of tiles. An impact reports how hard it was hit.',
    guide: 'Tiles, Impacts',
  },
  {
    name: 'charge',
    title: 'Charges',
    text: 'Cracked tiles are carved away, what is cut off falls, and a blast pushes what has no cover.',
    guide: 'Tiles, Forces and contacts',
  },
  {
    name: 'air',
    title: 'Air pockets',
    text: 'A zone that is sensed. The craft enters once, though it has three shapes.',
    guide: 'Watches',
  },
  { name: 'pearl', title: 'Pearls', text: 'A handler may remove what it is told of.', guide: 'Inside a handler' },
  {
    name: 'gate',
    title: 'The gate',
    text: 'A slab on a hinge with limits: whoever pushes, swings it.',
    guide: 'Joints',
  },
  {
    name: 'door',
    title: 'Plate and door',
    text: 'While a watch says that cargo is on the plate, a motor lifts the door.',
    guide: 'Joints, Watches',
  },
  { name: 'pendulum', title: 'The pendulum', text: 'A ball on a rod. Lost energy is given back.', guide: 'Joints' },
  {
    name: 'jelly',
    title: 'Jellyfish',
    text: 'Kinematic bodies on their ways, sensed by the craft.',
    guide: 'Bodies and colliders',
  },
  { name: 'current', title: 'The current', text: 'Each tick in a zone gives a force.', guide: 'Watches' },
  { name: 'hint', title: 'The radio', text: 'What it says lies in the data of zones.', guide: 'Types' },
  { name: 'goal', title: 'Dock and socket', text: 'A watch knows how many are in.', guide: 'Watches' },
  {
    name: 'checkpoint',
    title: 'Checkpoints',
    text: 'The whole world is taken down in a pocket, and put back to the bit.',
    guide: 'Going back',
  },
  {
    name: 'layers',
    title: 'Who meets whom',
    text: 'The table of layers, once for the whole game.',
    guide: 'Layers and responses',
  },
]

/** What some things are shown with. */
const SAME: Readonly<Record<string, string>> = { lantern: 'cargo', crate: 'cargo', plate: 'door', debris: 'charge' }

/** The stop of a thing; null for what has none. */
export function stopOf(thing: string): Stop | null {
  const name = SAME[thing] ?? thing
  return STOPS.find((stop) => stop.name === name) ?? null
}

const FILES = { 'place.ts': place, 'craft.ts': craft, 'game.ts': game, 'sonar.ts': sonar }

/** The lines that do it, by file. Marks in the code say where they begin and end. */
export function linesOf({ name }: Stop): { readonly file: string; readonly code: string }[] {
  const found: { file: string; code: string }[] = []
  for (const [file, source] of Object.entries(FILES)) {
    const parts: string[] = []
    let part: string[] | null = null
    for (const line of source.split('\n')) {
      const mark = line.trim()
      if (mark === `// tour: ${name}`) part = []
      else if (mark === '// end' && part !== null) {
        parts.push(undented(part))
        part = null
      } else if (part !== null && !mark.startsWith('// tour:')) part.push(line)
    }
    if (parts.length > 0) found.push({ file, code: parts.join('\n\n') })
  }
  return found
}

function undented(lines: readonly string[]): string {
  const indents = lines.filter((line) => line.trim() !== '').map((line) => line.length - line.trimStart().length)
  const least = Math.min(...indents)
  return lines.map((line) => line.slice(least)).join('\n')
}
