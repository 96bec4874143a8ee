import { StartRender } from '../../../../shared/requests'
import { startJob } from '../../../services/jobs'
import { bodyOf, idOf, route } from '../../../utils/route'

export default route(async event => {
  const { frame, last, all } = await bodyOf(event, StartRender)
  return startJob(idOf(event), 'render', { frame, ...(last === undefined ? {} : { last }), ...(all ? { all } : {}) })
})
