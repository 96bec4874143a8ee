import { StartSend } from '../../../../shared/requests'
import { startJob } from '../../../services/jobs'
import { bodyOf, idOf, route } from '../../../utils/route'

export default route(async event => {
  return startJob(idOf(event), 'send', { ...(await bodyOf(event, StartSend)) })
})
