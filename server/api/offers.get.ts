import { answer } from '../utils/request'

/** What a new project may begin with: kept robots, and the robots, arenas and tasks of the projects that there are. */
export default answer(async (_event, { projects, robots }) => {
  const used = await projects.used('robot')
  const kept = (await robots.list()).filter(k => !used.some(u => u.document === k.document)).map(({ document, robot }) => {
    const { name, about } = robot as { name?: unknown, about?: unknown }
    return { document, name: String(name), about: typeof about === 'string' ? about : '', project: null, arena: null }
  })
  return { robots: [...used, ...kept], arenas: await projects.used('arena'), tasks: await projects.used('task') }
})
