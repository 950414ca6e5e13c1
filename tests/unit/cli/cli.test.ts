import { spawnSync } from 'node:child_process'
import { cpSync, existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, test, vi } from 'vitest'
import { buildSync } from 'esbuild'
import { strToU8, zipSync, strFromU8, unzipSync } from 'fflate'
import { commandLine } from '../../../cli/command-line'
import { readKept } from '../../../core/runs/kept'
import { filesOf } from '../../../core/simulation'
import { writeTape } from '../../../core/tape'
import { PROGRAM_VERSION } from '../../../core/program'

/** The command line as people call it. */
const out = join(process.cwd(), '.build', 'cli-test.mjs')
buildSync({ entryPoints: ['cli/main.ts'], loader: { '.py': 'text', '.h': 'text' }, bundle: true, platform: 'node', format: 'esm', packages: 'external', outfile: out, logLevel: 'error' })
buildSync({ entryPoints: ['jobs/trials.worker.ts'], bundle: true, platform: 'node', format: 'esm', packages: 'external', outfile: join(process.cwd(), '.build', 'trials.worker.mjs'), logLevel: 'error' })

function run(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['--liftoff-only', out, ...args], { encoding: 'utf8' })
  return { status, stdout, stderr }
}
/** The same without a process of its own, which takes a second each. */
async function called(...args: string[]) {
  const said = { stdout: '', stderr: '' }
  const spies = (['stdout', 'stderr'] as const).map(which => vi.spyOn(process[which], 'write').mockImplementation((text) => { said[which] += String(text); return true }))
  try {
    return { status: await commandLine(args), ...said }
  } finally {
    spies.forEach(spy => spy.mockRestore())
  }
}
const file = (name: string, text: string): string => {
  const path = join(mkdtempSync(join(tmpdir(), 'mindpath-cli-')), name)
  writeFileSync(path, text)
  return path
}

