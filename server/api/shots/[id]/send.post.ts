import { StartSend } from '../../../../shared/requests'
import { startJob } from '../../../services/jobs'
import { bodyOf, idOf, route } from '../../../utils/route'

export default route(async event => {
  const { frame, format } = await bodyOf(event, StartSend)
  return startJob(idOf(event), 'send', { frame, format })
})
