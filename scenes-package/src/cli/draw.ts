/** `keen-sentry draw`: a picture of a scene at a tick. */
import { Command } from 'commander'
import { pixels, tickNumber } from './arguments.ts'
import { modelsOption, openScene, playedUntil, type SceneOptions } from './files.ts'
import { checkEnding, type PictureOptions, sceneDrawList, viewOptions, writePicture } from './picture.ts'

interface DrawOptions extends PictureOptions, SceneOptions {
  tick: number
  out: string
}

export function drawCommand(): Command {
  const command = new Command('draw')
    .description(
      'Draw a scene as it stands after a tick: solids plain, sensors hatched, rays and touches marked; in 3d what is hidden is dimmed.',
    )
    .argument('<scene>', "scene file, or '-' for standard input")
    .addOption(modelsOption())
    .requiredOption('-o, --out <file>', 'the picture; its ending says SVG or PNG')
    .option('-t, --tick <number>', 'after which tick; 0 is before the first', tickNumber, 0)
    .option('--width <pixels>', 'width of the picture', pixels, 1280)
    .option('--height <pixels>', 'height of the picture', pixels, 800)
  for (const option of viewOptions()) command.addOption(option)
  return command
    .addHelpText(
      'after',
      '\nExamples:\n  $ keen-sentry draw scenes/lantern-reef.json --tick 300 --out out/reef.png\n  $ keen-sentry draw scenes/sea-floor.json --view top --out out/sea-floor.svg',
    )
    .action(async (path: string, options: DrawOptions) => {
      checkEnding(options.out)
      const player = playedUntil(await openScene(path, options), options.tick)
      await writePicture(sceneDrawList(player, options), options.out, options)
      process.stdout.write(
        `${options.out}: ${player.scene.name} after tick ${options.tick}, ${options.width} x ${options.height}\n`,
      )
    })
}
