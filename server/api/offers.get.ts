import type { Store } from '../utils/store'
import type { Shelved } from '../database/shelf'
import { answer } from '../utils/request'

/** What a new project may begin with: what is kept, and the robots, arenas and tasks of the projects that there are. */
export default answer(async (_event, store) => ({ robots: await offered(store, 'robot'), arenas: await offered(store, 'arena'), tasks: await store.projects.used('task') }))

/** Those of projects first, then what is kept and none of them has. */
async function offered({ projects, shelf }: Store, kind: Shelved) {
  const used = await projects.used(kind)
  const kept = (await shelf.list(kind)).filter(k => !used.some(u => u.document === k.document)).map(({ document, value }) => {
    const { name, about } = value as { name?: unknown, about?: unknown }
    return { document, name: String(name), about: typeof about === 'string' ? about : '', project: null, arena: null }
  })
  return [...used, ...kept]
}
