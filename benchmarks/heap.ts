import { Session, type HeapProfiler } from 'node:inspector'
import { Simulation } from '../core/simulation'
import { pusher, withLoose } from './scene'

const TICKS = 6000
/** Bytes between two samples: small, so that rare allocations are seen. */
const INTERVAL = 256
/** Bytes that V8 makes of a number that it has to keep as an object (without pressed pointers, as in Node). */
const NUMBER = 16
/** The file that our own code runs from here. */
const OWN = 'bench.mjs'

/** A run in the steady state, with a profiler that listens; nothing is recorded but events. */
async function inSteadyState<T>(look: (post: (method: string, parameters?: object) => Promise<unknown>, run: () => void, session: Session) => Promise<T>): Promise<T> {
  const parts = withLoose(12)
  const simulation = new Simulation({ ...parts, program: pusher(parts), realism: 'typical', seed: 3, limit: 3600, keeping: 'events' })
  const run = (): void => { for (let i = 0; i < TICKS; i++) simulation.advance() }
  run()
  const session = new Session()
  session.connect()
  const post = (method: string, parameters?: object): Promise<unknown> => new Promise((done, failed) => {
    session.post(method, parameters, (error: Error | null, result?: unknown) => { if (error === null) done(result); else failed(error) })
  })
  try {
    return await look(post, run, session)
  } finally {
    session.disconnect()
    simulation.free()
  }
}

/**
 * Bytes that our own code allocates in a tick, by heap sampling, with what the collector took meanwhile. What the physics library
 * allocates within its own functions is not counted, but for those that the engine has put into ours.
 */
export function heapPerTick(): Promise<number> {
  return inSteadyState(async (post, run) => {
    await post('HeapProfiler.startSampling', { samplingInterval: INTERVAL, includeObjectsCollectedByMajorGC: true, includeObjectsCollectedByMinorGC: true })
    run()
    const { profile } = await post('HeapProfiler.stopSampling') as { profile: HeapProfiler.SamplingHeapProfile }
    const bytesOf = (node: HeapProfiler.SamplingHeapProfileNode): number =>
      (node.callFrame.url.endsWith(OWN) ? node.selfSize : 0) + node.children.reduce((sum, child) => sum + bytesOf(child), 0)
    return bytesOf(profile.head) / TICKS
  })
}

/** The parts of a heap snapshot that say who allocated: nodes of a tree one in another, and the functions that they name. */
interface Traced {
  readonly snapshot: { readonly meta: { readonly trace_function_info_fields: readonly string[], readonly trace_node_fields: readonly string[] } }
  readonly trace_function_infos: readonly number[]
  readonly trace_tree: readonly unknown[]
  readonly strings: readonly string[]
}

/**
 * Bytes of objects, lists and closures that our own code makes in a tick: every single allocation is counted, and what goes beyond
 * numbers that the engine keeps as objects is left.
 */
export function objectsPerTick(): Promise<number> {
  return inSteadyState(async (post, run, session) => {
    let text = ''
    session.on('HeapProfiler.addHeapSnapshotChunk', ({ params }) => { text += params.chunk })
    await post('HeapProfiler.startTrackingHeapObjects', { trackAllocations: true })
    run()
    await post('HeapProfiler.stopTrackingHeapObjects')
    const { snapshot: { meta }, trace_function_infos: infos, trace_tree: tree, strings } = JSON.parse(text) as Traced
    const fields = meta.trace_node_fields
    const [info, count, size, children] = ['function_info_index', 'count', 'size', 'children'].map(f => fields.indexOf(f)) as [number, number, number, number]
    const own = (f: number): boolean => strings[infos[f * meta.trace_function_info_fields.length + meta.trace_function_info_fields.indexOf('script_name')]!]!.endsWith(OWN)
    const bytesOf = (nodes: readonly unknown[]): number => {
      let bytes = 0
      for (let i = 0; i < nodes.length; i += fields.length) {
        const at = (field: number): number => nodes[i + field] as number
        if (own(at(info))) bytes += at(size) - NUMBER * at(count)
        bytes += bytesOf(nodes[i + children] as readonly unknown[])
      }
      return bytes
    }
    return bytesOf(tree) / TICKS
  })
}