describe('sim', () => {
  test('prints one object and exits 0 when all goals are met', () => {
    const { status, stdout } = run('sim', 'demo/projects/kiss-the-fender', '--seed', '4', '--json')
    expect(status).toBe(0)
    const summary = JSON.parse(stdout) as Record<string, unknown>
    expect(Object.keys(summary)).toEqual(expect.arrayContaining(['ended', 'reason', 'time_s', 'seed', 'goals', 'contacts', 'falls', 'notes', 'hash']))
    expect(summary).toMatchObject({ ended: 'finished', reason: 'alongside', seed: 4, contacts: 0, falls: 0 })
    expect(summary['notes']).toEqual([{ t_s: expect.any(Number), text: expect.stringMatching(/^stopped at [\d.]+ cm$/) }])
  })
  test('takes another program, and exits 1 when a goal is not met', async () => {
    const late = file('late.mindpath', readFileSync('demo/projects/kiss-the-fender/program.mindpath', 'utf8').replace('near = 13 cm', 'near = 3 cm'))
    const { status, stdout } = await called('sim', 'demo/projects/kiss-the-fender', '--program', late, '--json')
    expect(status).toBe(1)
    expect((JSON.parse(stdout) as { goals: { met: boolean }[] }).goals[0]!.met).toBe(false)
  })
  test('ends after the seconds asked for', async () => {
    const { stdout } = await called('sim', 'demo/projects/night-rounds', '--seconds', '2', '--realism', 'rough', '--json')
    expect(JSON.parse(stdout)).toMatchObject({ ended: 'time', time_s: 2, realism: 'rough' })
  })
  test('tells way, pose, events and dials, and takes dials in their units', async () => {
    const { status, stdout } = await called('sim', 'demo/projects/kiss-the-fender', '--dial', 'near=20 cm', '--json')
    const summary = JSON.parse(stdout) as { path_m: number, pose: { x_m: number, y_m: number, heading_deg: number }, dials: Record<string, number>, events: { type: string, t_s: number }[] }
    expect(status).toBe(1)
    expect(summary.dials).toEqual({ near: 0.2, cruise: 0.25 })
    const turned = await called('sim', 'demo/projects/kiss-the-fender', '--world', 'start=30 cm, 60 cm, 180 deg', '--world', 'grip=0.5', '--seconds', '1', '--json')
    expect((JSON.parse(turned.stdout) as typeof summary).pose.x_m).toBeLessThan(0.3)
    expect(summary.path_m).toBeGreaterThan(Math.hypot(1, 0) - 0.5)
    expect(summary.events.map(e => e.type)).toEqual(expect.arrayContaining(['note', 'finish']))
    const nearer = JSON.parse((await called('sim', 'demo/projects/kiss-the-fender', '--json')).stdout) as typeof summary
    expect(nearer.path_m - summary.path_m).toBeCloseTo(0.07, 1)
  })
  test('keeps a run with --record, which replay runs again: 0 the same to the bit, 1 not, 2 no run', async () => {
    const path = file('kiss.run.json', '')
    expect((await called('sim', 'demo/projects/kiss-the-fender', '--seed', '4', '--seconds', '3', '--record', path)).status).toBe(1)
    expect(await called('replay', path)).toMatchObject({ status: 0, stdout: expect.stringMatching(/^kiss-the-fender, seed 4, typical, 0 pokes, 3 s: the same to the bit \([0-9a-f]{16}\)\n$/) as string })
    const kept = JSON.parse(readFileSync(path, 'utf8')) as object
    const poked = file('poked.run.json', JSON.stringify({ ...kept, engine: 999, pokes: [{ tick: 20, poke: 'hand', device: 'sonar', distance: 0.1 }] }))
    expect(await called('replay', poked)).toMatchObject({ status: 1, stdout: expect.stringMatching(/1 pokes.*not the same: .* and not [0-9a-f]{16}; it was made by engine 999/) as string })
    expect(await called('replay', file('no.run.json', JSON.stringify({ ...kept, seed: -1 })))).toMatchObject({ status: 2, stderr: expect.stringMatching(/no\.run\.json: seed: found -1; /) as string })
  })
  test('--help answers', async () => {
    expect(await called('sim', '--help')).toMatchObject({ status: 0, stdout: expect.stringContaining('Usage: mindpath sim [options] <project>') as string })
  })
  test('a robot that would start inside of a wall, or off the deck, is refused with the place', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'mindpath-cli-'))
    cpSync('demo', folder, { recursive: true })
    const path = join(folder, 'arenas', 'fender-quay.json')
    const arena = JSON.parse(readFileSync(path, 'utf8')) as Record<string, unknown>
    const start = async (change: object) => {
      writeFileSync(path, JSON.stringify({ ...arena, ...change }))
      const { status, stderr } = await called('sim', join(folder, 'projects', 'kiss-the-fender'), '--json')
      return `${status} ${stderr}`
    }
    expect(await start({ start: { at: ['60 cm', '60 cm'] }, walls: [{ from: ['50 cm', '20 cm'], to: ['70 cm', '1 m'] }] })).toMatch(/^2 .*start: found 0.6 m, 0.6 m; the robot would start inside of wall/s)
    expect(await start({ start: { at: ['-3 m', '60 cm'] } })).toMatch(/^2 .*off every deck/s)
  })
  test.each([
    [['sim', 'demo/projects/kiss-the-fender', '--dial', 'far=3 cm'], 'the program has no dial far; it has near, cruise'],
    [['sim', 'demo/projects/kiss-the-fender', '--dial', 'near=3 s'], '--dial near=3 s'],
    [['sim', 'demo/projects/kiss-the-fender', '--dial', 'near=9 m'], '--dial near=9 m: allowed is from 3 cm to 60 cm'],
    [['sim', 'demo/projects/kiss-the-fender', '--world', 'grip=often'], '--world grip: found'],
    [['sim', 'demo/projects/kiss-the-fender', '--world', 'start=50 cm, 60'], '--world start.at'],
    [['sim', 'demo/projects/kiss-the-fender', '--world', 'walls[7].east=1 cm'], '--world moved.walls[7]: found walls[7]; the arena has nothing of this name that can be moved; it has fender, crate_1'],
    [['sim', 'demo/projects/kiss-the-fender', '--world', 'grip'], "argument 'grip' is invalid. expected NAME=VALUE, such as grip=0.6"],
    [['sim'], "missing required argument 'project'"],
    [['sim', 'nowhere'], 'there is no such file'],
    [['sim', 'demo/projects/night-rounds', '--seed', 'x'], 'allowed is a whole number from 0'],
    [['sim', 'demo/projects/night-rounds', '--realism', 'perfect'], 'Allowed choices are ideal, typical, rough'],
    [['sim', 'demo/projects/night-rounds', '--fast'], "unknown option '--fast'"],
    [['fly'], "unknown command 'fly'"],
  ])('%j cannot run: 2, and says why', async (args, says) => {
    const { status, stderr, stdout } = await called(...args)
    expect(status).toBe(2)
    expect(stderr).toContain(says)
    expect(stdout).toBe('')
  })
  test('a program with mistakes cannot run: all of them with their places', async () => {
    const wrong = file('wrong.mindpath', 'when sonar.distance < 20\n  halt\notherwise\n  drvie 20 cm/s\n')
    const { status, stderr } = await called('sim', 'demo/projects/night-rounds', '--program', wrong)
    expect(status).toBe(2)
    expect(stderr).toContain(`${wrong}:1:23: 20 what?`)
    expect(stderr).toContain(`${wrong}:4:3: drvie is not a step`)
  })
  test('a document with a wrong value names path, value and what is allowed', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'mindpath-demo-'))
    cpSync('demo', folder, { recursive: true })
    const robot = join(folder, 'robots', 'limpet.json')
    writeFileSync(robot, readFileSync(robot, 'utf8').replace('"mass": "0.9 kg"', '"mass": "900 kg"'))
    const { status, stderr } = await called('sim', join(folder, 'projects', 'night-rounds'))
    expect(status).toBe(2)
    expect(stderr).toMatch(/limpet\.json: chassis\.mass: found "900 kg"; allowed is from 0\.02 kg to 50 kg/)
  })
})

