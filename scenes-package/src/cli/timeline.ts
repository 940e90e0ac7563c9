/** `keen-sentry timeline`: what met what, and for how long, as a picture. */
import { Command } from 'commander'
import type { Scene } from '../scene/index.ts'
import { pixels, tickCount } from './arguments.ts'
import { Failure, USAGE } from './failure.ts'
import { modelsOption, type SceneOptions } from './files.ts'
import { watchKey } from './lines.ts'
import { checkEnding, writeSvg } from './picture.ts'
import { linesOf, openSide } from './sides.ts'
import { timelineOf } from './timelinePicture.ts'

interface TimelineOptions extends SceneOptions {
  out: string
  width: number
  ticks?: number | undefined
}

/** Less than this is too narrow for names and bars. */
const LEAST_WIDTH = 480

export function timelineCommand(): Command {
  return new Command('timeline')
    .description(
      'Draw what happens over time: a bar for each pair from begin to end with its cause, impacts as spikes, changes of rays, actions, ends of joints.',
    )
    .argument('<file>', "a scene or an event log (run --log), or '-' for standard input")
    .requiredOption('-o, --out <file>', 'the picture; its ending says SVG or PNG')
    .option('-t, --ticks <count>', 'of a scene: how many ticks to play (default: as the scene says)', tickCount)
    .option('--width <pixels>', 'width of the picture; its height follows from the rows', pixels, 1280)
    .addOption(modelsOption())
    .addHelpText('after', '\nExample:\n  $ keen-sentry timeline scenes/lantern-reef.json --out out/timeline.png')
    .action(async (path: string, options: TimelineOptions) => {
      checkEnding(options.out)
      if (options.width < LEAST_WIDTH) throw new Failure(`--width must be ${LEAST_WIDTH} at least`, USAGE)
      const side = await openSide(path, options)
      if (side.kind === 'save')
        throw new Failure(`${path} holds a world, and no events: give a scene or an event log`, USAGE)
      if (side.kind === 'log' && options.ticks !== undefined)
        throw new Failure('--ticks belongs to a scene: a log says where it ends', USAGE)
      const lines = side.kind === 'log' ? side.lines : linesOf(side.opened, options.ticks, false)
      const { svg, rows, ticks, left } = timelineOf(
        lines,
        options.width,
        side.kind === 'log' ? new Set() : endlessOf(side.opened.scene),
      )
      await writeSvg(svg, options.out)
      const more = left > 0 ? `, ${left} more have no room` : ''
      process.stdout.write(`${options.out}: ${ticks} ticks, ${rows} ${rows === 1 ? 'row' : 'rows'}${more}\n`)
    })
}

/** The watches of a scene that tell no ends. */
function endlessOf({ watches = [] }: Scene): ReadonlySet<string> {
  return new Set(watches.filter(({ kinds }) => kinds !== undefined && !kinds.includes('end')).map(watchKey))
}
