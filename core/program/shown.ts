import { KINDS, PLAIN, UNITS, findUnit, formatQuantity, sameKind, unitsOfKind } from '../units'
import type { ShownAs } from './format'

/** A value as people read it: in the usual unit of its kind, or as asked; "no echo" for what is farther than anything, "never" for what is longer ago. */
export function valueText(value: number, as: ShownAs, colors: readonly string[]): string {
  switch (as.type) {
    case 'truth': return value !== 0 ? 'true' : 'false'
    case 'color': return colors[value] ?? 'none'
    case 'quantity': {
      if (value === Infinity) return sameKind(as.kind, KINDS.time) ? 'never' : 'no echo'
      const unit = as.unit != null ? findUnit(as.unit) : as.share ? UNITS.find(u => u.name === '%') : sameKind(as.kind, PLAIN) ? undefined : unitsOfKind(as.kind)[0]
      if (as.step !== undefined) {
        const figure = (Math.round(value / as.step) * as.step / (unit?.scale ?? 1)).toFixed(as.decimals)
        return `${/^-0\.?0*$/.test(figure) ? figure.slice(1) : figure}${unit === undefined ? '' : ` ${unit.name}`}`
      }
      if (unit !== undefined) return formatQuantity(value, unit)
      return String(Math.round(value * 1000) / 1000)
    }
    default: return ''
  }
}
