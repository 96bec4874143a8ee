import { getHeader, getQuery, getRouterParam, setHeader, setResponseStatus, type H3Event } from 'h3'
import { clipFrame, parseClipFrame } from '../../../core/shot/clip'
import { NotFound } from '../../services/shots'
import { context } from '../../services/context'
import { idOf, route } from '../../utils/route'
import { asFile, streamed } from '../../utils/stream'

/**
 * The bytes of a stored file, or one range of them (RFC 9110, 14); with ?name= as a download of that name. Or a clip's
 * frame.
 */
export default route(async event => {
  const { store } = await context()
  const frame = parseClipFrame(getRouterParam(event, 'sha') ?? '')
  if (frame) return frameOf(event, frame)
  const blob = idOf(event, 'sha')
  if (!store.has(blob)) throw new NotFound('There is no such file.')
  const { name } = getQuery(event)
  const size = await store.size(blob)
  setHeader(event, 'content-type', 'application/octet-stream')
  setHeader(event, 'x-content-type-options', 'nosniff')
  setHeader(event, 'cache-control', 'private, max-age=31536000, immutable')
  setHeader(event, 'accept-ranges', 'bytes')
  setHeader(event, 'etag', `"${blob}"`)
  if (typeof name === 'string') setHeader(event, 'content-disposition', asFile(name))
  const asked =
    getHeader(event, 'if-range') && getHeader(event, 'if-range') !== `"${blob}"` ? undefined : getHeader(event, 'range')
  const range = asked === undefined ? undefined : rangeOf(asked, size)
  if (range === 'none') {
    setResponseStatus(event, 416)
    setHeader(event, 'content-range', `bytes */${size}`)
    return null
  }
  if (range) {
    setResponseStatus(event, 206)
    setHeader(event, 'content-range', `bytes ${range.start}-${range.end}/${size}`)
    setHeader(event, 'content-length', range.end - range.start + 1)
  } else setHeader(event, 'content-length', size)
  return streamed(event, store.stream(blob, range))
})

async function frameOf(
  event: H3Event,
  { clip, at, small }: { clip: string; at: number; small: boolean },
): Promise<Buffer> {
  const { store } = await context()
  if (!store.has(clip)) throw new NotFound('There is no such file.')
  const bytes = await store.get(clipFrame(clip, at, small))
  setHeader(event, 'content-type', 'application/octet-stream')
  setHeader(event, 'x-content-type-options', 'nosniff')
  // A small picture may still be to come; the frame stands in for it until then
  setHeader(event, 'cache-control', small ? 'private, no-cache' : 'private, max-age=31536000, immutable')
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
}

/** One range of bytes; undefined for what is no single range (all is sent then), none where there are no such bytes. */
function rangeOf(header: string, size: number): { start: number; end: number } | 'none' | undefined {
  const found = /^bytes=(\d{0,15})-(\d{0,15})$/.exec(header.trim())
  if (!found || (found[1] === '' && found[2] === '')) return undefined
  const [first, last] = [found[1], found[2]]
  const start = first === '' ? Math.max(0, size - Number(last)) : Number(first)
  const end = first === '' || last === '' ? size - 1 : Math.min(size - 1, Number(last))
  return start > end
    ? first !== '' && last !== '' && Number(last) < Number(first)
      ? undefined
      : 'none'
    : { start, end }
}
