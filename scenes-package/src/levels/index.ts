/**
 * Levels that were drawn elsewhere: pictures, tables, drawings and maps as tiles and lines, and outlines back as drawings and maps.
 * @module keen-sentry-scenes/levels
 */
export { csvFromRows, type NumberGrid, numbersFromCsv } from './csv.ts'
export { geoJsonFromOutlines, linesFromGeoJson, type OutlineMap, type ReadGeoJsonOptions } from './geojson.ts'
export type { Line } from './line.ts'
export { type ColourKey, type Pixels, pngFromRows, rowsFromPixels, rowsFromPng } from './pixels.ts'
export { linesFromSvg, type ReadSvgOptions, svgFromOutlines } from './svg.ts'