describe('a project that travelled', () => {
  const zipped = (change: (files: Record<string, string>) => Record<string, string> = f => f) => {
    const json = (path: string): unknown => JSON.parse(readFileSync(`demo/${path}`, 'utf8'))
    const files = filesOf({ title: 'Away', robot: json('robots/limpet.json'), arena: json('arenas/fender-quay.json'), task: json('tasks/kiss-the-fender.json'), program: readFileSync('demo/projects/kiss-the-fender/program.mindpath', 'utf8') })
    const path = join(mkdtempSync(join(tmpdir(), 'mindpath-zip-')), 'away.zip')
    writeFileSync(path, zipSync(Object.fromEntries(Object.entries(change({ ...files })).map(([name, text]) => [name, strToU8(text)]))))
    return path
  }
  test('runs from its zip as from its folder, and compiles', async () => {
    const hash = async (project: string): Promise<unknown> => (JSON.parse((await called('sim', project, '--json')).stdout) as { hash: string }).hash
    const zip = zipped()
    expect(await hash(zip)).toBe(await hash('demo/projects/kiss-the-fender'))
    expect(await called('compile', zip, '--json')).toMatchObject({ status: 0, stdout: (await called('compile', 'demo/projects/kiss-the-fender', '--json')).stdout })
  })
  test('is refused with file, place and value where something in it is wrong', async () => {
    expect(await called('sim', zipped(f => ({ ...f, 'robot.json': f['robot.json']!.replace('"mass": "0.9 kg"', '"mass": "900 kg"') })))).toMatchObject({ status: 2, stderr: expect.stringMatching(/away\.zip: robot: chassis\.mass: found "900 kg"/) as string })
    expect(await called('sim', zipped(f => ({ ...f, 'arena.json': '{' })))).toMatchObject({ status: 2, stderr: expect.stringMatching(/away\.zip: arena\.json: it is not JSON/) as string })
    expect(await called('sim', file('odd.zip', 'no zip at all'))).toMatchObject({ status: 2, stderr: expect.stringContaining('odd.zip: the zip: it cannot be read as a zip') as string })
  })
})

