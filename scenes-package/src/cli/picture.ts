/** The picture of a played scene, as SVG or PNG by the ending of the file. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { extname } from 'node:path'
import { Option } from 'commander'
import type { Vec3 } from 'keen-sentry/3d'
import {
  ANGLE,
  type Camera,
  cameraFor,
  type DrawItem,
  type DrawItem3,
  type DrawList,
  drawWorld2,
  drawWorld3,
  type NamedView,
  pictureArea,
  project,
  type ShownRay2,
  type ShownRay3,
  toSvg,
  VIEWS,
} from 'keen-sentry/draw'
import type { SceneKinds2, SceneKinds3, ScenePlayer, ScenePlayer2, ScenePlayer3 } from '../scene/index.ts'
import { number, vectorOf } from './arguments.ts'
import { Failure, USAGE } from './failure.ts'
import { writeFile } from './files.ts'

/** How a picture is taken: its size, and for scenes of 3D from where. */
export interface PictureOptions {
  width: number
  height: number
  view?: NamedView | undefined
  eye?: number[] | undefined
  target?: number[] | undefined
  viewAngle?: number | undefined
}

/** The options that say from where a scene of 3D is seen. */
export function viewOptions(): Option[] {
  return [
    new Option('--view <view>', 'of a 3d scene: from where (default: as the scene says)').choices(VIEWS),
    new Option('--eye <x,y,z>', 'of a 3d scene: where the eye is').argParser(vectorOf).conflicts('view'),
    new Option('--target <x,y,z>', 'of a 3d scene: what is in the middle').argParser(vectorOf).conflicts('view'),
    new Option('--view-angle <radians>', 'of a 3d scene: from the lower edge to the upper')
      .argParser(number)
      .conflicts('view'),
  ]
}

/** A point of 3D that was given as an option. */
export function spacePoint(numbers: readonly number[], option: string): Vec3 {
  if (numbers.length !== 3) throw new Failure(`--${option} of a 3d scene takes three numbers, as 3,-1.5,2`, USAGE)
  return { x: numbers[0], y: numbers[1], z: numbers[2] }
}

/** What a player of 2D shows now: the world in the scene's view, and its rays. */
export function planeList(player: ScenePlayer2): DrawList {
  const { scene, world } = player
  const rays: ShownRay2<SceneKinds2>[] = []
  for (const { ray, from, to, hit } of player.rays) {
    if (from !== null && to !== null) rays.push({ name: ray.name, from, to, hit })
  }
  const point = ([x, y]: readonly [number, number]) => ({ x, y })
  const view = scene.view && { min: point(scene.view.min), max: point(scene.view.max) }
  return drawWorld2(world, { title: scene.name, view, rays, trails: player.trails })
}

/** What a player of 3D shows now, as its camera sees it. */
export function spaceList(player: ScenePlayer3, options: PictureOptions, more: readonly DrawItem3[] = []): DrawList {
  const { scene, world } = player
  const rays: ShownRay3<SceneKinds3>[] = []
  for (const { ray, from, to, hit } of player.rays) {
    if (from !== null && to !== null) rays.push({ name: ray.name, from, to, hit })
  }
  const list = drawWorld3(world, { title: scene.name, rays, trails: player.trails })
  const area = pictureArea(options)
  const camera = cameraOf(player, options, list, area.width / area.height)
  return project({ ...list, items: [...list.items, ...more] }, camera, area)
}

/** By the options, else as the scene says, else so that all is in view. */
function cameraOf(
  { scene }: ScenePlayer3,
  options: PictureOptions,
  box: { min: Vec3; max: Vec3 },
  aspect: number,
): Camera {
  if (options.view !== undefined) return cameraFor(options.view, box.min, box.max, aspect)
  const point = ([x, y, z]: readonly [number, number, number]) => ({ x, y, z })
  const usual = cameraFor('perspective', box.min, box.max, aspect)
  const eye = options.eye && spacePoint(options.eye, 'eye')
  const target = options.target && spacePoint(options.target, 'target')
  const angle = options.viewAngle ?? scene.view?.angle ?? ANGLE
  if (!(angle > 0 && angle < Math.PI)) throw new Failure('--view-angle must be above 0 and below 3.14', USAGE)
  return {
    eye: eye ?? (scene.view === undefined ? usual.eye : point(scene.view.eye)),
    target: target ?? (scene.view === undefined ? usual.target : point(scene.view.target)),
    angle,
  }
}

/** What a player shows now. Refuses options of a camera where there is none. */
export function sceneDrawList(player: ScenePlayer, options: PictureOptions): DrawList {
  if (player.dimension === '3d') return spaceList(player, options)
  refuseCamera(options)
  return planeList(player)
}

/** A scene of 2D is seen as it is. */
export function refuseCamera(options: PictureOptions): void {
  for (const [field, flag] of [
    ['view', '--view'],
    ['eye', '--eye'],
    ['target', '--target'],
    ['viewAngle', '--view-angle'],
  ] as const) {
    if (options[field] !== undefined) throw new Failure(`${flag} is of 3d scenes, and this scene is 2d`, USAGE)
  }
}

/** Further items in a list of 2D. */
export function withItems(list: DrawList, items: readonly DrawItem[]): DrawList {
  return { ...list, items: [...list.items, ...items] }
}

/** Refuses a file whose ending says neither SVG nor PNG. */
export function checkEnding(path: string): void {
  const ending = extname(path).toLowerCase()
  if (ending === '.svg' || ending === '.png') return
  throw new Failure(`--out must end in .svg or .png, got ${path}`, USAGE)
}

export function writePicture(list: DrawList, path: string, size: PictureOptions): Promise<void> {
  return writeSvg(toSvg(list, size), path)
}

/** Writes a picture that is there as SVG, by the ending of the file. */
export async function writeSvg(svg: string, path: string): Promise<void> {
  writeFile(path, extname(path).toLowerCase() === '.svg' ? svg : await toPng(svg))
}

let renderer: Promise<typeof import('@resvg/resvg-wasm')> | null = null

async function openRenderer(): Promise<typeof import('@resvg/resvg-wasm')> {
  const wasm = await import('@resvg/resvg-wasm')
  await wasm.initWasm(readFileSync(createRequire(import.meta.url).resolve('@resvg/resvg-wasm/index_bg.wasm')))
  return wasm
}

/** Rendered with the font that comes with the package, so that the same scene gives the same picture everywhere. */
async function toPng(svg: string): Promise<Uint8Array> {
  renderer ??= openRenderer()
  const { Resvg } = await renderer
  const require = createRequire(import.meta.url)
  const fonts = ['DejaVuSans.ttf', 'DejaVuSans-Bold.ttf'].map((name) =>
    readFileSync(require.resolve(`dejavu-fonts-ttf/ttf/${name}`)),
  )
  const image = new Resvg(svg, {
    font: { fontBuffers: fonts, defaultFontFamily: 'DejaVu Sans', loadSystemFonts: false },
  }).render()
  return image.asPng()
}
