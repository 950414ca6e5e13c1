import { buildSync } from 'esbuild'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { describe, expect, test } from 'vitest'
import { RandomStream } from '../../../core/random'
import { openRun } from '../../../core/simulation'
import { searchSoFar } from '../../../core/trials'
import { runJobs, shareOf } from '../../../jobs/runner'
import { Threads } from '../../../jobs/threads'
import { TrialEngine, type Word } from '../../../server/trials/engine'
import { answersIn, checked, DOCUMENTS, fresh, Here, plan, PROGRAMS, stateOf, undisturbed, written } from './plans'

describe('the engine', () => {
  test('does every run of a plan once, and keeps of each what it was made of and what came of it', async () => {
    const at = await fresh()
    const id = await at.add()
    const words: Word[] = []
    const engine = new TrialEngine(at.trials, new Here())
    engine.listen(word => words.push(word))
    engine.wake()
    await engine.idle()
    expect(await answersIn(at, id)).toEqual(await undisturbed(plan()))
    expect(await stateOf(at, id)).toMatchObject({ state: 'done', done: 20, total: 20, programs: [{ name: 'own', revision: 3 }, { name: 'slow', revision: null }] })
    const [row] = await at.db.selectFrom('trials').selectAll().where('number', '=', 3).execute()
    expect(row).toMatchObject({ program: 'slow', realism: 'typical', seed: 2, dials: '{}' })
    expect(JSON.parse(row!.world)).toEqual({ grip: expect.closeTo(0.75, 0.25), start: expect.objectContaining({ heading: expect.stringContaining('deg') }) })
    expect(words[0]).toMatchObject({ id, project: at.project, progress: { done: 0 } })
    expect(words.some(w => w.progress?.done === 20)).toBe(true)
    expect(words.at(-1)).toEqual({ id, project: at.project, progress: null })
  })

  test('comes to the same where threads end twenty times in the middle of jobs, and it is itself ended twice', async () => {
    const at = await fresh()
    const id = await at.add()
    const luck = RandomStream.named(7, 'killing')
    let killed = 0
    const runner = () => new Here(() => { if (killed < 20 && luck.unit() < 0.5) { killed++; throw new Error('ended') } })
    for (const most of [5, 9]) {
      const engine = new TrialEngine(at.trials, runner())
      const enough = new Promise<void>((resolve) => { engine.listen((w) => { if ((w.progress?.done ?? 0) >= most) resolve() }) })
      engine.wake()
      await enough
      await engine.close()
      expect(await stateOf(at, id)).toMatchObject({ state: 'running' })
    }
    const engine = new TrialEngine(at.trials, runner())
    engine.wake()
    await engine.idle()
    expect(killed).toBeGreaterThan(5)
    expect(await answersIn(at, id)).toEqual(await undisturbed(plan()))
    expect(await stateOf(at, id)).toMatchObject({ state: 'done', done: 20 })
  })

  test('says of a job whose thread ends every time that it cannot be run, and goes on', async () => {
    const at = await fresh()
    const id = await at.add(written({ seeds: [1, 1] }))
    const engine = new TrialEngine(at.trials, new Here(() => { throw new Error('gone') }))
    engine.wake()
    await engine.idle()
    expect((await answersIn(at, id)).map(a => a.answer)).toContain('whoever did it came to an end 5 times: gone')
  })

  test('cancels a plan at once, keeps what it did, and goes on with the next; one that waits is cancelled before it begins', async () => {
    const at = await fresh()
    const [first, second, third] = [await at.add(), await at.add(), await at.add(written({ seeds: [11, 20] }))]
    const engine = new TrialEngine(at.trials, new Here())
    const begun = new Promise<void>((resolve) => { engine.listen((w) => { if ((w.progress?.done ?? 0) > 0) resolve() }) })
    engine.wake()
    await begun
    expect([await engine.cancel(first), await engine.cancel(second), await engine.cancel(first)]).toEqual([true, true, false])
    await engine.idle()
    const states = await Promise.all([first, second, third].map(id => stateOf(at, id)))
    expect(states.map(s => s.state)).toEqual(['cancelled', 'cancelled', 'done'])
    expect(states[0]!.done).toBeGreaterThan(0)
    expect(states[0]!.done).toBeLessThan(20)
    expect(states[1]!.done).toBe(0)
  })

  describe.each([
    // It fails where it stands too far off to the side: found by turning.
    { search: { for: 'failure' as const, runs: 40 }, of: { world: { turn: ['-60 deg', '60 deg'] }, realisms: ['ideal'], limit: 14 } },
    { search: { for: 'values' as const, runs: 120 }, of: { world: {}, limit: 2, dials: [{ name: 'cruise', from: '10 cm/s', to: '30 cm/s', count: 1 }] } },
  ])('that looks for $search.for', ({ search, of }) => {
    const programs = PROGRAMS.slice(0, 1)
    const sought = written({ ...of, seeds: [1, 1], search })
    async function through(ends: readonly number[]) {
      const at = await fresh()
      const id = await at.add(sought, programs)
      for (const most of ends) {
        const engine = new TrialEngine(at.trials, new Here())
        const enough = new Promise<void>((resolve) => { engine.listen((w) => { if ((w.progress?.done ?? 0) >= most) resolve() }) })
        engine.wake()
        await enough
        await engine.close()
        expect(await stateOf(at, id)).toMatchObject({ state: 'running' })
        // What there is until then has no outcome yet.
        expect((await searchSoFar(checked(plan(sought), programs), await at.trials.allOf(id))).outcome).toBeNull()
      }
      const engine = new TrialEngine(at.trials, new Here())
      engine.wake()
      await engine.idle()
      expect(await stateOf(at, id)).toMatchObject({ state: 'done' })
      return { at, id, so: await searchSoFar(checked(plan(sought), programs), await at.trials.allOf(id)) }
    }
    test('goes on where it was ended twice, and comes to what an undisturbed one comes to; each of its runs can be run again', async () => {
      const [one, other] = [await through([]), await through([3, 21])]
      expect(await answersIn(other.at, other.id)).toEqual(await answersIn(one.at, one.id))
      expect(other.so).toEqual(one.so)
      const { outcome, ran } = one.so
      expect(outcome?.for).toBe(search.for)
      expect(ran.map(r => r.number)).toEqual(ran.map((_, i) => i))
      const last = ran.at(-1)!
      const again = (await one.at.trials.inputsOf(one.id, last.number))!
      const opened = await openRun(again.inputs)
      if (!opened.ok || typeof last.answer === 'string') throw new Error('refused')
      expect({ ...opened.simulation.runToEnd(), path: opened.simulation.pathLength }).toMatchObject({ ended: last.answer.ended, time: last.answer.time, path: last.answer.path })
      opened.simulation.free()
      if (outcome?.for === 'failure') expect(outcome.worst.fails!.trial).toBe(ran.find(r => r.answer === outcome.worst.fails!.trial)!.answer)
      else expect(outcome!.finding.runs).toBe(ran.length)
    })
  })

  test('runs again what was run, also where two programs are called alike', async () => {
    const at = await fresh()
    const id = await at.add(written({ seeds: [1, 1] }), PROGRAMS.map(p => ({ ...p, name: 'alike' })))
    const engine = new TrialEngine(at.trials, new Here())
    engine.wake()
    await engine.idle()
    expect((await Promise.all([0, 1].map(number => at.trials.inputsOf(id, number)))).map(r => r!.inputs.program)).toEqual(PROGRAMS.map(p => p.text))
    expect(await at.trials.inputsOf(id, 2)).toBeNull()
  })

  test('does nothing of a plan that is cancelled while it is being read, and hears of a plan that comes just as the last is done', async () => {
    const at = await fresh()
    const id = await at.add()
    const engine = new TrialEngine(at.trials, new Here())
    const { find } = at.trials
    at.trials.find = async (of) => { const found = await find.call(at.trials, of); await engine.cancel(of); return found }
    engine.wake()
    await engine.idle()
    expect(await stateOf(at, id)).toMatchObject({ state: 'cancelled', done: 0 })
    at.trials.find = find
    // It is told between the last look for more and the end of going on.
    const { next } = at.trials
    let looked = 0
    at.trials.next = async () => { const id = await next.call(at.trials); if (id === null && looked++ === 0) { await at.add(); queueMicrotask(() => queueMicrotask(() => queueMicrotask(() => engine.wake()))) } return id }
    engine.wake()
    await engine.idle()
    expect((await at.trials.list(at.project)).map(p => p.state).sort()).toEqual(['cancelled', 'done'])
  })

  test('stops when all is known well enough', async () => {
    const at = await fresh()
    const id = (await at.trials.add(at.project, written({ seeds: [1, 200], limit: 0.1, sure: 0.1 }), PROGRAMS, DOCUMENTS, 400))!
    const engine = new TrialEngine(at.trials, new Here())
    engine.wake()
    await engine.idle()
    // None meets its goals in a tenth of a second; of 20 seeds Wilson's interval is 16 % wide.
    expect(await stateOf(at, id)).toMatchObject({ state: 'enough', done: 40, met: 0, total: 400 })
  })

  test('lets a plan fail that cannot be read any more, and does the others', async () => {
    const at = await fresh()
    const [bad, good] = [await at.add(), await at.add()]
    await at.db.updateTable('plans').set({ programs: JSON.stringify([{ name: 'own', text: 'when when', revision: null }]) }).where('id', '=', bad).execute()
    const engine = new TrialEngine(at.trials, new Here())
    const words: Word[] = []
    engine.listen(word => words.push(word))
    engine.wake()
    await engine.idle()
    expect(words[0]).toEqual({ project: at.project, id: bad, progress: null })
    expect(await stateOf(at, bad)).toMatchObject({ state: 'failed', why: expect.stringContaining('own:1:') })
    expect(await stateOf(at, good)).toMatchObject({ state: 'done' })
  })

  test('a plan that was put away is no longer there, can be brought back, and goes with the next start', async () => {
    const at = await fresh()
    const id = await at.add()
    expect([await at.trials.remove(id), await at.trials.remove(id), (await at.trials.list(at.project)).length, await at.trials.next()]).toEqual([true, false, 0, null])
    expect([await at.trials.restore(id), (await stateOf(at, id)).state]).toEqual([true, 'cancelled'])
    await at.trials.remove(id)
    await at.trials.clear()
    expect(await at.trials.restore(id)).toBe(false)
  })
})

describe('threads', () => {
  test('that are ended in the middle of jobs change nothing of what comes', async () => {
    const path = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'trials.worker.mjs')
    writeFileSync(path, buildSync({ entryPoints: ['jobs/trials.worker.ts'], bundle: true, platform: 'node', format: 'esm', write: false, logLevel: 'error' }).outputFiles[0]!.contents)
    const threads = new Threads(2, pathToFileURL(path))
    const rows: { number: number, answer: unknown }[] = []
    let kills = 0
    await runJobs(threads, shareOf(checked(plan()).basis), Array.from({ length: 20 }, (_, i) => i), new AbortController().signal, (number, answer) => {
      rows.push({ number, answer: JSON.parse(JSON.stringify(answer)) })
      if (rows.length % 4 === 0) { kills++; void threads.kill() }
    })
    await threads.close()
    expect(kills).toBe(5)
    expect(rows.sort((a, b) => a.number - b.number)).toEqual(await undisturbed(plan()))
  })
})
