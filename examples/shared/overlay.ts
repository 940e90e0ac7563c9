/** The draw list of a world of 3D as lines of three: its whole debug view, over any picture of one's own. */

import { type DrawList3, segments } from 'keen-sentry/draw'
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments } from 'three'

/** Lines to be added to a scene. Show another list with {@link update}. */
export function overlay(list: DrawList3): LineSegments {
  const lines = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ vertexColors: true }))
  lines.frustumCulled = false
  update(lines, list)
  return lines
}

/** Shows a list instead of the one before. */
export function update(lines: LineSegments, list: DrawList3): void {
  const { positions, colours } = segments(list, 60)
  lines.geometry.dispose()
  lines.geometry = new BufferGeometry()
  lines.geometry.setAttribute('position', new BufferAttribute(positions, 3))
  lines.geometry.setAttribute('color', new BufferAttribute(colours, 3))
}
