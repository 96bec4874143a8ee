import { context } from '../../../services/context'
import { updateShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'
import { BadInput } from '../../../../core/formats/errors'
import { pictureFormat } from '../../../../core/formats/picture/picture'

export default route(async event => {
  const { store } = await context()
  const { blob } = await store.putStream(event.node.req, 2 * 1048576)
  const format = pictureFormat(await store.get(blob))
  if (format !== 'jpeg' && format !== 'png') throw new BadInput('A shot is pictured by a JPEG or PNG.')
  await updateShot(idOf(event), { thumbnail: blob })
  return { thumbnail: blob }
})
