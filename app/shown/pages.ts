/** The pages of docs/ that the interface shows: each fetched when somebody asks for it. */
const PAGES = {
  checker: async () => (await import('~~/docs/checker.md?raw')).default,
  devices: async () => (await import('~~/docs/devices.md?raw')).default,
} as const
export type PageName = keyof typeof PAGES

/** The section of a page whose heading has this word in it, exactly as code or in any case, without its heading; null when there is none. */
export function sectionOf(markdown: string, word: string): string | null {
  const sections = markdown.split(/^## /m).slice(1).map((s) => { const end = s.indexOf('\n'); return { heading: s.slice(0, end).trim(), text: s.slice(end + 1).trim() } })
  const found = sections.find(s => s.heading === word) ?? sections.find(s => s.heading.includes(`\`${word}\``)) ?? sections.find(s => new RegExp(`\\b${word}\\b`, 'i').test(s.heading))
  return found?.text ?? null
}

/** A section of a page, as HTML of our own making. */
export async function pageOf(name: PageName, word: string): Promise<string> {
  const [{ marked }, text] = await Promise.all([import('marked'), PAGES[name]()])
  const section = sectionOf(text, word)
  if (section === null) return '<p>There is no page of this yet.</p>'
  // What a program of the page is, right or wrong, stands in the word behind its fence.
  return marked.parse(section.replaceAll(/^```mindpath wrong.*$/gm, '**✕ wrong**\n```').replaceAll(/^```mindpath right.*$/gm, '**● mended**\n```'), { async: false })
}
