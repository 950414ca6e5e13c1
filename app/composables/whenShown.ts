/** A page that draws no frames, being hidden, waits no longer than this, milliseconds. */
const LONGEST = 100

/** Calls `act` behind the frame that shows what was just changed: what it sets going beside the page does not hold that up. Gives what calls it off. */
export function whenShown(act: () => void): () => void {
  let frame = 0
  let turn: ReturnType<typeof setTimeout> | undefined
  const off = (): void => { cancelAnimationFrame(frame); clearTimeout(turn); clearTimeout(late) }
  const once = (): void => { off(); act() }
  const late = setTimeout(once, LONGEST)
  frame = requestAnimationFrame(() => { turn = setTimeout(once) })
  return off
}
