/** Things in the order that somebody chose, by their names: those that were not known then come after, as they are listed. */
export function ordered<T extends { readonly name: string }>(all: readonly T[], order: readonly string[]): readonly T[] {
  const place = (t: T, i: number): number => { const at = order.indexOf(t.name); return at === -1 ? order.length + i : at }
  return all.map((t, i) => ({ t, at: place(t, i) })).sort((a, b) => a.at - b.at).map(x => x.t)
}

/** The order with one name moved by a place, as far as it goes. */
export function movedBy(names: readonly string[], name: string, by: 1 | -1): readonly string[] {
  const at = names.indexOf(name)
  const to = at + by
  if (at === -1 || to < 0 || to >= names.length) return names
  const list = [...names]
  list.splice(at, 1)
  list.splice(to, 0, name)
  return list
}

/** The order with one name put before another. */
export function putBefore(names: readonly string[], name: string, before: string): readonly string[] {
  if (name === before || !names.includes(name) || !names.includes(before)) return names
  const list = names.filter(n => n !== name)
  list.splice(list.indexOf(before), 0, name)
  return list
}