describe('check and format', () => {
  test('check prints diagnostics and exits 1 on errors', async () => {
    const path = file('a.mindpath', 'dial far = 9 m\n\nwhen sonar.distance < far\n  halt\n  drvie 10 cm\n')
    const { status, stdout } = await called('check', path, '--json')
    expect(status).toBe(1)
    expect(JSON.parse(stdout)).toEqual([
      { code: 'beyond-range', severity: 'warning', line: 3, column: 6, message: expect.stringContaining('reads up to 250 cm'), fix: null },
      { code: 'unknown-step', severity: 'error', line: 5, column: 3, message: expect.stringContaining('Did you mean drive?'), fix: 'Use drive' },
    ])
  })
  test('check exits 0 where there are no errors', async () => {
    expect(await called('check', 'demo/projects/night-rounds/program.mindpath', '--robot', 'demo/robots/limpet.json')).toMatchObject({ status: 0 })
  })
  test('format writes the canonical form, and leaves alone what cannot be read', async () => {
    const good = file('a.mindpath', 'when   sonar.sees  # near\n    halt\n')
    expect((await called('format', good)).status).toBe(0)
    expect(readFileSync(good, 'utf8')).toBe('when sonar.sees  # near\n  halt\n')
    const bad = file('b.mindpath', 'when   sonar.sees\n    hlat\n')
    expect((await called('format', bad)).status).toBe(1)
    expect(readFileSync(bad, 'utf8')).toBe('when   sonar.sees\n    hlat\n')
  })
})

describe('compile', () => {
  const fender = 'demo/projects/kiss-the-fender'
  test('prints the intermediate program of a project, the same as of its file on its robot', async () => {
    const { status, stdout } = await called('compile', fender, '--json')
    expect(status).toBe(0)
    const program = JSON.parse(stdout) as { mindpath: string, version: number, robot: string, dials: { name: string, value: number }[] }
    expect(program).toMatchObject({ mindpath: 'program', version: PROGRAM_VERSION, robot: 'limpet', dials: [{ name: 'near', value: 0.13 }, { name: 'cruise', value: 0.25 }] })
    expect((await called('compile', `${fender}/program.mindpath`, '--robot', 'demo/robots/limpet.json')).stdout).toBe(`${JSON.stringify(program, null, 2)}\n`)
  })
  test('a program that cannot run: 2, and file, line and column of each error', async () => {
    const broken = file('broken.mindpath', 'otherwise -> halt\nwhen sonar.width < 3 cm -> halt\n')
    expect(await called('compile', broken)).toMatchObject({ status: 2, stdout: '', stderr: expect.stringContaining(`${broken}:2:12: `) as string })
  })
  test.each([
    [['compile'], "missing required argument 'project or file'"],
    [['compile', 'a', 'b'], 'Expected 1 argument but got 2'],
    [['compile', fender, '--pretty'], "unknown option '--pretty'"],
    [['compile', 'nowhere'], 'there is no such file'],
    [['compile', fender, '--robot', 'demo/tasks/kiss-the-fender.json'], 'demo/tasks/kiss-the-fender.json: '],
  ])('%j cannot: 2, and says why', (args, says) => {
    const { status, stderr, stdout } = run(...args)
    expect({ status, stdout }).toEqual({ status: 2, stdout: '' })
    expect(stderr).toContain(says)
  })
})

