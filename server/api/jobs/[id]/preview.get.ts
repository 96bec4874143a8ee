import { setHeader, setResponseStatus } from 'h3'
import { previewOf } from '../../../services/jobs'
import { idOf, route } from '../../../utils/route'

export default route(async event => {
  const preview = previewOf(idOf(event))
  // None yet: nothing is wrong
  if (!preview) {
    setResponseStatus(event, 204)
    return null
  }
  setHeader(event, 'content-type', 'image/png')
  setHeader(event, 'cache-control', 'no-store')
  return Buffer.from(preview)
})
