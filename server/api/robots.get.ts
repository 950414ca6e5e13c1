import { useStore } from '../utils/store'

/** The robots of all projects, each once: what another project may take. */
export default defineEventHandler(async () => {
  const seen = new Set<string>()
  const robots: { project: string, robot: unknown }[] = []
  for (const { title, robot } of await (await useStore()).projects.list()) {
    const body = JSON.stringify(robot)
    if (seen.has(body)) continue
    seen.add(body)
    robots.push({ project: title, robot })
  }
  return robots
})
