import { answer } from '../../utils/request'

/** What the first page shows of each project: no program, and no document but by its id. */
export default answer((_event, { projects }) => projects.list())
