/** The picture of a played scene, as SVG or PNG by the ending of the file. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { extname } from 'node:path'
import { type DrawList, drawWorld, type ShownRay, toSvg } from '../draw/index.ts'
import type { SceneKinds, ScenePlayer } from '../scene/index.ts'
import { Failure, USAGE } from './failure.ts'
import { writeFile } from './files.ts'

export interface PictureSize {
  width: number
  height: number
}

/** What a player shows now: the world in the scene's view, and its rays. */
export function sceneDrawList(player: ScenePlayer): DrawList {
  const { scene, world } = player
  const rays: ShownRay<SceneKinds>[] = []
  for (const { ray, from, to, hit } of player.rays) {
    if (from !== null && to !== null) rays.push({ name: ray.name, from, to, hit })
  }
  const view = scene.view && { min: point(scene.view.min), max: point(scene.view.max) }
  return drawWorld(world, { title: scene.name, view, rays })
}

/** Refuses a file whose ending says neither SVG nor PNG. */
export function checkEnding(path: string): void {
  const ending = extname(path).toLowerCase()
  if (ending === '.svg' || ending === '.png') return
  throw new Failure(`--out must end in .svg or .png, got ${path}`, USAGE)
}

export async function writePicture(list: DrawList, path: string, size: PictureSize): Promise<void> {
  const svg = toSvg(list, size)
  writeFile(path, extname(path).toLowerCase() === '.svg' ? svg : await toPng(svg))
}

/** Rendered with the font that comes with the package, so that the same scene gives the same picture everywhere. */
async function toPng(svg: string): Promise<Uint8Array> {
  const { initWasm, Resvg } = await import('@resvg/resvg-wasm')
  const require = createRequire(import.meta.url)
  await initWasm(readFileSync(require.resolve('@resvg/resvg-wasm/index_bg.wasm')))
  const fonts = ['DejaVuSans.ttf', 'DejaVuSans-Bold.ttf'].map((name) =>
    readFileSync(require.resolve(`dejavu-fonts-ttf/ttf/${name}`)),
  )
  const image = new Resvg(svg, {
    font: { fontBuffers: fonts, defaultFontFamily: 'DejaVu Sans', loadSystemFonts: false },
  }).render()
  return image.asPng()
}

function point(at: readonly [number, number]): { x: number; y: number } {
  return { x: at[0], y: at[1] }
}
