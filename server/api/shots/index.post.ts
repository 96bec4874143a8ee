import { CreateShot } from '../../../shared/requests'
import { createShot } from '../../services/shots'
import { bodyOf, route } from '../../utils/route'

export default route(async event => {
  const { name, document } = await bodyOf(event, CreateShot)
  return createShot({ name, document })
})
