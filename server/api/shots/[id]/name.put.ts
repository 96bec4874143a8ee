import { RenameShot } from '../../../../shared/requests'
import { updateShot } from '../../../services/shots'
import { bodyOf, idOf, route } from '../../../utils/route'

export default route(async event => {
  await updateShot(idOf(event), { name: (await bodyOf(event, RenameShot)).name })
  return { ok: true }
})
