import { setHeader } from 'h3'
import { answer, idOf, notFound } from '../../../utils/request'

/** A kept run's file. */
export default answer(async (event, { runs }) => {
  const file = await runs.file(idOf(event))
  if (file === null) throw notFound('run')
  setHeader(event, 'content-type', 'application/octet-stream')
  // What was kept never changes.
  setHeader(event, 'cache-control', 'private, max-age=86400, immutable')
  return file
})
