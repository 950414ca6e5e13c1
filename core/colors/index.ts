/** The colours that have a name in programs and documents; a colour reading is a place in this list. */
export const COLORS = ['none', 'black', 'grey', 'white', 'red', 'orange', 'yellow', 'green', 'blue', 'violet'] as const
export type ColorName = (typeof COLORS)[number]
