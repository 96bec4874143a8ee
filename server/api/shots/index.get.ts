import { route } from '../../utils/route'
import { listShots } from '../../services/shots'

export default route(() => listShots())
