import { setHeader } from 'h3'
import { context } from '../../../services/context'
import { filesOfJob } from '../../../services/jobs'
import { zipOf } from '../../../services/zip'
import { idOf, route } from '../../../utils/route'
import { asFile, streamed } from '../../../utils/stream'

/** The numbered files that a job made, as one ZIP. */
export default route(async event => {
  const { store } = await context()
  const { name, files } = await filesOfJob(idOf(event))
  const stream = await zipOf(
    store,
    files.map(({ name, blob }) => ({ name, content: { blob } })),
  )
  setHeader(event, 'content-type', 'application/zip')
  setHeader(event, 'content-disposition', asFile(name))
  return streamed(event, stream)
})
