import { Argument, Command } from 'commander'
import { runCommands } from '../cli/usage'
import { pageMeasures } from './page'
import { runMeasures } from './runs'
import { cameraMs, realtimeCamera, tickRatioCamera } from './camera'
import { heapPerTick, objectsPerTick } from './heap'
import { loadPhysics } from '../core/physics'
import { parse500 } from './parse'
import { watched } from './quiet'
import { realtime, tickRatio } from './tick'
import { trialMeasures } from './trials'
import { ruleRate, vmRatio } from './vm'

/** Measures, by name; each ratio is taken within one run, so that it holds on any machine. */
interface Measure {
  readonly name: string
  readonly limit: number
  /** Whether a good value lies below the limit, or above. */
  readonly good: 'below' | 'above'
  readonly says: string
  run(): number | Promise<number>
}

const MEASURES: readonly Measure[] = [
  { name: 'tick_ratio', limit: 1.3, good: 'below', says: 'the whole tick against the own step of the physics library, limpet and twelve loose pieces', run: () => tickRatio(12) },
  { name: 'tick_ratio_unrecorded', limit: 1.2, good: 'below', says: 'the same where nothing but events is kept, as in trials', run: () => tickRatio(12, 'events') },
  { name: 'tick_ratio_60', limit: 1.3, good: 'below', says: 'the same with 60', run: () => tickRatio(60) },
  { name: 'tick_ratio_240', limit: 1.3, good: 'below', says: 'the same with 240', run: () => tickRatio(240) },
  { name: 'vm_ratio', limit: 2.5, good: 'below', says: 'the virtual machine against the same controller written by hand', run: vmRatio },
  { name: 'rules_per_second', limit: 1_000_000, good: 'above', says: 'rule evaluations a second, a mode of a hundred rules', run: ruleRate },
  { name: 'parse_500_ms', limit: 10, good: 'below', says: 'parse, check and compile 500 lines, milliseconds, median', run: parse500 },
  { name: 'realtime_12', limit: 60, good: 'above', says: 'simulated seconds a second, one core, twelve loose pieces', run: () => realtime(12) },
  { name: 'realtime_60', limit: 40, good: 'above', says: 'the same with 60', run: () => realtime(60) },
  { name: 'realtime_240', limit: 10, good: 'above', says: 'the same with 240', run: () => realtime(240) },
  { name: 'heap_per_tick', limit: 4_500, good: 'below', says: 'bytes allocated a tick in our own code, nothing recorded but events: numbers that the engine keeps as objects', run: heapPerTick },
  { name: 'objects_per_tick', limit: 16, good: 'below', says: 'bytes of objects, lists and closures among them', run: objectsPerTick },
  { name: 'camera_ms', limit: 3, good: 'below', says: 'one picture of 160 by 120 with forty pieces, drawn and recognised, milliseconds, median', run: cameraMs },
  { name: 'realtime_camera', limit: 10, good: 'above', says: 'simulated seconds a second, cuttle with its camera at 15 pictures a second', run: realtimeCamera },
  { name: 'tick_ratio_camera', limit: 4, good: 'below', says: 'the whole tick with that camera against the own step of the physics library', run: tickRatioCamera },
]

/** The page as `./mindpath start` has it: built before, with Chromium. */
async function measurePage(json: boolean): Promise<void> {
  const found = await pageMeasures()
  if (json) { process.stdout.write(`${JSON.stringify(found)}\n`); return }
  const { frames, besideTrials, keystroke, nudge, scrolling, opening } = found
  const line = (met: boolean, what: string, value: string): void => { process.stdout.write(`${met ? '●' : '✕'} ${what.padEnd(52)} ${value}\n`) }
  for (const [view, { rate, work }] of Object.entries(frames)) {
    line(rate >= 30, `frames a second, ${view}`, `${rate.toFixed(0)} (at least 30)`)
    line(work <= 4, `  the page thread's work a frame, on average`, `${work.toFixed(1)} ms (at most 4)`)
  }
  line(besideTrials >= 25, 'frames a second, trials going on with one thread', `${besideTrials.toFixed(0)} (at least 25)`)
  line(keystroke[0] <= 40, 'keystroke to diagnostics, 1,000 lines, median', `${keystroke[0].toFixed(0)} ms (at most 40), 95 % ${keystroke[1].toFixed(0)} ms`)
  line(nudge[1] <= 16, 'a nudge in Rules, 1,000 lines, 95 %', `${nudge[1].toFixed(0)} ms (at most 16), median ${nudge[0].toFixed(0)} ms`)
  line(scrolling >= 30, 'frames a second, scrolling 209 rows', `${scrolling.toFixed(0)} (at least 30)`)
  line(opening <= 1000, 'from a click on a project to a Bench that takes input', `${opening.toFixed(0)} ms (at most 1000)`)
}

