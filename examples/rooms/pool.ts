/** Rooms on the threads of a pool: each new one goes to the thread that has the fewest. */
import { fileURLToPath } from 'node:url'
import { MessageChannel, type MessagePort } from 'node:worker_threads'
import { Piscina } from 'piscina'
import type { Closed, HostHandlers, Opened } from './host.ts'
import type { AnyHost } from './keeper.ts'
import type { Input, NotedInput } from './room.ts'
import type { Asked, ThreadTask, Told } from './thread.ts'

export interface PoolOptions {
  readonly threads: number
  /** Ticks a second. */
  readonly rate: number
  /** Ticks between two saves of a room. */
  readonly saveEvery: number
}

interface Thread {
  readonly port: MessagePort
  readonly done: Promise<unknown>
  rooms: number
}

interface Question {
  resolve(answer: Opened | Closed | null): void
  reject(error: Error): void
}

export class PoolHost implements AnyHost {
  private readonly pool: Piscina
  private readonly threads: Thread[]
  private readonly at = new Map<string, Thread>()
  private readonly questions = new Map<number, Question>()
  private asked = 0

  constructor(handlers: HostHandlers, { threads, rate, saveEvery }: PoolOptions) {
    this.pool = new Piscina({
      filename: fileURLToPath(
        new URL(import.meta.url.endsWith('.ts') ? './thread.ts' : './thread.js', import.meta.url),
      ),
      minThreads: threads,
      maxThreads: threads,
    })
    this.threads = Array.from({ length: threads }, () => {
      const { port1, port2 } = new MessageChannel()
      port1.on('message', (told: Told) => {
        if (told.tell === 'lines') handlers.lines(told.room, told.lines)
        else if (told.tell === 'applied') handlers.applied(told.room, told.input)
        else if (told.tell === 'due') handlers.due(told.room, told.bytes, told.tick, told.hash)
        else {
          const question = this.questions.get(told.number)
          this.questions.delete(told.number)
          if (told.error === undefined) question?.resolve(told.answer)
          else question?.reject(new Error(told.error))
        }
      })
      const task: ThreadTask = { port: port2, rate, saveEvery }
      return { port: port1, done: this.pool.run(task, { transferList: [port2] }), rooms: 0 }
    })
  }

  open(room: string, bytes: Uint8Array | null, inputs: readonly NotedInput[], bodies?: number): Promise<Opened> {
    const thread = this.threads.reduce((least, each) => (each.rooms < least.rooms ? each : least))
    thread.rooms++
    this.at.set(room, thread)
    const question = { ask: 'open', number: ++this.asked, room, bytes, inputs, bodies } as const
    return this.ask(thread, question) as Promise<Opened>
  }

  input(room: string, input: Input): void {
    this.at.get(room)?.port.postMessage({ ask: 'input', room, input } satisfies Asked)
  }

  async close(room: string): Promise<Closed | null> {
    const thread = this.at.get(room)
    if (thread === undefined) return null
    this.at.delete(room)
    thread.rooms--
    return (await this.ask(thread, { ask: 'close', number: ++this.asked, room })) as Closed | null
  }

  /** Stops all threads. */
  async end(): Promise<void> {
    for (const { port } of this.threads) port.close()
    await Promise.all(this.threads.map(({ done }) => done))
    await this.pool.close()
  }

  private ask(thread: Thread, question: Asked & { readonly number: number }): Promise<Opened | Closed | null> {
    return new Promise((resolve, reject) => {
      this.questions.set(question.number, { resolve, reject })
      thread.port.postMessage(question)
    })
  }
}
