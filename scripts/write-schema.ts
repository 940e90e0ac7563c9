/** Writes the published JSON Schemas from their definitions: `npm run schema`. */
import { writeFileSync } from 'node:fs'
import { sceneJsonSchema } from '../scenes-package/src/scene/index.ts'
import { inputsJsonSchema, logJsonSchema } from '../src/record/index.ts'

const schemas = { scene: sceneJsonSchema(), 'event-log': logJsonSchema(), 'input-log': inputsJsonSchema() }
for (const [name, schema] of Object.entries(schemas)) {
  const target = new URL(`../schema/${name}.schema.json`, import.meta.url)
  writeFileSync(target, `${JSON.stringify(schema, null, 2)}\n`)
}
