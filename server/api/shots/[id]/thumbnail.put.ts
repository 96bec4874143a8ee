import { updateShot } from '../../../services/shots'
import { takeUpload } from '../../../services/uploads'
import { idOf, route } from '../../../utils/route'

export default route(async event => {
  const { blob } = await takeUpload(
    event.node.req,
    kind => kind === 'jpeg' || kind === 'png',
    'A shot is pictured by a JPEG or PNG.',
    2 * 1048576,
  )
  await updateShot(idOf(event), { thumbnail: blob })
  return { thumbnail: blob }
})
