import { getJob } from '../../../services/jobs'
import { idOf, route } from '../../../utils/route'

export default route(event => getJob(idOf(event)))
