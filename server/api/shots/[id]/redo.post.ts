import { StepShot } from '../../../../shared/requests'
import { stepShot } from '../../../services/shots'
import { bodyOf, idOf, route } from '../../../utils/route'

export default route(async event => {
  const { row, label } = await stepShot(idOf(event), (await bodyOf(event, StepShot)).revision, 'redo')
  return { revision: row.revision, cursor: row.cursor, document: row.document, label }
})
