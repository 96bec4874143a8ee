import { getRouterParam } from 'h3'
import { StepShot } from '../../../../../shared/requests'
import { NotFound, stepShot } from '../../../../services/shots'
import { bodyOf, idOf, route } from '../../../../utils/route'

/** One step back (undo) or forth (redo). */
export default route(async event => {
  const direction = getRouterParam(event, 'direction')
  if (direction !== 'undo' && direction !== 'redo') throw new NotFound('There are two directions: undo and redo.')
  const { row, label } = await stepShot(idOf(event), (await bodyOf(event, StepShot)).revision, direction)
  return { revision: row.revision, cursor: row.cursor, document: row.document, label }
})
