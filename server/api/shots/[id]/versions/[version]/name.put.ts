import { RenameShot } from '../../../../../../shared/requests'
import { renameVersion } from '../../../../../services/ledger'
import { bodyOf, idOf, route } from '../../../../../utils/route'

export default route(async event => {
  await renameVersion(idOf(event), idOf(event, 'version'), (await bodyOf(event, RenameShot)).name)
  return { ok: true }
})
