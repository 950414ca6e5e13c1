import { notFound, answer } from '../../utils/request'

/** A kept document by its fingerprint: it can never change, so a browser asks for it once. */
export default answer(async (event, { documents }) => {
  const id = event.context.params?.['id'] ?? ''
  if (!/^[0-9a-f]{64}$/.test(id)) throw notFound('document')
  const value = await documents(id)
  event.node.res.setHeader('cache-control', 'private, max-age=31536000, immutable')
  return { document: value }
})
