import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { buildSync } from 'esbuild'
import { describe, expect, test } from 'vitest'
import { readFolder } from '../../../cli/project'
import { fromBase64, toBase64 } from '../../../core/base64'
import { RandomStream } from '../../../core/random'
import { SNAPSHOT_VERSION, openRun, readSnapshot, writeSnapshot, type RunInputs, type Simulation } from '../../../core/simulation'
import { sampled } from '../../sample'

/** Snapshots as text, for another thread, process or day. */

async function inputsOf(project: string, seed: number): Promise<RunInputs> {
  const { documents, program } = await readFolder(join('demo/projects', project))
  return { ...documents, program, realism: 'rough', seed, limit: 12 }
}

async function open(inputs: RunInputs): Promise<Simulation> {
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error(JSON.stringify(opened.problems))
  return opened.simulation
}

const stateOf = (written: string): unknown => (JSON.parse(written) as { readonly state: unknown }).state

/** Everything that a run of these inputs comes to, and its state after so many ticks. */
async function course(inputs: RunInputs, ticks: number): Promise<{ readonly digest: string, readonly written: string }> {
  const simulation = await open(inputs)
  for (let i = 0; i < ticks && simulation.end === null; i++) simulation.advance()
  const written = writeSnapshot(simulation)
  simulation.runToEnd()
  const digest = simulation.tape.digest()
  simulation.free()
  return { digest, written }
}

describe('a demo project at rough goes on from any tick, in a simulation made anew', () => {
  test.each(sampled(['fetch-the-floats', 'find-the-buoy', 'kiss-the-fender', 'lids-home', 'night-rounds', 'sort-the-floats'], 3, 1))('%s', async (project) => {
    const inputs = await inputsOf(project, 5)
    for (const ticks of [0, 1, 37 + project.length, 400]) {
      const { digest, written } = await course(inputs, ticks)
      const fresh = await open(inputs)
      const read = readSnapshot(written, fresh)
      if (!read.ok) throw new Error(JSON.stringify(read.problems))
      fresh.restore(read.value)
      expect(stateOf(writeSnapshot(fresh))).toEqual(stateOf(written))
      fresh.runToEnd()
      expect([ticks, fresh.tape.digest()]).toEqual([ticks, digest])
      fresh.free()
    }
  })
  test('in another process', async () => {
    const out = join(process.cwd(), '.build', 'go-on-test.mjs')
    buildSync({ entryPoints: ['tests/unit/simulation/go-on.ts'], bundle: true, platform: 'node', format: 'esm', packages: 'external', outfile: out, logLevel: 'error' })
    const inputs = await inputsOf('fetch-the-floats', 3)
    const { digest, written } = await course(inputs, 211)
    const { stdout, stderr } = spawnSync(process.execPath, [out], { encoding: 'utf8', input: JSON.stringify({ inputs, written }) })
    expect([stdout, stderr]).toEqual([digest, ''])
  })
})

describe('what is no snapshot of a run is refused', () => {
  test.each<[string, string, (written: string) => string, Partial<RunInputs>]>([
    ['cut off', 'this is no JSON', w => w.slice(0, -100), {}],
    ['another document', 'another kind of document', () => `{"mindpath":"robot","version":${SNAPSHOT_VERSION},"run":"","whole":""}`, {}],
    ['of a later version', `allowed is ${SNAPSHOT_VERSION}`, w => w.replace(`"version":${SNAPSHOT_VERSION}`, `"version":${SNAPSHOT_VERSION + 1}`), {}],
    ['changed', 'it was changed since it was written', w => w.replace(/"tick":\d+/, '"tick":7'), {}],
    ['with something more in it', 'does not know more', w => w.replace('{', '{"more":1,'), {}],
    ['without a state', 'it was changed since it was written', w => `${w.slice(0, w.indexOf(',"state"'))}}`, {}],
    ['of another seed', 'it is of another run', w => w, { seed: 9 }],
    ['of another realism', 'it is of another run', w => w, { realism: 'ideal' }],
    ['of another program', 'it is of another run', w => w, { program: 'otherwise -> halt\n' }],
    ['of a list', 'mindpath: is missing', () => '[1, 2]', {}],
  ])('%s', async (_what, says, change, others) => {
    const inputs = await inputsOf('kiss-the-fender', 1)
    const { written } = await course(inputs, 20)
    const into = await open({ ...inputs, ...others })
    const before = into.tape.rows
    const read = readSnapshot(change(written), into)
    expect(read.ok ? 'taken' : read.problems.map(p => `${p.path}: ${p.message}`).join('; ')).toContain(says)
    expect(into.tape.rows).toBe(before)
    into.free()
  })
})

test('bytes of any length come back from their text, as the engine writes them too', () => {
  const r = RandomStream.named(1, 'bytes')
  for (let length = 0; length < 200; length++) {
    const bytes = Uint8Array.from({ length }, () => Math.floor(256 * r.unit()))
    expect(toBase64(bytes)).toBe(Buffer.from(bytes).toString('base64'))
    expect(fromBase64(toBase64(bytes))).toEqual(bytes)
  }
  expect(fromBase64('ab*d')).toBe(null)
})
