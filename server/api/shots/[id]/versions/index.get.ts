import { listVersions } from '../../../../services/ledger'
import { idOf, route } from '../../../../utils/route'

export default route(event => listVersions(idOf(event)))