describe('kept runs', () => {
  const folder = mkdtempSync(join(tmpdir(), 'mindpath-runs-'))
  const [one, two] = [join(folder, 'one.mindrun'), join(folder, 'two.mindrun')]
  test('sim keeps a run with its tape and writes chosen columns; a column that there is not is refused with those that there are', async () => {
    const csv = join(folder, 'one.csv')
    expect(await called('sim', 'demo/projects/kiss-the-fender', '--seed', '4', '--keep', one, '--csv', csv, '--columns', 'sonar.distance, robot.x', '--every', '0.5', '--json')).toMatchObject({ status: 0 })
    const lines = readFileSync(csv, 'utf8').split('\r\n')
    expect(lines.slice(0, 2)).toEqual(['time [s],sonar.distance [cm],robot.x [cm]', expect.stringMatching(/^0,[\d.]+,[\d.]+$/)])
    expect(lines[2]).toMatch(/^0\.5,/)
    const refused = await called('sim', 'demo/projects/kiss-the-fender', '--csv', csv, '--columns', 'sonar.size')
    expect(refused).toMatchObject({ status: 2, stderr: expect.stringMatching(/--columns: there is no sonar\.size; allowed are .*sonar\.distance/) })
  })
  test('replay reads it; compare says where two first differ, and which dials were others', async () => {
    expect(await called('replay', one)).toMatchObject({ status: 0, stdout: expect.stringMatching(/the same to the bit/) })
    expect(await called('sim', 'demo/projects/kiss-the-fender', '--seed', '4', '--dial', 'near=20 cm', '--keep', two, '--json')).toMatchObject({ status: 1 })
    expect(await called('compare', one, one)).toMatchObject({ status: 0, stdout: expect.stringMatching(/the same as far as can be seen/) })
    const { status, stdout } = await called('compare', one, two)
    expect(status).toBe(1)
    expect(stdout).toMatch(/^a: .*finished after [\d.]+ s \(alongside\); 3 of 3 goals/)
    expect(stdout).toMatch(/The dial near stood at 13 cm in a, 20 cm in b\./)
    expect(stdout).toMatch(/They first differ at [\d.]+ s \(tick \d+\):\n {2}rule 1 wants: false in a, true in b\n {2}main: rule 2, otherwise in a, rule 1, when sonar\.distance < near in b/)
    const data = JSON.parse((await called('compare', one, two, '--json')).stdout) as { first: { found: string }, a: { goals: unknown[] } }
    expect([data.first.found, data.a.goals.length]).toEqual(['difference', 3])
  })
  test('replay of one that another engine made says where it went another way', async () => {
    const record = join(folder, 'other.run.json')
    expect(await called('sim', 'demo/projects/kiss-the-fender', '--seed', '4', '--record', record, '--json')).toMatchObject({ status: 0 })
    const bytes = readFileSync(two)
    const kept = readKept(bytes)
    if (!kept.ok) throw new Error(kept.problems[0]!.message)
    // The tape of one run under the inputs of another: what another engine would have made of them.
    const made = JSON.parse(readFileSync(record, 'utf8')) as { engine: number }
    const forged = join(folder, 'forged.mindrun')
    writeFileSync(forged, writeTape(kept.value.tape, kept.value.record.fingerprint, { mindpath: 'kept run', record: { ...made, engine: made.engine + 1, fingerprint: kept.value.record.fingerprint }, standing: kept.value.standing }))
    const { status, stdout } = await called('replay', forged)
    expect(status).toBe(1)
    expect(stdout).toMatch(/not the same: .*; it was made by engine \d+, this is \d+\n/)
    expect(stdout).toMatch(/They first differ at [\d.]+ s .*\n {2}rule 1 wants: true in kept, false in now/)
  })
  test('why tells the rule in control and what kept the others from it; instants that there are not are refused', async () => {
    const { status, stdout } = await called('why', one, '--at', '1.2s')
    expect(status).toBe(0)
    expect(stdout).toMatch(/^main: rule 2 \(line \d+\) has control since 1\.20 s\n {2}rule 1 \(line \d+\) does not want control since 1\.20 s: sonar\.distance < near is false \(sonar\.distance was [\d.]+ cm, near was 13 cm; -[\d.]+ cm to turn over\)\nwheels is moved by line \d+: .*drive .*\n(.*\n)*sonar\.distance said [\d.]+ cm, true was [\d.]+ cm, looked \d\.\d\d s before\n/)
    expect(JSON.parse((await called('why', one, '--at', '1.2', '--json')).stdout)).toMatchObject({ tick: 60, lanes: [{ lane: 'main', control: { urgency: 2 } }], moving: [{ name: 'wheels', lane: 'main' }], set: [] })
    expect(await called('why', one, '--at', '90s')).toMatchObject({ status: 2, stderr: expect.stringMatching(/allowed is from 0\.00 s to [\d.]+ s/) })
    expect(await called('why', one, '--at', '3 cm')).toMatchObject({ status: 2, stderr: expect.stringMatching(/--at is 3 cm/) })
  })
  test('a file that is no run is refused by name', async () => {
    expect(await called('replay', file('x.mindrun', 'nothing'))).toMatchObject({ status: 2, stderr: expect.stringMatching(/x\.mindrun: the file: .*this is no tape/) })
    expect(await called('why', file('x.run.json', '{"mindpath":"run"}'), '--at', '1s')).toMatchObject({ status: 2, stderr: expect.stringMatching(/x\.run\.json: version/) })
    expect(await called('compare', one, join(folder, 'none'))).toMatchObject({ status: 2, stderr: expect.stringMatching(/there is no such file/) })
  })
})

