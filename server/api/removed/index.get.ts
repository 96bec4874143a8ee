import { removedShots } from '../../services/room'
import { route } from '../../utils/route'

export default route(() => removedShots())
