import { answer, kindOf } from '../../../utils/request'

/** What is kept of a kind, and what all projects have of it by their documents' ids, each once: what a project may take. */
export default answer(async (event, { projects, shelf }) => {
  const kind = kindOf(event)
  return { kept: await shelf.list(kind), used: await projects.used(kind) }
})
