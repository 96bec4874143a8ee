import { BadInput } from '../../../../core/formats/errors'
import { StartImport } from '../../../../shared/requests'
import { context } from '../../../services/context'
import { startJob } from '../../../services/jobs'
import { bodyOf, idOf, route } from '../../../utils/route'

/** Starts a job that makes a clip of files in the store and puts it into the shot. */
export default route(async event => {
  const { store } = await context()
  const settings = await bodyOf(event, StartImport)
  for (const { blob, name } of settings.files)
    if (!store.has(blob)) throw new BadInput(`“${name}” is not in the store; send it first.`)
  return startJob(idOf(event), 'import', { ...settings })
})
