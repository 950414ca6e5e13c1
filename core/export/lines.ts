/** `line 3`, `lines 3, 7`. */
export const lineText = (lines: readonly number[]): string => `line${lines.length === 1 ? '' : 's'} ${lines.join(', ')}`