describe('trials', () => {
  test('says how often a program meets its goals, and exits by what is demanded; one thread or two come to the same', () => {
    const csv = file('trials.csv', '')
    const args = ['trials', 'demo/projects/kiss-the-fender', '--seeds', '1..4', '--programs', 'program.mindpath,first-try.mindpath', '--json']
    const two = run(...args, '--workers', '2', '--csv', csv, '--at-least', '95%')
    const said = JSON.parse(two.stdout) as { runs: number, results: { met: number, runs: number }[], comparisons: { pairs: object }[] }
    expect([two.status, said.runs, said.results.map(r => r.runs)]).toEqual([1, 8, [4, 4]])
    expect(said.results[0]!.met).toBe(4)
    expect(said.results[1]!.met).toBe(0)
    expect(said.comparisons).toMatchObject([{ pairs: { both: 0, onlyA: 4, onlyB: 0, neither: 0 } }])
    expect(readFileSync(csv, 'utf8').split('\r\n')).toHaveLength(10)
    const one = run(...args, '--workers', '1')
    expect([one.status, JSON.parse(one.stdout)]).toEqual([0, said])
  })
  test('keeps a run of every way to fail, which why and replay read', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
    const { status, stdout } = run('trials', 'demo/projects/kiss-the-fender', '--seeds', '1..3', '--programs', 'demo/projects/kiss-the-fender/first-try.mindpath', '--keep', folder)
    expect(status).toBe(0)
    const [, path, at] = /kept: (\S+\.mindrun); \.\/mindpath why \S+ --at ([\d.]+s)/.exec(stdout)!
    expect((await called('replay', path!)).stdout).toContain('the same to the bit')
    expect(await called('why', path!, '--at', at!)).toMatchObject({ status: 0 })
  })
  test('looks for where a program fails, makes that small, and keeps the arena and the run', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
    const { status, stdout } = run('trials', 'demo/projects/kiss-the-fender', '--worst', '24', '--world', 'turn=-60 deg..60 deg', '--keep', folder)
    expect(stdout).toMatch(/^fails with turn -?[\d.]+ deg: /)
    expect(status).toBe(1)
    expect(JSON.parse(readFileSync(join(folder, 'program-fails.arena.json'), 'utf8'))).toMatchObject({ mindpath: 'arena', name: expect.stringMatching(/_fails$/) })
    expect(await called('replay', join(folder, 'program-fails.mindrun'))).toMatchObject({ status: 0, stdout: expect.stringContaining('the same to the bit') })
  })
  test('stops where every share is known as well as was asked', () => {
    const { stdout } = run('trials', 'demo/projects/kiss-the-fender', '--seeds', '1..200', '--sure', '9%', '--seconds', '1')
    // None of twenty in a second: 0 to 16 %, which is 8 % either way.
    expect(stdout).toMatch(/met all goals in 0 of 20 runs(.*\n)+20 of 200 runs were enough: every share is known to within 9 %\n$/)
  })
  test.each([
    [['--seeds', '5..1'], /seeds: found \[5,1\]; expected the smaller seed first/],
    [['--seeds', '7'], /--seeds is 7; expected FROM\.\.TO/],
    [['--dial', 'nere=1 cm..2 cm:2'], /--dial nere=1 cm: the program has no dial nere; it has near/],
    [['--dial', 'near=1 cm..2 cm'], /expected NAME=FROM\.\.TO:COUNT/],
    [['--world', 'grip=0..1'], /world\.grip/],
    [['--realism', 'easy'], /allowed is one or more of ideal, typical, rough/],
    [['--at-least', 'often'], /allowed is a share such as 95% or 0\.95/],
    [['--programs', 'none.mindpath'], /cannot read none\.mindpath/],
    [['--find', '200'], /dials: found none; good values are looked for of one dial or more/],
    [['--find', '20', '--dial', 'near=8 cm..20 cm:1'], /allowed is a whole number from 120 to/],
    [['--worst', '40'], /world: found nothing; something of the world varies/],
    [['--queue', 'here:6379'], /expected an address such as redis/],
  ])('%j cannot: 2, and says why', async (more, says) => {
    expect(await called('trials', 'demo/projects/kiss-the-fender', ...more)).toMatchObject({ status: 2, stdout: '', stderr: expect.stringMatching(says) })
  })
})

