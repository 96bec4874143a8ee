import { listJobs } from '../../services/jobs'
import { route } from '../../utils/route'

export default route(() => listJobs())
