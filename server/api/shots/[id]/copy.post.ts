import { copyShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'

export default route(event => copyShot(idOf(event)))
