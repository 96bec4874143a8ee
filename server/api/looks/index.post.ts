import { KeepLook } from '../../../shared/requests'
import { keepLook } from '../../services/looks'
import { bodyOf, route } from '../../utils/route'

export default route(async event => {
  const { look, picture } = await bodyOf(event, KeepLook)
  return keepLook(look, picture)
})
