import { sendStream, setHeader } from 'h3'
import { bundleOf } from '../../../services/bundle'
import { getShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'

export default route(async event => {
  const { name, document } = await getShot(idOf(event))
  const stream = await bundleOf(name, document)
  setHeader(event, 'content-type', 'application/zip')
  setHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(`${name}.zip`)}`)
  return sendStream(event, stream)
})
