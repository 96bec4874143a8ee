import { formerShot } from '../../../services/shots'
import { idOf, route } from '../../../utils/route'

export default route(event => formerShot(idOf(event)))
