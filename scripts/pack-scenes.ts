/** Lays beside the package of scenes what it is packed with and the repository keeps once: schema, demo scenes, their docs, the licence. */
import { copyFileSync, cpSync, mkdirSync, readdirSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const target = `${root}scenes-package/`
for (const folder of ['schema', 'scenes', 'docs']) mkdirSync(target + folder, { recursive: true })
copyFileSync(`${root}LICENSE`, `${target}LICENSE`)
copyFileSync(`${root}schema/scene.schema.json`, `${target}schema/scene.schema.json`)
copyFileSync(`${root}docs/scene-format.md`, `${target}docs/scene-format.md`)
for (const file of readdirSync(`${root}scenes`))
  cpSync(`${root}scenes/${file}`, `${target}scenes/${file}`, { recursive: true })
