import { getLook } from '../../services/looks'
import { idOf, route } from '../../utils/route'

export default route(event => getLook(idOf(event)))
