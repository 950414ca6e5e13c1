import { hoverTooltip } from '@codemirror/view'
import { STEP_FORMS } from '~~/core/devices'
import { sheetOf, nameAt } from '~~/core/editing'
import type { RobotFacts } from '~~/core/robot'
import { readingName } from '~/shown/readings'

/** What stands under the pointer: a few words on it, and what it is worth now. */
export interface About { readonly title: string, readonly says: string, readonly now: string | null }

/** Words of the language that say what they mean on a robot. */
const WORDS: Readonly<Record<string, string>> = {
  when: 'a rule: while this is true it wants control', otherwise: 'the last rule: it always wants control', until: 'ends the wanting that the condition began', once: 'acts once each time the condition comes true',
  start: 'runs before rules are looked at', mode: 'a state with rules of its own', lane: 'a strand that runs beside the others', routine: 'steps with a name', dial: 'a number made for tuning', memory: 'a variable',
  go: 'changes the mode', finish: 'ends the run', wait: 'lets time pass', note: 'writes on the tape', set: 'gives a memory a value', reset: 'sets a reading to zero', send: 'tells all lanes', choose: 'many ways by one value', repeat: 'does steps again', leave: 'leaves the innermost repeat',
  random: 'drawn from the run’s seed', off: 'checked and kept, and does nothing', heard: 'true in the tick after a send', every: 'true once every so often', for: 'true that long without a break, and seen anew', most: 'then the next step follows',
}

/** What is to say about a place of a program; null where nothing is. `worth` tells a reading's value now. */
export function about(text: string, at: number, facts: RobotFacts | null, worth: (name: string) => string | null): About | null {
  const line = text.slice(text.lastIndexOf('\n', at - 1) + 1, at)
  if (/#/.test(line.replaceAll(/"[^"]*"/g, ''))) return null
  const before = /[\w.]*$/.exec(text.slice(0, at))![0]
  const after = /^[\w.]*(?:\([^)\n]*\))?/.exec(text.slice(at))![0]
  const word = `${before}${after}`
  for (const d of facts?.devices ?? []) {
    if (word === d.name) return { title: `${d.name}: ${d.title}${d.port === '' ? '' : `, on port ${d.port}`}`, says: d.readings.filter(r => !r.hidden).map(r => r.name).join(', '), now: null }
    for (const r of d.readings) {
      const name = readingName(d, r)
      if (!r.hidden && (name === word || (r.takes.length > 0 && word.startsWith(`${d.name}.${r.name}(`)))) return { title: name, says: `${r.summary}; ${d.title} on port ${d.port}`, now: worth(name) }
    }
  }
  const sheet = sheetOf(text)
  const name = nameAt(sheet, at)
  if (name !== null && name.name === /\w+/.exec(word)?.[0]) {
    const item = sheet.tree.items.find(i => (i.tag === 'dial' || i.tag === 'memory') && i.name.text === name.name)
    return { title: `${name.what} ${name.name}`, says: item === undefined ? '' : text.slice(item.range.from, item.range.to), now: null }
  }
  const plain = /^\w+/.exec(word)?.[0] ?? ''
  const steps = STEP_FORMS.filter(f => f.parts[0]?.part === 'word' && f.parts[0].word === plain)
  if (steps.length > 0) return { title: plain, says: steps.map(f => `${f.summary}: ${f.example}`).join('\n'), now: null }
  return Object.hasOwn(WORDS, plain) ? { title: plain, says: WORDS[plain]!, now: null } : null
}

export function hover(facts: () => RobotFacts | null, worth: (name: string) => string | null) {
  return hoverTooltip((view, pos) => {
    const found = about(view.state.doc.toString(), pos, facts(), worth)
    if (found === null) return null
    const word = view.state.wordAt(pos)
    return {
      pos: word?.from ?? pos, end: word?.to ?? pos, above: true,
      create() {
        const dom = document.createElement('div')
        dom.className = 'mp-about'
        const line = (cls: string, text: string): void => { const e = dom.appendChild(document.createElement('div')); e.className = cls; e.textContent = text }
        line('mp-about-title', found.title)
        if (found.says !== '') line('mp-about-says', found.says)
        if (found.now !== null) line('mp-about-now', `now ${found.now}`)
        return { dom }
      },
    }
  }, { hoverTime: 350 })
}
