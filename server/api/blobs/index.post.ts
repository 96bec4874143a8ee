import { BadInput } from '../../../core/formats/errors'
import { isGltf } from '../../../core/formats/gltf/gltf'
import { pictureFormat } from '../../../core/formats/picture/picture'
import { context } from '../../services/context'
import { blobs } from '../../database/schema'
import { route } from '../../utils/route'

/** Streams a file into the store. Its kind is told by its content; what is neither picture nor scene is refused. */
export default route(async event => {
  const { store, database } = await context()
  const { blob, bytes } = await store.putStream(event.node.req)
  const data = await store.get(blob)
  const kind = pictureFormat(data) ?? (isGltf(data) ? 'gltf' : undefined)
  if (!kind) throw new BadInput('This file is neither a picture (PNG, JPEG, TIFF, Radiance HDR, OpenEXR) nor a glTF scene.')
  await database.insert(blobs).values({ sha256: blob, bytes, kind }).onConflictDoNothing()
  return { blob, bytes, kind }
})
