import { Session, type HeapProfiler } from 'node:inspector'
import { promisify } from 'node:util'
import { Simulation } from '../core/simulation'
import { pusher, withLoose } from './scene'

const TICKS = 6000
/** Bytes between two samples: small, so that rare allocations are seen. */
const INTERVAL = 256

/**
 * Bytes that our own code allocates in a tick of the steady state, nothing recorded but events: by heap sampling, with what the
 * collector took meanwhile. What the physics library allocates within its own functions is not counted.
 */
export async function heapPerTick(): Promise<number> {
  const parts = withLoose(12)
  const simulation = new Simulation({ ...parts, program: pusher(parts), realism: 'typical', seed: 3, limit: 3600, keeping: 'events' })
  for (let i = 0; i < TICKS; i++) simulation.advance()
  const session = new Session()
  session.connect()
  const post = promisify(session.post.bind(session)) as (method: string, parameters?: object) => Promise<unknown>
  await post('HeapProfiler.startSampling', { samplingInterval: INTERVAL, includeObjectsCollectedByMajorGC: true, includeObjectsCollectedByMinorGC: true })
  for (let i = 0; i < TICKS; i++) simulation.advance()
  const { profile } = await post('HeapProfiler.stopSampling') as { profile: HeapProfiler.SamplingHeapProfile }
  session.disconnect()
  simulation.free()
  const bytesOf = (node: HeapProfiler.SamplingHeapProfileNode): number =>
    (node.callFrame.url.endsWith('bench.mjs') ? node.selfSize : 0) + node.children.reduce((sum, child) => sum + bytesOf(child), 0)
  return bytesOf(profile.head) / TICKS
}
