// The one-way imports of the project: core <- 2d, 3d, gltf <- scene, record, draw <- cli, examples.
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
    forbid('core-knows-nobody', 'core knows no dimension, no file, no screen', '^src/core', '^src/(?!core)'),
    forbid('core-has-no-package', 'core runs without any package', '^src/core', 'node_modules|^node:'),
    forbid('2d-knows-core-only', 'a dimension knows the core and nothing else', '^src/2d', '^src/(?!core|2d)'),
    forbid('2d-has-no-package', 'a dimension runs without any package', '^src/2d', 'node_modules|^node:'),
    forbid('3d-knows-core-only', 'a dimension knows the core and nothing else', '^src/3d', '^src/(?!core|3d)'),
    forbid('3d-has-no-package', 'a dimension runs without any package', '^src/3d', 'node_modules|^node:'),
    forbid(
      'gltf-knows-core-only',
      'a reader of files knows the core and nothing else',
      '^src/gltf',
      '^src/(?!core|gltf)',
    ),
    forbid(
      'record-stands-alone',
      'record knows the core and the dimensions',
      '^src/record',
      '^src/(scene|draw|cli|gltf)',
    ),
    forbid('draw-stands-alone', 'draw knows the core and the dimensions', '^src/draw', '^src/(scene|record|cli|gltf)'),
    forbid('scene-below-faces', 'scene knows neither log, picture nor command', '^src/scene', '^src/(record|draw|cli)'),
    forbid('browser-safe', 'only the command may use Node', '^src/(scene|record|draw|gltf)', '^node:'),
    forbid('cli-is-a-leaf', 'nobody imports the command', '^(src/(?!cli)|examples)', '^src/cli'),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types'] },
  },
}
