import { acos, asin, atan2, clamp, cos, sin } from '../maths'

/** How the kinds of a function's values and of what it is worth go together. */
export type KindsOf =
  /** One value of any kind, which it keeps. */
  | 'keeps'
  /** Values of one kind, which it keeps. */
  | 'same'
  /** One value of any kind; worth a plain number. */
  | 'number'
  /** Values of one kind; worth an angle. */
  | 'angle of same'
  | 'number of angle'
  | 'angle of number'

/** A function of numbers, in SI: how many it takes, of what kinds, and what it is worth. The last bit is the same everywhere. */
export interface NumberFunction {
  readonly takes: 1 | 2 | 3
  readonly kinds: KindsOf
  of(a: number, b: number, c: number): number
}

/** Every function that a program can call, but `round` and `sqrt`, which have more to them. One more is an entry here. */
export const NUMBER_FUNCTIONS = {
  abs: { takes: 1, kinds: 'keeps', of: a => Math.abs(a) },
  min: { takes: 2, kinds: 'same', of: (a, b) => Math.min(a, b) },
  max: { takes: 2, kinds: 'same', of: (a, b) => Math.max(a, b) },
  clamp: { takes: 3, kinds: 'same', of: (a, b, c) => clamp(a, b, c) },
  sign: { takes: 1, kinds: 'number', of: a => Math.sign(a) },
  sin: { takes: 1, kinds: 'number of angle', of: a => sin(a) },
  cos: { takes: 1, kinds: 'number of angle', of: a => cos(a) },
  asin: { takes: 1, kinds: 'angle of number', of: a => asin(a) },
  acos: { takes: 1, kinds: 'angle of number', of: a => acos(a) },
  atan: { takes: 1, kinds: 'angle of number', of: a => atan2(a, 1) },
  atan2: { takes: 2, kinds: 'angle of same', of: (a, b) => atan2(a, b) },
} as const satisfies Readonly<Record<string, NumberFunction>>

export type FunctionName = keyof typeof NUMBER_FUNCTIONS

/** A function by its name; undefined for what is none. */
export const functionOf = (name: string): NumberFunction | undefined => Object.hasOwn(NUMBER_FUNCTIONS, name) ? NUMBER_FUNCTIONS[name as FunctionName] : undefined
