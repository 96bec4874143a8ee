import { listLooks } from '../../services/looks'
import { route } from '../../utils/route'

export default route(() => listLooks())
