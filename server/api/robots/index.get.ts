import { answer } from '../../utils/request'

/** The kept robots, and those of all projects by their documents' ids, each once: what a project may take. */
export default answer(async (_event, { projects, robots }) => ({ kept: await robots.list(), used: await projects.used('robot') }))
