import { deleteLook } from '../../services/looks'
import { idOf, route } from '../../utils/route'

export default route(async event => {
  await deleteLook(idOf(event))
  return { ok: true }
})
