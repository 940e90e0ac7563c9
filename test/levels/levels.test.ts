/** Levels in and out: what is written comes back the same, curves are within their tolerance, holes lie in their solids. */
import assert from 'node:assert/strict'
import { test } from 'node:test'
import fc from 'fast-check'
import {
  csvFromRows,
  geoJsonFromOutlines,
  type Line,
  linesFromGeoJson,
  linesFromSvg,
  numbersFromCsv,
  pngFromRows,
  rowsFromPixels,
  rowsFromPng,
  svgFromOutlines,
} from '../../scenes-package/src/levels/index.ts'
import { tiles, type Vec2 } from '../../src/2d/index.ts'
import { KeenError } from '../../src/core/index.ts'

const grids = fc
  .tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 12 }))
  .chain(([columns, rows]) =>
    fc.array(fc.array(fc.constantFrom('.', '#', '#', '~'), { minLength: columns, maxLength: columns }), {
      minLength: rows,
      maxLength: rows,
    }),
  )
  .map((rows) => rows.map((row) => row.join('')))

function area(points: readonly Vec2[]): number {
  return points.reduce((sum, a, i) => {
    const b = points[(i + 1) % points.length]
    return sum + (a.x * b.y - a.y * b.x) / 2
  }, 0)
}

const refused = (call: () => unknown, text: RegExp): void => {
  assert.throws(call, (error) => error instanceof KeenError && text.test(error.message))
}

test('rows come back from a PNG and from a table as they were', async () => {
  const key = { '#5b6470': '#', '#28f': '~' }
  await fc.assert(
    fc.asyncProperty(grids, async (rows) => {
      assert.deepEqual(await rowsFromPng(await pngFromRows(rows, key), key), rows)
      const { data, columns } = numbersFromCsv(csvFromRows(rows, ['#', '~']))
      const signs = data.map((number) => '.#~'[number]).join('')
      assert.equal(signs, rows.join(''))
      assert.equal(columns, rows[0].length)
    }),
    { numRuns: 100 },
  )
})

