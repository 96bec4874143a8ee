// Files that come in: streamed beside the store, told by their first bytes, and only then part of it.
import type { Readable } from 'node:stream'
import { BadInput } from '../../core/formats/errors'
import { isCube } from '../../core/formats/cube/cube'
import { fontFormat } from '../../core/formats/font/font'
import { isGltf } from '../../core/formats/gltf/gltf'
import { isTrack } from '../../core/track/track'
import { pictureFormat, type PictureFormat } from '../../core/formats/picture/picture'
import { videoContainer } from '../../core/formats/video/video'
import { headOf, MAXIMUM_BLOB } from '../../host/blobs'
import { context } from './context'

export type UploadKind = PictureFormat | 'gltf' | 'video' | 'track' | 'cube' | 'font'
/** Enough for every signature and for the head of a glTF's JSON, however its fields are ordered. */
const HEAD = 1 << 24

/** Throws BadInput with `refusal` when the content is none of the kinds that are taken. */
export async function takeUpload(
  stream: Readable,
  kinds: (kind: UploadKind) => boolean,
  refusal: string,
  most = MAXIMUM_BLOB,
): Promise<{ blob: string; bytes: number; kind: UploadKind }> {
  const { store } = await context()
  let kind: UploadKind | undefined
  const { blob, bytes } = await store.putStream(stream, most, async path => {
    kind = kindOf(await headOf(path, HEAD))
    if (!kind || !kinds(kind)) throw new BadInput(refusal)
  })
  return { blob, bytes, kind: kind! }
}

function kindOf(head: Uint8Array): UploadKind | undefined {
  const picture = pictureFormat(head)
  if (picture) return picture
  if (videoContainer(head)) return 'video'
  if (fontFormat(head)) return 'font'
  if (isTrack(head)) return 'track'
  if (isCube(head)) return 'cube'
  return isGltf(head) ? 'gltf' : undefined
}
