/** A thread of the pool: one task that lasts as long as the server, and runs rooms at their rate. */
import type { MessagePort } from 'node:worker_threads'
import { type Closed, Host, type Opened } from './host.ts'
import type { Input, NotedInput } from './room.ts'

/** What the server asks of a thread; each question has a number, and one answer. */
export type Asked =
  | {
      readonly ask: 'open'
      readonly number: number
      readonly room: string
      readonly bytes: Uint8Array | null
      readonly inputs: readonly NotedInput[]
      readonly bodies: number | undefined
    }
  | { readonly ask: 'close'; readonly number: number; readonly room: string }
  | { readonly ask: 'input'; readonly room: string; readonly input: Input }

/** What a thread tells. */
export type Told =
  | {
      readonly tell: 'answer'
      readonly number: number
      readonly answer: Opened | Closed | null
      readonly error?: string
    }
  | { readonly tell: 'lines'; readonly room: string; readonly lines: readonly string[] }
  | { readonly tell: 'applied'; readonly room: string; readonly input: NotedInput }
  | {
      readonly tell: 'due'
      readonly room: string
      readonly bytes: Uint8Array
      readonly tick: number
      readonly hash: string
    }

export interface ThreadTask {
  readonly port: MessagePort
  readonly rate: number
  readonly saveEvery: number
}

/** Runs until the port is closed. */
export default async function run({ port, rate, saveEvery }: ThreadTask): Promise<void> {
  const tell = (told: Told): void => port.postMessage(told)
  const host = new Host(
    {
      lines: (room, lines) => tell({ tell: 'lines', room, lines }),
      applied: (room, input) => tell({ tell: 'applied', room, input }),
      due: (room, bytes, tick, hash) => tell({ tell: 'due', room, bytes, tick, hash }),
    },
    saveEvery,
  )
  port.on('message', (asked: Asked) => {
    if (asked.ask === 'input') {
      host.input(asked.room, asked.input)
      return
    }
    try {
      const { room } = asked
      const answer = asked.ask === 'open' ? host.open(room, asked.bytes, asked.inputs, asked.bodies) : host.close(room)
      tell({ tell: 'answer', number: asked.number, answer })
    } catch (error) {
      tell({ tell: 'answer', number: asked.number, answer: null, error: String(error) })
    }
  })
  let due = performance.now()
  const timer = setInterval(() => {
    const now = performance.now()
    // What was missed in a long pause is not made up for.
    if (now - due > 250) due = now
    for (; due <= now; due += 1000 / rate) host.step()
  }, 1000 / rate)
  await new Promise((resolve) => port.on('close', resolve))
  clearInterval(timer)
}
