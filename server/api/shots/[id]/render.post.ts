import { StartRender } from '../../../../shared/requests'
import { startJob } from '../../../services/jobs'
import { bodyOf, idOf, route } from '../../../utils/route'

export default route(async event => startJob(idOf(event), 'render', { frame: (await bodyOf(event, StartRender)).frame }))
