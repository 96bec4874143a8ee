import { listJobs } from '../../../services/jobs'
import { idOf, route } from '../../../utils/route'

export default route(event => listJobs(idOf(event)))
