/** Names beside the bodies of a picture of 3D: on a canvas over it, where they find room; what moves comes first. */
import type { Body3, Vec3 } from 'keen-sentry/3d'
import { type LabelItem, toCanvas, viewAt } from 'keen-sentry/draw'
import { type Camera, Vector3 } from 'three'
import { fit } from './page.ts'

const PLAIN = '#c3d2e0'
const STRONG = '#ffffff'
/** Pixels between a body and its name. */
const GAP = 4

export class Names {
  private readonly canvas = document.createElement('canvas')
  private readonly pen = this.canvas.getContext('2d')!
  private readonly camera: Camera
  private readonly middle = new Vector3()

  /** @param under the canvas of the picture */
  constructor(under: HTMLCanvasElement, camera: Camera) {
    this.camera = camera
    this.canvas.className = 'names'
    this.canvas.setAttribute('aria-hidden', 'true')
    under.after(this.canvas)
  }

  /** Writes the names of bodies that have one, the first first. */
  draw(bodies: readonly Body3[], picked: Body3 | null = null): void {
    const { width, height } = fit(this.canvas, this.pen)
    this.pen.clearRect(0, 0, width, height)
    const rank = (body: Body3): number => (body === picked ? 0 : body.type === 'static' || body.asleep ? 2 : 1)
    const items = [...bodies]
      .filter(({ name, alive }) => alive && name !== null)
      .sort((a, b) => rank(a) - rank(b))
      .flatMap((body) => this.label(body, width, height, body === picked))
    const min = { x: 0, y: 0 }
    const list = { title: '', caption: '', min, max: { x: width, y: height }, items, legend: [] }
    toCanvas(list, this.pen, width, height, {
      view: viewAt({ x: width / 2, y: height / 2 }, 1, width, height),
      ground: false,
    })
  }

  close(): void {
    this.canvas.remove()
  }

  private label(body: Body3, width: number, height: number, isPicked: boolean): LabelItem[] {
    let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity]
    for (const { bounds } of body.colliders) {
      if (bounds === null || !Number.isFinite(bounds.min.x)) return []
      for (const corner of cornersOf(bounds.min, bounds.max)) {
        const { x, y, z } = this.middle.set(corner.x, corner.y, corner.z).project(this.camera)
        if (z > 1) return []
        left = Math.min(left, ((x + 1) / 2) * width)
        right = Math.max(right, ((x + 1) / 2) * width)
        bottom = Math.min(bottom, ((y + 1) / 2) * height)
        top = Math.max(top, ((y + 1) / 2) * height)
      }
    }
    if (!Number.isFinite(left)) return []
    // Of what fills the picture the name would say nothing.
    if (right - left > 0.8 * width && top - bottom > 0.5 * height) return []
    const min = { x: left - GAP, y: bottom - GAP }
    const max = { x: right + GAP, y: top + GAP }
    return [{ kind: 'label', min, max, inner: null, text: body.name!, colour: isPicked ? STRONG : PLAIN }]
  }
}

function* cornersOf(min: Vec3, max: Vec3): Generator<Vec3> {
  for (const x of [min.x, max.x]) for (const y of [min.y, max.y]) for (const z of [min.z, max.z]) yield { x, y, z }
}
