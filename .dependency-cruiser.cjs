// The one-way imports of the project: core <- 2d, 3d <- record, draw <- the package of scenes <- examples.
const forbid = (name, comment, from, to) => ({
  name,
  comment,
  severity: 'error',
  from: { path: from },
  to: { path: to },
})

module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    forbid(
      'core-knows-nobody',
      'core knows no dimension, no file, no screen',
      '^src/core',
      '^(src/(?!core)|scenes-package)',
    ),
    forbid(
      '2d-knows-core-only',
      'a dimension knows the core and nothing else',
      '^src/2d',
      '^(src/(?!core|2d)|scenes-package)',
    ),
    forbid(
      '3d-knows-core-only',
      'a dimension knows the core and nothing else',
      '^src/3d',
      '^(src/(?!core|3d)|scenes-package)',
    ),
    forbid('library-has-no-package', 'keen-sentry runs without any package, everywhere', '^src', 'node_modules|^node:'),
    forbid('library-below-scenes', 'keen-sentry knows no scene file', '^src', '^scenes-package'),
    forbid(
      'record-stands-alone',
      'record knows the core and the dimensions',
      '^src/record',
      '^src/(draw|testing|internal)',
    ),
    forbid(
      'draw-stands-alone',
      'draw knows the core and the dimensions',
      '^src/draw',
      '^src/(record|testing|internal)',
    ),
    forbid('testing-stands-alone', 'the test kit knows the core', '^src/testing', '^src/(?!core|testing)'),
    forbid(
      'scenes-by-entry-points',
      'the package of scenes sees of keen-sentry what its entry points give',
      '^scenes-package',
      '^src/(?!(core|2d|2d/kinematic|3d|3d/kinematic|record|draw|internal)/index\\.ts$)',
    ),
    forbid(
      'gltf-stands-alone',
      'a reader of files knows no scene',
      '^scenes-package/src/gltf',
      '^scenes-package/src/(scene|cli)',
    ),
    forbid(
      'levels-stand-alone',
      'readers of levels know no scene',
      '^scenes-package/src/levels',
      '^scenes-package/src/(scene|cli|gltf)',
    ),
    forbid(
      'scene-below-faces',
      'scene knows neither log, picture nor command',
      '^scenes-package/src/scene',
      '^(src/(record|draw)|scenes-package/src/cli)',
    ),
    forbid('browser-safe', 'only the command may use Node', '^scenes-package/src/(scene|gltf|levels)', '^node:'),
    forbid(
      'cli-is-a-leaf',
      'nobody imports the command',
      '^(src|scenes-package/src/(?!cli)|examples)',
      '^scenes-package/src/cli',
    ),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types'] },
  },
}