test('a pixel, a field and a key that are wrong are named', async () => {
  const pixels = { width: 2, height: 1, data: [91, 100, 112, 255, 91, 100, 113, 255] }
  refused(() => rowsFromPixels(pixels, { '#5b6470': '#', '#000': 'x' }), /pixel 1, 0 is #5b6471.*nearest.*#5b6470/)
  assert.deepEqual(rowsFromPixels({ ...pixels, data: [91, 100, 112, 255, 1, 2, 3, 0] }, { '#5B6470': '#' }), ['#.'])
  refused(() => rowsFromPixels({ ...pixels, width: 3 }, {}), /3 by 1 pixels have 12 numbers, got 8/)
  refused(() => rowsFromPixels(pixels, { grey: '#' }), /written #rrggbb/)
  refused(() => rowsFromPixels(pixels, { '#5b6470': '##' }), /one character/)
  refused(() => numbersFromCsv('1,2\n1,x\n'), /line 2, field 2 of the csv is "x"/)
  assert.deepEqual(numbersFromCsv('\uFEFF1;-1;\r\n 2 \r\n'), { data: [1, 0, 2, 0], columns: 2 })
  await assert.rejects(rowsFromPng(new Uint8Array(20), {}), /no PNG/)
  await assert.rejects(pngFromRows(['#'], {}), /no colour for "#"/)
})

test('an outline goes out and comes back: as a drawing and as a map, each hole in its solid', async () => {
  await fc.assert(
    fc.asyncProperty(grids, async (rows) => {
      const shape = tiles({ cell: 0.5, rows, kinds: { '#': {}, '~': {} } })
      if (shape.count === 0) return
      const groups = [{ name: 'rock', loops: shape.outline }]
      const whole = shape.count * 0.25
      const map = geoJsonFromOutlines(groups)
      let sum = 0
      for (const [outer, ...holes] of map.features[0].geometry.coordinates) {
        const points = (ring: readonly (readonly number[])[]) => ring.map(([x, y]) => ({ x, y }))
        assert.deepEqual(outer[0], outer[outer.length - 1])
        assert.ok(area(points(outer)) > 0)
        sum += area(points(outer))
        for (const hole of holes) {
          assert.ok(area(points(hole)) < 0)
          sum += area(points(hole))
        }
        // Less than its holes no solid has.
        assert.ok(area(points(outer)) + holes.reduce((all, hole) => all + area(points(hole)), 0) > 0.2)
      }
      assert.ok(Math.abs(sum - whole) < 1e-9, `${sum} of ${whole}`)
      for (const lines of [
        linesFromGeoJson(JSON.parse(JSON.stringify(map))),
        await linesFromSvg(svgFromOutlines(groups)),
      ]) {
        assert.equal(lines.length, shape.outline.length)
        const back = lines.reduce((all, { points }) => all + area(points), 0)
        assert.ok(Math.abs(back - whole) < 1e-6, `${back} of ${whole}`)
        assert.ok(lines.every(({ name, closed }) => name === 'rock' && closed))
      }
    }),
    { numRuns: 200 },
  )
})

const drawing = (inner: string) => `<?xml version="1.0"?><svg viewBox="0 0 100 50">${inner}</svg>`
const only = async (inner: string, options = {}): Promise<Line> => {
  const lines = await linesFromSvg(drawing(inner), options)
  assert.equal(lines.length, 1)
  return lines[0]
}

test('curves of a drawing are off their lines by no more than the tolerance', async () => {
  for (const tolerance of [1, 0.1, 0.001]) {
    const { points, closed } = await only('<circle cx="50" cy="20" r="10"/>', { tolerance })
    assert.ok(closed)
    for (const [i, a] of points.entries()) {
      const b = points[(i + 1) % points.length]
      for (const t of [0, 0.25, 0.5]) {
        const x = a.x + t * (b.x - a.x) - 50
        const y = a.y + t * (b.y - a.y) - 30
        // A cubic arc of a quarter circle is itself off by 0.03%.
        assert.ok(Math.abs(Math.sqrt(x * x + y * y) - 10) < tolerance + 0.003)
      }
    }
  }
  const few = await only('<path d="M0 0C10 0 20 10 20 20"/>', { tolerance: 1 })
  const many = await only('<path d="M0 0C10 0 20 10 20 20"/>', { tolerance: 0.01 })
  assert.ok(many.points.length > 3 * few.points.length)
})

test('every element and every command of a path is read, with all transforms', async () => {
  const square = [
    { x: 10, y: 40 },
    { x: 20, y: 40 },
    { x: 20, y: 30 },
    { x: 10, y: 30 },
  ]
  for (const inner of [
    '<rect x="10" y="10" width="10" height="10"/>',
    '<polygon points="10,10 20,10 20,20 10,20"/>',
    '<path d="M10 10H20V20H10Z"/>',
    '<path d="m10,10 10,0 l0 10h-10z"/>',
    '<polyline points="10 10 20 10 20 20 10 20 10 10"/>',
    '<g transform="translate(5 0)"><g transform="scale(2) translate(-2.5)"><rect x="5" y="5" width="5" height="5"/></g></g>',
    '<rect x="-5" y="-5" width="10" height="10" transform="translate(15 15) rotate(90)"/>',
  ]) {
    const { points, closed } = await only(inner)
    assert.ok(closed, inner)
    const has = (corner: Vec2) => points.some(({ x, y }) => Math.abs(x - corner.x) + Math.abs(y - corner.y) < 1e-9)
    assert.ok(points.length === 4 && square.every(has), `${inner}: ${JSON.stringify(points)}`)
  }
  const quadratic = await only('<path d="M0 50Q10 30 20 50"/>', { tolerance: 0.01 })
  assert.ok(Math.abs(Math.max(...quadratic.points.map(({ y }) => y)) - 10) < 0.02)
  assert.equal(quadratic.closed, false)
  const two = await linesFromSvg(drawing('<path d="M0 0L5 5ZM9 9L8 8 7 9Z"/><line x2="3"/><text>no</text>'), {
    scale: 2,
  })
  assert.deepEqual(
    two.map(({ closed, points }) => [closed, points.length]),
    [
      [false, 2],
      [true, 3],
      [false, 2],
    ],
  )
  assert.deepEqual(two[2].points[1], { x: 6, y: 100 })
  assert.deepEqual(await linesFromSvg(drawing('<defs><rect width="3" height="3"/></defs>')), [])
})

test('what is no drawing and no map is refused, with the reason', async () => {
  await assert.rejects(linesFromSvg('{}'), /no SVG/)
  await assert.rejects(linesFromSvg('<html></html>'), /begins with <html>/)
  await assert.rejects(linesFromSvg(''), /no SVG/)
  await assert.rejects(linesFromSvg(drawing('<path d="M0 0 L x"/>')), /cannot be read/)
  await assert.rejects(linesFromSvg(drawing(''), { tolerance: 0 }), /'tolerance'/)
  refused(() => linesFromGeoJson({ type: 'Nothing' }), /no GeoJSON/)
  refused(
    () =>
      linesFromGeoJson({
        type: 'FeatureCollection',
        features: [{ type: 'Feature', geometry: { type: 'Polygon', coordinates: [[['a', 2]]] } }],
      }),
    /at features\.0\.geometry\.coordinates\.0\.0\.0/,
  )
  refused(
    () => linesFromGeoJson({ type: 'Point', coordinates: [1, 2] }, { about: [0, 90] }),
    /longitude and a latitude/,
  )
})

test('a map in degrees becomes metres about a place', () => {
  const map = {
    type: 'GeometryCollection',
    geometries: [
      {
        type: 'LineString',
        coordinates: [
          [10, 60],
          [10.001, 60],
          [10.001, 60.001],
        ],
      },
      { type: 'Point', coordinates: [1, 2] },
      {
        type: 'MultiPolygon',
        coordinates: [
          [
            [
              [0, 0],
              [1, 0],
              [0, 1],
              [0, 0],
            ],
          ],
          [
            [
              [5, 5],
              [6, 5],
              [5, 6],
              [5, 5],
            ],
          ],
        ],
      },
    ],
  }
  const [line, ...rings] = linesFromGeoJson(map, { about: [10, 60] })
  // A thousandth of a degree: 111.2 m to the north, and half of that to the east at 60 degrees.
  assert.ok(Math.abs(line.points[1].x - 55.6) < 0.05, `${line.points[1].x}`)
  assert.ok(Math.abs(line.points[2].y - 111.2) < 0.05, `${line.points[2].y}`)
  assert.deepEqual(
    rings.map(({ closed, points }) => [closed, points.length]),
    [
      [true, 3],
      [true, 3],
    ],
  )
})
