import { context } from '../../services/context'
import { takeUpload } from '../../services/uploads'
import { blobs } from '../../database/schema'
import { route } from '../../utils/route'

/** Streams a file into the store. Its kind is told by its content; what is neither picture nor scene is refused. */
export default route(async event => {
  const { database } = await context()
  const { blob, bytes, kind } = await takeUpload(
    event.node.req,
    () => true,
    'This file is no picture (PNG, JPEG, TIFF, Radiance HDR, OpenEXR), no video (MOV, MP4, WebM, MKV, AVI) no glTF scene, no camera track (JSON or CSV), no font (TTF, OTF, WOFF, WOFF2) and no .cube table.',
  )
  await database.insert(blobs).values({ sha256: blob, bytes, kind }).onConflictDoNothing()
  return { blob, bytes, kind }
})