describe('wiring', () => {
  test('prints how a robot is connected to a board, keeps a plan of it, and says what the board cannot have', async () => {
    const svg = file('plan.svg', '')
    const { status, stdout } = await called('wiring', 'demo/projects/kiss-the-fender', '--board', 'rp2040', '--svg', svg)
    expect(status).toBe(0)
    expect(stdout).toMatch(/^limpet on rp2040 \(RP2040\), as would do: the robot says nothing of this board\n/)
    expect(stdout).toMatch(/\nP2 +sonar +trigger and echo +trigger +GP14\n +echo +GP15 +divider 10 kΩ, 20 kΩ\n/)
    expect(readFileSync(svg, 'utf8')).toMatch(/^<svg [^]*limpet on rp2040/)
    const json = JSON.parse((await called('wiring', 'demo/projects/kiss-the-fender', '--board', 'firmata', '--json')).stdout) as { own: boolean, leftOut: string[], problems: { severity: string }[] }
    expect(json).toMatchObject({ own: false, leftOut: ['horn'] })
    expect(json.problems.every(p => p.severity === 'note')).toBe(true)
  })
  test('keeps to what the robot says, and ends with 1 where that cannot be built', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
    cpSync('demo', folder, { recursive: true })
    const [path, project] = [join(folder, 'robots', 'limpet.json'), join(folder, 'projects', 'kiss-the-fender')]
    const robot = JSON.parse(readFileSync(path, 'utf8')) as object
    writeFileSync(path, JSON.stringify({ ...robot, wiring: { board: 'atmega328p', ports: { P4: { by: 'switch', pins: { signal: 'D0' } } } } }))
    const { status, stdout } = await called('wiring', project)
    expect(status).toBe(1)
    expect(stdout).toMatch(/^limpet on atmega328p \(ATmega328P\), as the robot says\n/)
    expect(stdout).toContain('error: wiring.ports.P4.pins.signal: found D0; D0 is left alone: serial line from the computer')
    // A board that the robot brings with it is known by its name, and what is wrong with it is told where it stands.
    const own = { ...JSON.parse(readFileSync('core/hardware/boards/rp2040.json', 'utf8')) as object, name: 'workbench' }
    writeFileSync(path, JSON.stringify({ ...robot, wiring: { board: 'workbench', ports: {}, 'own board': own } }))
    expect((await called('wiring', project)).stdout).toMatch(/^limpet on workbench \(RP2040\), as the robot says\n/)
    expect((await called('export', project, '--to', 'micropython', '--out', join(project, 'out.zip'))).stderr).toContain('P2: found nothing; sonar is not connected')
    writeFileSync(path, JSON.stringify({ ...robot, wiring: { board: 'workbench', ports: {}, 'own board': { ...own, volts: 12 } } }))
    expect(await called('wiring', project)).toMatchObject({ status: 2, stderr: expect.stringContaining('wiring.own board.volts: found 12; allowed is 5.5 or less') })
    expect(await called('wiring', project, '--board', 'toaster')).toMatchObject({ status: 2, stderr: expect.stringContaining('known are atmega328p, atmega2560, rp2040, esp32, firmata') })
  })
})

