import { setHeader } from 'h3'
import { NotFound } from '../../../services/shots'
import { previewOf } from '../../../services/jobs'
import { idOf, route } from '../../../utils/route'

export default route(async event => {
  const preview = previewOf(idOf(event))
  if (!preview) throw new NotFound('There is no picture of this job yet.')
  setHeader(event, 'content-type', 'image/png')
  setHeader(event, 'cache-control', 'no-store')
  return Buffer.from(preview)
})
