import type { LinkState } from '~/run/protocol'

/** How a wire stands, in words, with the sign that goes before them. */
export interface WireSays { readonly sign: string, readonly words: string, readonly state: 'good' | 'waits' | 'bad' | 'none' }

const ms = (x: number): string => `${x < 10 ? x.toFixed(1) : Math.round(x)} ms`

/** How long the board takes to answer, for people; '' while that is not known. */
export const roundTripSays = (link: LinkState | null): string => link?.roundTrip == null ? '' : ms(link.roundTrip.median)

export function wireSays(stage: 'none' | 'opening' | 'open', link: LinkState | null, why: string | null): WireSays {
  if (stage === 'none') return why === null ? { sign: '○', words: 'not connected', state: 'none' } : { sign: '✕', words: why, state: 'bad' }
  if (stage === 'opening') return { sign: '…', words: 'opening', state: 'waits' }
  if (link === null || link.stage === 'asking') return { sign: '…', words: 'asking who is there', state: 'waits' }
  if (link.stage === 'lost') return { sign: '✕', words: link.why ?? '', state: 'bad' }
  if (link.stage === 'looking') return { sign: '…', words: `${link.board}: waiting for ${link.waiting.join(', ')}`, state: 'waits' }
  const more = [
    ...link.roundTrip === null ? [] : [`answers in ${ms(link.roundTrip.median)}, at the longest ${ms(link.roundTrip.longest)}`],
    ...link.late === 0 ? [] : [`${link.late} ticks came late`], ...link.restarts === 0 ? [] : [`it began anew ${link.restarts} times`],
  ]
  return { sign: '●', words: `${link.board} ${more.join('; ')}`, state: 'good' }
}
