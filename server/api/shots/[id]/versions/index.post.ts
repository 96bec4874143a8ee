import { RenameShot } from '../../../../../shared/requests'
import { keepVersion } from '../../../../services/ledger'
import { bodyOf, idOf, route } from '../../../../utils/route'

export default route(async event => keepVersion(idOf(event), (await bodyOf(event, RenameShot)).name, 'kept'))
