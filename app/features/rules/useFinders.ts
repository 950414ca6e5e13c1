import { conditionChoices, replaceStep, stepChoices, type Card, type Edit, type Sheet } from '~~/core/editing'
import { newRule } from './actions'
import { useBenchStore } from '~/features/bench/bench'
import { useRulesStore } from './rules'

/** Asking for a condition or a step that this robot can do, and putting it into the program. */
export function useFinders() {
  const bench = useBenchStore()
  const rules = useRulesStore()

  /** Asks for a condition below the element of a key; `then` is shown or asked for when it stands in the program. */
  function condition(key: string, title: string, make: (text: string) => (sheet: Sheet) => Edit, then: string | (() => void)): void {
    const facts = bench.opened?.facts
    if (facts === undefined) return
    rules.find({
      key, title, text: '', offers: conditionChoices(facts, rules.sheet.tree),
      take: (text) => {
        if (!rules.change(make(text), typeof then === 'string' ? then : null)) return `“${text}” is no condition`
        if (typeof then !== 'string') then()
        return null
      },
    })
  }

  /** Asks for a step; the focus goes to `then`. */
  function step(key: string, title: string, make: (text: string) => (sheet: Sheet) => Edit, then: string): void {
    const facts = bench.opened?.facts
    if (facts === undefined) return
    rules.find({
      key, title, text: '', offers: stepChoices(facts, rules.sheet.tree),
      take: text => rules.change(make(text), then) ? null : `“${text}” is no step`,
    })
  }

  /** Asks for the only step of a rule that was just made, told by the places of its card and row. */
  function onlyStep(card: number, row: number): void {
    const made = rules.outline.cards[card]?.rows[row]?.steps[0]
    const key = `${card}.${row}.0`
    if (made !== undefined) step(key, 'do …', text => s => replaceStep(s, made.at, text), key)
  }

  /** Asks for a new rule: its condition, then its step. `place` is where it will stand. */
  function rule(key: string, card: Card, before: number | null, place: { readonly card: number, readonly row: number }): void {
    const facts = bench.opened?.facts
    if (facts !== undefined) condition(key, 'when …', text => newRule(card, before, text, facts), () => onlyStep(place.card, place.row))
  }

  return { condition, step, onlyStep, rule }
}
