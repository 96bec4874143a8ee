import { setHeader } from 'h3'
import { bundleOf } from '../../../services/bundle'
import { getShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'
import { asFile, streamed } from '../../../utils/stream'

export default route(async event => {
  const { name, document } = await getShot(idOf(event))
  const stream = await bundleOf(name, document)
  setHeader(event, 'content-type', 'application/zip')
  setHeader(event, 'content-disposition', asFile(`${name}.zip`))
  return streamed(event, stream)
})
