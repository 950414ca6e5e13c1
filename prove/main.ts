import { Argument, Command } from 'commander'
import { readFileSync, writeFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { fuzzArenas } from './arenas'
import { fuzzDocuments } from './documents'
import { KEPT, demoProjects, fingerprints, keptLines, lineOf } from './fingerprints'
import { Crew } from '../cli/crew'
import { Threads } from '../jobs/threads'
import { killQueueWorkers } from './queue'
import { dependable, taskTable } from './tasks'
import { fuzzEdits } from './edits'
import { PICTURE_NAMES, makePictures } from './pictures'
import { fuzzLanguage } from './language'
import { demosKept, inTime, keptAsExpected, keptLine, asExpected, chipLine, demoSketches, demosIn, demosOnChip, randomIn, sketchLine, withChip } from './hardware'
import { cppHere } from './export/arduino'
import { Interpreter } from './export/interpreter'
import { loadPhysics } from '../core/physics'
import { deviation, validate, validationText } from './validation'
import { documentsReference, withConnections } from './reference'
import { numberFrom, runCommands } from '../cli/usage'
import { killFirstStarts, killKeeps, killSaves } from './kills'

/** Proofs that take long, by name: `./mindpath prove NAME [COUNT]`. Prints what it did; exit status 1 where something failed. */
const PROOFS: Readonly<Record<string, (count: number | null) => Promise<boolean>>> = {
  fuzz(count) {
    const checks = count ?? 1_000_000
    const { checked, ran, failures } = fuzzLanguage(0, checks, Math.min(20_000, checks), tell)
    say(`${checked} random programs checked, ${ran} run: ${failures.length} failures`)
    failures.slice(0, 5).forEach(say)
    const documents = fuzzDocuments(0, Math.min(100_000, checks), tell)
    say(`${documents.read} mutated documents read, ${documents.taken} taken: ${documents.failures.length} failures`)
    documents.failures.slice(0, 5).forEach(say)
    return Promise.resolve(failures.length === 0 && documents.failures.length === 0)
  },
  /** Edits by parts at random. Throws at the first that is wrong. */
  edits(count) {
    const done = fuzzEdits(count ?? 100_000, tell)
    const rare = [...done].filter(([, times]) => times < (count ?? 100_000) / 1000)
    say(`${[...done.values()].reduce((a, b) => a + b, 0)} edits of ${done.size} kinds done and undone${rare.length === 0 ? '' : `; too seldom: ${rare.map(([name]) => name).join(', ')}`}`)
    return Promise.resolve(rare.length === 0)
  },
  reference() {
    writeFileSync('docs/documents.md', documentsReference())
    writeFileSync('docs/hardware.md', withConnections(readFileSync('docs/hardware.md', 'utf8')))
    say('docs/documents.md, and the table of docs/hardware.md, are written')
    return Promise.resolve(true)
  },
  async validation() {
    await loadPhysics()
    const all = validate()
    writeFileSync('docs/validation.md', validationText(all))
    say(validationText(all))
    return all.every(v => deviation(v) <= v.within)
  },
  /** Of what a run comes to: the same, or the change was meant and goes into the commit, with its reason. */
  async fingerprints() {
    const kept = keptLines()
    const lines = (await fingerprints()).map(lineOf)
    const others = lines.filter(line => !kept.includes(line))
    others.forEach(line => say(`was another: ${line}`))
    say(`${lines.length} runs of the demo projects, ${lines.length - others.length} as they were`)
    if (others.length > 0) {
      writeFileSync(KEPT, `${lines.join('\n')}\n`)
      say('raise ENGINE_VERSION in core/simulation/record.ts: kept runs come to something else than they did')
    }
    return others.length === 0
  },
  /** Every program of the demo tasks with some seeds (1 to 20), into docs/tasks.md. */
  async tasks(count) {
    const crew = new Crew(new Threads(availableParallelism()))
    const { page, good } = await taskTable(readFileSync('docs/tasks.md', 'utf8'), demoProjects(), [1, count ?? 20], async (basis, numbers) => [...(await crew.run(basis, numbers)).values()], say)
    await crew.end()
    writeFileSync('docs/tasks.md', page)
    return good
  },
  /** Each demo task's own program with many seeds (1 to 200), a row of docs/tasks.md as soon as it is done: two hours of one core. */
  async dependable(count) {
    const crew = new Crew(new Threads(availableParallelism()))
    await dependable(demoProjects(), [1, count ?? 200], async (basis, numbers) => [...(await crew.run(basis, numbers)).values()], change => writeFileSync('docs/tasks.md', change(readFileSync('docs/tasks.md', 'utf8'))), say)
    await crew.end()
    return true
  },
  /** Workers of a queue killed in the middle of a plan (20 times), the engine begun anew twice: row by row as an undisturbed plan. */
  async queue(count) {
    const { kills, restarts, runs, others } = await killQueueWorkers(count ?? 20, tell)
    say(`${kills} workers killed and the engine begun anew ${restarts} times during ${runs} runs: ${others.length} came to something else than undisturbed`)
    return others.length === 0
  },
  /** Random arenas with random programs, ten simulated minutes each. */
  async arenas(count) {
    await loadPhysics()
    const { made, ran, seconds, failures } = fuzzArenas(0, count ?? 200, 600, tell)
    say(`${made} random arenas, a run could begin in ${ran}, ${seconds} simulated seconds: ${failures.length} failures`)
    failures.slice(0, 5).forEach(say)
    return failures.length === 0
  },
  /** Programs carried to a board: every demo project's for 10,000 ticks of rough runs, and random ones (2,000): in MicroPython's own interpreter, in C++ here, and in C++ on a simulated chip. */
  async hardware(count) {
    const random = count ?? 2000
    // One each: what an interpreter keeps of a program is not given back.
    const targets = [['MicroPython', () => Interpreter.load(), 1], ['C++', () => Promise.resolve(cppHere), 10]] as const
    let right = true
    for (const [name, target, every] of targets) {
      const held = await demosIn(target, 10_000, tell)
      const wrong = await randomIn(target, random, 150, every, tell)
      held.forEach(h => say(`${h.project} in ${name}: ${h.ticks} ticks, ${h.differs ?? 'equal in each'}`))
      say(`${random} random programs in ${name}, ${every === 1 ? 'each' : `one of ${every}`} run for 150 ticks: ${wrong.length} wrong`)
      wrong.slice(0, 3).forEach(say)
      right &&= held.every(h => h.differs === null) && wrong.length === 0
    }
    const chip = await demosOnChip(10_000, tell)
    chip.forEach(h => say(chipLine(h)))
    const sketches = await demoSketches(tell)
    sketches.forEach(s => say(sketchLine(s)))
    const kept = await demosKept(tell)
    kept.forEach(k => say(keptLine(k)))
    writeFileSync('docs/hardware.md', withChip(readFileSync('docs/hardware.md', 'utf8'), chip, sketches, kept))
    return right && chip.every(h => h.differs === null && inTime(h)) && sketches.every(asExpected) && kept.every(keptAsExpected)
  },
  async kills(count) {
    const first = await killFirstStarts(count ?? 100, tell)
    say(`${first.kills} first starts killed: ${first.incomplete.length} came up incomplete`)
    first.incomplete.forEach(say)
    const saves = await killSaves(count ?? 200, tell)
    say(`${saves.kills} kills while saving: ${saves.answered} saves answered, ${saves.lost} lost`)
    const keeps = await killKeeps(Math.ceil((count ?? 200) / 4), tell)
    say(`${keeps.kills} kills while keeping runs: ${keeps.answered} runs answered, ${keeps.lost} lost`)
    keeps.incomplete.forEach(say)
    return [first, saves, keeps].every(kills => kills.incomplete.length === 0 && kills.lost === 0)
  },
}

const say = (line: string): void => { process.stdout.write(`${line}\n`) }
const tell = (line: string): void => { process.stderr.write(`${line}\n`) }

const program = new Command('mindpath prove').description('What takes too long for the tests.')
  .addArgument(new Argument('<name>', 'of the proof').choices(Object.keys(PROOFS)))
  .argument('[count]', 'how many', numberFrom(1, 1e9, true))
  .action(async (name: string, count?: number) => { process.exitCode = await PROOFS[name]!(count ?? null) ? 0 : 1 })
program.command('pictures').description('The pictures of docs/screenshots anew, of the built application with the demo data.')
  .addArgument(new Argument('[names...]', 'which; all of them').choices(PICTURE_NAMES))
  .action(async (names: readonly string[]) => { await makePictures(names.length === 0 ? PICTURE_NAMES : names, 'docs/screenshots', say) })
const usage = await runCommands(program, process.argv.slice(2))
if (usage !== 0) process.exitCode = usage
