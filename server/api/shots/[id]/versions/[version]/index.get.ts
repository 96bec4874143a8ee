import { getVersion } from '../../../../../services/ledger'
import { idOf, route } from '../../../../../utils/route'

export default route(event => getVersion(idOf(event), idOf(event, 'version')))
