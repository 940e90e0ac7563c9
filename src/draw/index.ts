/**
 * Pictures of a world: a draw list that any renderer can show, as SVG, and on a canvas. Lists of 2D are drawn as they
 * are; lists of 3D through a camera, or as line segments over a picture of one's own.
 * @module keen-sentry/draw
 */
export { ANGLE, type Camera, cameraFor, type NamedView, VIEWS } from './camera.ts'
export { type CanvasOptions, type Pen, toCanvas } from './canvas.ts'
export type { DrawItem, DrawList, FaceItem, LabelItem, LegendEntry, Point, RoundItem } from './list.ts'
export type { DrawItem3, DrawList3 } from './list3d.ts'
export type { ShownTrail } from './looks.ts'
export { OVERLAYS, type Overlays } from './overlays.ts'
export { layerColour } from './palette.ts'
export { project } from './project.ts'
export { type Question2, questionItems2, type ShownHit2 } from './question2d.ts'
export { type Question3, questionItems3, type ShownHit3 } from './question3d.ts'
export { type Segments, segments } from './segments.ts'
export { type Solid, solidsOf } from './solids.ts'
export { pictureArea, type SvgOptions, toSvg } from './svg.ts'
export type { ThemeName } from './theme.ts'
export { fitView, type View, viewAt } from './view.ts'
export { type DrawWorldOptions2, drawWorld2, type ShownRay2 } from './world2d.ts'
export { type DrawWorldOptions3, drawWorld3, type ShownRay3 } from './world3d.ts'
