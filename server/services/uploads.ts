// Files that come in: streamed to the store, told by their first bytes, taken out again when they are nothing that
// belongs there.
import type { Readable } from 'node:stream'
import { BadInput } from '../../core/formats/errors'
import { isCube } from '../../core/formats/cube/cube'
import { isGltf } from '../../core/formats/gltf/gltf'
import { isTrack } from '../../core/track/track'
import { pictureFormat, type PictureFormat } from '../../core/formats/picture/picture'
import { videoContainer } from '../../core/formats/video/video'
import { MAXIMUM_BLOB } from '../../host/blobs'
import { context } from './context'

export type UploadKind = PictureFormat | 'gltf' | 'video' | 'track' | 'cube'
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
  const { blob, bytes, fresh } = await store.putStream(stream, most)
  const head = await store.head(blob, HEAD)
  const kind =
    pictureFormat(head) ??
    (videoContainer(head)
      ? 'video'
      : isTrack(head)
        ? 'track'
        : isCube(head)
          ? 'cube'
          : isGltf(head)
            ? 'gltf'
            : undefined)
  if (kind && kinds(kind)) return { blob, bytes, kind }
  if (fresh) await store.remove(blob)
  throw new BadInput(refusal)
}
