import { useStore } from '../../utils/store'

/** The kept robots, and those of all projects, each once: what a project may take. */
export default defineEventHandler(async () => {
  const { projects, robots } = await useStore()
  const kept = await robots.list()
  const seen = new Set(kept.map(k => JSON.stringify(k.robot)))
  const used: { project: string, robot: unknown }[] = []
  for (const { title, robot } of await projects.list()) {
    const body = JSON.stringify(robot)
    if (seen.has(body)) continue
    seen.add(body)
    used.push({ project: title, robot })
  }
  return { kept, used }
})