/** Kept runs on that page. */
async function measureRuns(json: boolean): Promise<void> {
  const found = await runMeasures()
  if (json) { process.stdout.write(`${JSON.stringify(found)}\n`); return }
  const { goingOn, opening } = found
  process.stdout.write(`${Math.max(...goingOn) <= 300 ? '●' : '✕'} from the key to the first new tick, anywhere in two minutes: ${goingOn.map(t => t.toFixed(0)).join(', ')} ms (at most 300)\n`)
  for (const { minutes, bytes, time, memory } of opening) process.stdout.write(`${minutes !== 10 || time <= 1000 ? '●' : '✕'} a run of ${minutes} min: ${(bytes / 1e6).toFixed(2)} MB, on the page ${time.toFixed(0)} ms after it came${minutes === 10 ? ' (at most 1000)' : ''}, with which the page holds ${(memory / 1e6).toFixed(0)} MB\n`)
}

/** Trials on threads. */
async function measureTrials(json: boolean): Promise<void> {
  const found = await trialMeasures()
  if (json) { process.stdout.write(`${JSON.stringify(found)}\n`); return }
  const { one, two, ratio, apart, memory: [early, late], short } = found
  process.stdout.write([
    `${ratio >= 1.9 ? '●' : '✕'} two threads do ${ratio.toFixed(2)} times what one does (at least 1.9): ${one.toFixed(2)} and ${two.toFixed(2)} runs of night-rounds a second`,
    `  two processes of one thread each, which share nothing, do ${apart.toFixed(2)} times: what this machine has to give`,
    `${200 / two <= 150 ? '●' : '✕'} 200 of them with two threads: ${(200 / two).toFixed(0)} s (at most 150)`,
    `${late <= 1.1 * early ? '●' : '✕'} memory after ${short / 10} short runs ${(early / 1e6).toFixed(0)} MB, after ${short} ${(late / 1e6).toFixed(0)} MB (at most a tenth more)`,
  ].join('\n') + '\n')
}

async function measure(names: readonly string[], json: boolean): Promise<void> {
  await loadPhysics()
  const results: Record<string, number> = {}
  for (const { name, limit, good, says, run } of MEASURES) {
    if (names.length > 0 && !names.includes(name)) continue
    const value = Math.round(await run() * 1000) / 1000
    results[name] = value
    if (json) continue
    const met = good === 'below' ? value <= limit : value >= limit
    process.stdout.write(`${met ? '●' : '✕'} ${name.padEnd(17)} ${String(value).padStart(9)}   (${good === 'below' ? 'at most' : 'at least'} ${limit}) ${says}\n`)
  }
  if (json) process.stdout.write(`${JSON.stringify(results)}\n`)
}

process.exitCode = await runCommands(new Command('mindpath bench').description('Measures, each a ratio or a median of one run; all of them where none is named.')
  .addArgument(new Argument('[names...]', 'of measures').choices([...MEASURES.map(m => m.name), 'page', 'runs', 'trials']))
  .option('--json', 'in one line')
  .action((names: readonly string[], { json = false }: { readonly json?: boolean }) => {
    const of = { page: measurePage, runs: measureRuns, trials: measureTrials }
    const special = (Object.keys(of) as (keyof typeof of)[]).find(name => names.includes(name))
    return watched(() => special === undefined ? measure(names, json) : of[special](json))
  }), process.argv.slice(2))
