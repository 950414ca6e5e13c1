import { KINDS, kindOf, type KindName } from '../units'
import type { ReadingSpec } from './device'

/** Short ways of saying what a device reads. */

type Rest = Partial<Omit<ReadingSpec, 'name' | 'type' | 'summary'>>

const PLAIN: Omit<ReadingSpec, 'name' | 'type' | 'summary'> = { range: null, mayMiss: false, resettable: false, hidden: false, of: null, takes: [] }

export const quantityReading = (name: string, kind: KindName, summary: string, rest: Rest = {}): ReadingSpec =>
  ({ ...PLAIN, name, type: { type: 'quantity', kind: kindOf(kind), share: false }, summary, ...rest })

/** A share, told in %. */
export const shareReading = (name: string, summary: string, rest: Rest = {}): ReadingSpec =>
  ({ ...PLAIN, range: [0, 1], name, type: { type: 'quantity', kind: KINDS.number, share: true }, summary, ...rest })

export const truthReading = (name: string, summary: string, rest: Rest = {}): ReadingSpec =>
  ({ ...PLAIN, name, type: { type: 'truth' }, summary, ...rest })

export const colorReading = (name: string, summary: string, rest: Rest = {}): ReadingSpec =>
  ({ ...PLAIN, name, type: { type: 'color' }, summary, ...rest })
