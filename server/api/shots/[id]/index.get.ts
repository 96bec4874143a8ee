import { getShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'

export default route(event => getShot(idOf(event)))
