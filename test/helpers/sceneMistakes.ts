/** Mistakes in scene files, in test/mistakes: which code `check` gives each, and where. */
import { readFileSync } from 'node:fs'

export const MISTAKES_FOLDER = new URL('../mistakes/', import.meta.url)

export function readMistake(name: string): unknown {
  return JSON.parse(readFileSync(new URL(name, MISTAKES_FOLDER), 'utf8'))
}

/** Which code a file must get, where its name says more, and at which place. */
export const SCENE_MISTAKES: Record<string, [code: string, place: string]> = {
  'after-removal': ['after-removal', 'actions[1]'],
  'bad-index': ['bad-index', 'watches[0].a.collider'],
  'bad-shape': ['bad-shape', 'bodies[0].colliders[1].shape'],
  'bad-sign': ['bad-shape', 'bodies[0].colliders[0].shape'],
  'both-ends-static': ['both-ends-static', 'joints[0]'],
  'both-static': ['both-static', 'watches[0]'],
  'box-by-box': ['box-by-box', 'bodies[0]'],
  degrees: ['degrees', 'bodies[0].angle'],
  'duplicate-name': ['duplicate-name', 'bodies[1].name'],
  'empty-layer': ['empty-layer', 'layers.pairs[1][0]'],
  'gravity-upwards': ['gravity-upwards', 'gravity'],
  'machine-parts': ['machine-parts', 'bodies[2]'],
  'narrow-hole': ['narrow-hole', 'bodies[0].colliders[0].shape'],
  'never-matches': ['never-matches', 'watches[0]'],
  'never-matches-impulse': ['never-matches', 'watches[0].over'],
  'never-matches-ray': ['never-matches', 'rays[0].filter.layers'],
  'no-collider': ['no-collider', 'bodies[1]'],
  'no-floor': ['no-floor', 'bodies[1]'],
  'no-mass': ['no-mass', 'bodies[1]'],
  'no-motion': ['no-motion', 'bodies[3].type'],
  'no-sweep': ['no-sweep', 'bodies[1].sweep'],
  'no-tiles': ['no-tiles', 'actions[0].body'],
  'no-unit': ['no-unit', ''],
  'not-dynamic': ['not-dynamic', 'bodies[0].mass'],
  'one-sided': ['one-sided', 'bodies[2].colliders[0].solid'],
  'path-after-removal': ['after-removal', 'bodies[2].path.points[2]'],
  'ray-inside': ['ray-inside', 'rays[0]'],
  'sensor-floor': ['sensor-floor', 'bodies[1]'],
  'silences-nothing': ['silences-nothing', 'silence[0]'],
  'start-in-rock': ['start-overlap', 'bodies[1]'],
  'start-overlap': ['start-overlap', 'bodies[2]'],
  'static-moves': ['static-moves', 'bodies[0].velocity'],
  'torn-joint': ['torn-joint', 'joints[0]'],
  'twin-colliders': ['twin-colliders', 'bodies[2].colliders[1]'],
  'uneven-masses': ['uneven-masses', 'joints[1]'],
  'unknown-body': ['unknown-body', 'watches[0].b.body'],
  'unknown-kind': ['unknown-kind', 'actions[0].tile'],
  'unknown-layer': ['unknown-layer', 'bodies[2].colliders[0].layer'],
  'unused-kind': ['unused-kind', 'bodies[0].colliders[0].shape.kinds["~"]'],
  'weak-motor': ['weak-motor', 'joints[0].motor'],
  'within-tiles': ['within-tiles', 'bodies[1].colliders[0]'],
}
