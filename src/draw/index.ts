/** Pictures of a world: a draw list that any renderer can show, as SVG, and on a canvas. */
export { type Pen, toCanvas } from './canvas.ts'
export type { DrawItem, DrawList, LabelItem, LegendEntry, Point, RoundItem } from './list.ts'
export { layerColour } from './palette.ts'
export { type Question, questionItems, type ShownHit } from './question.ts'
export { type SvgOptions, toSvg } from './svg.ts'
export { fitView, type View } from './view.ts'
export { type DrawWorldOptions, drawWorld, type ShownRay } from './world2d.ts'
