import { useStore } from '../../utils/store'

/** What the first page shows of each project: no program, and of the robot its name alone. */
export default defineEventHandler(async () => {
  const all = await (await useStore()).projects.list()
  return all.map(({ id, title, changedAt, revision, arena, robot }) => ({ id, title, changedAt, revision, arena, robot: nameOf(robot) }))
})

function nameOf(document: unknown): string {
  const name = typeof document === 'object' && document !== null && 'name' in document ? document.name : null
  return typeof name === 'string' ? name : '?'
}
