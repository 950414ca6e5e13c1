import { answer, idOf } from '../../../utils/request'

/** The runs that are kept of a project, the newest first, and how much room all runs take and may take. */
export default answer((event, { runs }) => runs.list(idOf(event)))
