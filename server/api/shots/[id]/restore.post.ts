import { updateShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'

export default route(async event => {
  await updateShot(idOf(event), { deletedAt: null })
  return { ok: true }
})
