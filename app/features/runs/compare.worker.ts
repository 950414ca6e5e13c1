import { WHEELS } from '~~/core/devices'
import { endIn, findRobot, foundSays, isFound, measuredDocument, readEnd, readTruths, type MeasuredRun, type SensorLine } from '~~/core/measuring'
import { loadPhysics } from '~~/core/physics'
import { bandsOf, columnsOf, csvOf, firstDifference, firstsOf, placeColumns, sameRules, traceOf, wayOf } from '~~/core/runs'
import { comparedOf } from '~~/core/runs/context'
import { readKept, type KeptRun } from '~~/core/runs/kept'
import { isReal } from '~~/core/simulation'
import { unitsOfKind } from '~~/core/units'
import type { Compared, FromCompare, MeasuredRobot, SensorFit, ToCompare } from './compare'

/** Reads kept runs and compares them, beside the page. */

const read = new Map<string, KeptRun>()
const post = (message: FromCompare): void => { (self as unknown as { postMessage(m: FromCompare): void }).postMessage(message) }

self.onmessage = async ({ data: m }: MessageEvent<ToCompare>) => {
  try {
    if (m.type === 'trace') {
      post({ type: 'trace', ask: m.ask, traces: m.ids.map((id) => {
        const run = read.get(id)
        const column = run === undefined ? undefined : columns(run).find(c => c.id === m.column)
        return run === undefined || column === undefined ? null : traceOf(run.tape, column)
      }) })
      return
    }
    if (m.type === 'csv') {
      const run = read.get(m.id)
      if (run !== undefined) post({ type: 'csv', ask: m.ask, id: m.id, pieces: [...csvOf(run.tape, run.context.facts, [...columns(run), ...placeColumns(run.tape.layout)])] })
      return
    }
    if (m.type === 'measure') return post({ type: 'measured', ask: m.ask, measured: await measured(m.runs) })
    for (const { id, file } of m.files) {
      // The server has read them before.
      const kept = readKept(file, { rows: true })
      if (!kept.ok) return post({ type: 'failed', ask: m.ask, message: kept.problems.map(p => `${p.path}: ${p.message}`).join('; ') })
      read.set(id, kept.value)
    }
    for (const id of read.keys()) if (!m.ids.includes(id)) read.delete(id)
    const runs = m.ids.map(id => read.get(id)!)
    const [first] = runs
    post({
      type: 'compared', ask: m.ask,
      runs: runs.map((run, i): Compared => ({ id: m.ids[i]!, ...glance(run), like: sameRules(run.context.map, first!.context.map), difference: i === 0 ? null : firstDifference(comparedOf(first!), comparedOf(run)) })),
      columns: first === undefined ? [] : columns(first).filter(c => c.spec.type.type === 'quantity' && runs.every(r => columns(r).some(o => o.id === c.id))).map(c => ({ id: c.id, title: c.title, spec: c.spec })),
    })
  } catch (error) {
    post({ type: 'failed', ask: m.ask, message: error instanceof Error ? error.message : String(error) })
  }
}

const columns = ({ tape: { layout }, context: { facts, map } }: KeptRun) => columnsOf({ facts, layout, program: map })

async function measured(asked: Extract<ToCompare, { type: 'measure' }>['runs']): Promise<MeasuredRobot> {
  const runs: MeasuredRun[] = []
  const { facts, parts } = read.get(asked[0]!.id)!.context
  for (const { id, end, truths } of asked) {
    const { tape, record, context } = read.get(id)!
    if (JSON.stringify(context.facts) !== JSON.stringify(facts)) return { ok: false, run: id, field: 'end', message: 'its robot is another than that of A' }
    const ended = end.trim() === '' ? null : readEnd(end)
    if (ended?.ok === false) return { ok: false, run: id, field: 'end', message: ended.problems[0]!.message }
    const known = readTruths(truths, facts)
    if (!known.ok) return { ok: false, run: id, field: 'truths', message: known.problems[0]!.message }
    runs.push({ tape, arena: context.parts.arena, seed: record.seed, end: ended?.value ?? (isReal(record, WHEELS) ? null : endIn(tape)), truths: known.value })
  }
  await loadPhysics()
  const found = findRobot(runs, parts.robot, facts)
  return { ok: true, says: foundSays(found, facts), ends: found.wheels?.ends ?? [], fits: found.sensors.flatMap(fitOf), document: measuredDocument(found, facts), found: isFound(found) }
}

/** A sensor's data in the unit in which it is shown; nothing where nothing is to be seen of it. */
function fitOf({ device, kind, noise, off, lag }: SensorLine): readonly SensorFit[] {
  if (off === null && lag === null) return []
  const [unit] = unitsOfKind(kind)
  const shown = (all: readonly number[]): readonly number[] => all.map(x => x / (unit?.scale ?? 1))
  return [{
    device, unit: unit?.name ?? '',
    still: off === null || noise === null ? null : { off: shown(off), noise: shown([noise.value])[0]! },
    moved: lag === null ? null : { at: lag.at, read: shown(lag.read), told: shown(lag.told) },
  }]
}

function glance({ tape, record, context: { facts, map } }: KeptRun): Omit<Compared, 'id' | 'like' | 'difference'> {
  return {
    dt: tape.layout.dt, first: tape.first, rows: tape.rows, program: record.program, arena: record.arena, seed: record.seed, way: wayOf(tape), firsts: firstsOf(tape), colors: facts.colors,
    lanes: tape.layout.laneNames.map((name, i) => ({ name, bands: bandsOf(tape, map, i) })),
  }
}
