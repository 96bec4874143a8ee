import { cancelJob } from '../../../services/jobs'
import { idOf, route } from '../../../utils/route'

export default route(event => cancelJob(idOf(event)))
