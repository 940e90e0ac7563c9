/** Writes the published JSON Schemas from their definitions: `npm run schema`. */
import { writeFileSync } from 'node:fs'
import { sceneJsonSchema } from '../src/scene/index.ts'

const target = new URL('../schema/scene.schema.json', import.meta.url)
writeFileSync(target, `${JSON.stringify(sceneJsonSchema(), null, 2)}\n`)
