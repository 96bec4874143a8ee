import { updateShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'

/** Marked as deleted, not destroyed: restore brings it back. */
export default route(async event => {
  await updateShot(idOf(event), { deletedAt: new Date() })
  return { ok: true }
})
