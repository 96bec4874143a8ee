import type { Operation } from 'fast-json-patch'
import { ChangeShot } from '../../../../shared/requests'
import { changeShot } from '../../../services/shots'
import { bodyOf, idOf, route } from '../../../utils/route'

export default route(async event => {
  const { revision, label, patch, version } = await bodyOf(event, ChangeShot)
  const row = await changeShot(idOf(event), revision, label, patch as Operation[], version ?? 1)
  return { revision: row.revision, cursor: row.cursor }
})
