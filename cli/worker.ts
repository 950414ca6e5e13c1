import { availableParallelism } from 'node:os'
import type { Command } from 'commander'
import { LOST_AFTER, QueueWorker } from '../jobs/queue'
import { Threads } from '../jobs/threads'
import { queueAddress, reached } from './queue'
import { numberFrom, type Exit } from './usage'

/** Milliseconds between two words about what was done. */
const TELL = 10_000

interface Options { readonly queue: string, readonly workers: number, readonly lostAfter: number }

/** Serves a queue of trials until it is ended. 0 when it was. */
export function addWorker(program: Command, exit: Exit): void {
  program.command('worker').description('Does trials that others put into a queue, until it is ended (Ctrl-C)')
    .requiredOption('--queue <address>', 'the queue, such as redis://127.0.0.1:6379', queueAddress)
    .option('--workers <n>', 'threads', numberFrom(1, 256, true), availableParallelism())
    .option('--lost-after <s>', 'one that says nothing for so long is taken for dead; its runs are done by others', numberFrom(1, 600), LOST_AFTER)
    .action(async (options: Options) => { exit.code = await serve(options) })
}

async function serve({ queue, workers, lostAfter }: Options): Promise<number> {
  const ended = new Promise<void>((resolve) => { for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve()) })
  const threads = new Threads(workers)
  let count = 0
  const worker = await QueueWorker.at(queue, threads, workers, {
    lostAfter, done: () => { count++ },
    say: (line) => { process.stderr.write(`mindpath: ${line}\n`) },
  })
  await reached(worker, queue)
  process.stderr.write(`mindpath: serving ${queue} with ${workers} thread${workers === 1 ? '' : 's'} (Ctrl-C ends it)\n`)
  let told = 0
  const tell = setInterval(() => { if (count > told) process.stderr.write(`mindpath: ${told = count} runs done\n`) }, TELL)
  await ended
  clearInterval(tell)
  await worker.close()
  await threads.close()
  process.stderr.write(`mindpath: ${count} runs done\n`)
  return 0
}