describe('export', () => {
  test('writes a program with all that a board with MicroPython needs, to a folder or a zip, and says what is not there and where it is missed', async () => {
    const out = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'robot')
    const { status, stdout } = await called('export', 'demo/projects/fetch-the-floats', '--to', 'micropython', '--out', out)
    expect([status, stdout.split('\n')]).toEqual([0, [
      `cuttle for rp2040 is in ${out}: main.py, program.py, hardware.py, mindpath.py, wiring.svg, README.md`,
      expect.stringMatching(/^memory: about \d{5} of 180000 bytes, and some \d{5} while it starts$/),
      'time: looks take about 3.9 ms of a tick of 20 ms',
      'not there: cam (lines 15, 31, 32), no such board can have one',
      'differs: lift (lines 13, 21, 36, 44), that it is blocked is not known: its reading is where it was told to be',
      'differs: claw (lines 12, 25, 26, 28, 45), that it is blocked, and so whether it holds anything, is not known',
      '',
    ]])
    const program = readFileSync(join(out, 'program.py'), 'utf8')
    // Names, units and remarks as they were written; nothing that it has nothing to do with.
    expect(program).toContain('# How near the sonar must hear it before the claw closes.\nmy.reach = 0.045  # a dial: 4.5 cm')
    expect(program).toContain('    yield from move(drive_29)\n    go(mode_seek)')
    expect(program).toContain('drive_29 = DriveBy(29, lambda: 20 * cm, back=True)  # drive back 20 cm')
    expect(program).not.toMatch(/^(light|sound) = /m)
    expect(readFileSync(join(out, 'README.md'), 'utf8')).toContain('| P1 | sonar | echo | GP13 | divider 10 kΩ, 20 kΩ |')
    expect(readFileSync(join(out, 'mindpath.py'), 'utf8')).not.toMatch(/class (Tone|Stream|OverTime|Perform)\b/)
    await called('export', 'demo/projects/fetch-the-floats', '--to', 'micropython', '--board', 'esp32', '--out', `${out}.zip`)
    expect(strFromU8(unzipSync(readFileSync(`${out}.zip`))['hardware.py']!)).toContain('# How cuttle is connected to esp32')
  })
  test('a program becomes a sketch in C++, and what it needs of the board is told', async () => {
    const out = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'robot')
    const { status, stdout } = await called('export', 'demo/projects/fetch-the-floats', '--to', 'arduino', '--out', out)
    expect([status, stdout.split('\n')]).toEqual([0, [
      `cuttle for atmega328p is in ${out}: cuttle/cuttle.ino, cuttle/program.h, cuttle/hardware.h, cuttle/mindpath.h, wiring.svg, README.md`,
      expect.stringMatching(/^memory: about \d{4} of 2048 bytes, and some 300 for its calls: more than there is$/),
      expect.stringMatching(/^flash: about \d{5} of 32256 bytes, give or take a tenth/),
      expect.stringMatching(/^time: looks take about 3.9 ms of a tick of 20 ms, the program itself about 0.\d ms, and \d.\d ms when much begins at once$/),
      'not there: cam (lines 15, 31, 32), no such board can have one',
      'differs: lift (lines 13, 21, 36, 44), that it is blocked is not known: its reading is where it was told to be',
      'differs: claw (lines 12, 25, 26, 28, 45), that it is blocked, and so whether it holds anything, is not known',
      '',
    ]])
    const program = readFileSync(join(out, 'cuttle', 'program.h'), 'utf8')
    expect(program).toContain('  // How near the sonar must hear it before the claw closes.\n  Number reach = 0.045;  // a dial: 4.5 cm')
    expect(program).toContain('  MOVE(drive_29);\n  GO(mode_seek);')
    expect(program).toContain('Number drive_29_amount() { return 20 * cm; }\nDriveBy drive_29(29, wheels, BACK, drive_29_amount);  // drive back 20 cm')
    expect(program).not.toMatch(/^struct (light|sound)_device/m)
    expect(readFileSync(join(out, 'cuttle', 'mindpath.h'), 'utf8')).not.toMatch(/^struct (Play|Draws|OverTime|Perform)\b/m)
    // Two colour sensors of one address and one bus: it cannot be built, and nothing is written.
    expect(await called('export', 'demo/projects/lids-home', '--to', 'arduino', '--out', `${out}-none`)).toMatchObject({ status: 2, stderr: expect.stringContaining('wiring.ports.P4: found nothing; eye is not connected') })
    expect(existsSync(`${out}-none`)).toBe(false)
  })
  test.each([
    [['--to', 'arduino', '--board', 'rp2040'], /--board is rp2040, which is programmed in micropython; allowed with --to arduino is atmega328p, atmega2560/],
    [['--to', 'micropython', '--board', 'atmega328p'], /--board is atmega328p, which is programmed in arduino; allowed with --to micropython is rp2040, esp32/],
    [['--to', 'cobol'], /allowed|Allowed choices are micropython/],
    [['--to', 'micropython', '--program', 'nowhere.mindpath'], /cannot read nowhere\.mindpath/],
  ])('%j cannot: 2, and says why', async (more, says) => {
    expect(await called('export', 'demo/projects/night-rounds', '--out', join(tmpdir(), 'mindpath-none'), ...more)).toMatchObject({ status: 2, stdout: '', stderr: expect.stringMatching(says) })
  })
  test('a program that cannot run is not carried: its error has file, line and column', async () => {
    const bad = file('bad.mindpath', 'when sonar.distance < 3 s\n  halt\n')
    expect(await called('export', 'demo/projects/night-rounds', '--to', 'micropython', '--out', join(tmpdir(), 'mindpath-none'), '--program', bad)).toMatchObject({ status: 2, stdout: '', stderr: expect.stringMatching(/bad\.mindpath:1:\d+: /) })
  })
})
