import { getQuery, sendStream, setHeader } from 'h3'
import { NotFound } from '../../services/shots'
import { context } from '../../services/context'
import { idOf, route } from '../../utils/route'

/** The bytes of a stored file; with ?name= as a download of that name. */
export default route(async event => {
  const { store } = await context()
  const blob = idOf(event, 'sha')
  if (!store.has(blob)) throw new NotFound('There is no such file.')
  const { name } = getQuery(event)
  setHeader(event, 'content-type', 'application/octet-stream')
  setHeader(event, 'x-content-type-options', 'nosniff')
  setHeader(event, 'cache-control', 'private, max-age=31536000, immutable')
  setHeader(event, 'content-length', await store.size(blob))
  if (typeof name === 'string')
    setHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name.slice(0, 200))}`)
  return sendStream(event, store.stream(blob))
})
