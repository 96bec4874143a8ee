// Streams as answers, that end with their request.
import { once } from 'node:events'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { H3Event } from 'h3'

/**
 * Sends a stream; a reader that goes away closes it, and with it the file that it reads. Not by h3's sendStream: that
 * answers nothing where the answer before still has the connection. What fails before the first byte throws.
 */
export async function streamed(event: H3Event, stream: Readable): Promise<void> {
  const { res } = event.node
  const gone = (): unknown => stream.destroy()
  res.once('close', gone)
  await Promise.race([once(stream, 'readable'), once(stream, 'close')])
  res.off('close', gone)
  try {
    await pipeline(stream, res)
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error
  }
}

/** A header that has the answer kept as a file of that name. */
export function asFile(name: string): string {
  // By characters: half of one cannot be encoded
  const whole = [...name.toWellFormed()].slice(0, 200).join('')
  return `attachment; filename*=UTF-8''${encodeURIComponent(whole).replaceAll("'", '%27')}`
}
