import { forgetShot } from '../../services/room'
import { idOf, route } from '../../utils/route'

/** For good: what was only marked as deleted goes, and the room that only it took. */
export default route(event => forgetShot(idOf(event)))
