// Streams as answers, that end with their request.
import { sendStream, type H3Event } from 'h3'
import type { Readable } from 'node:stream'

/** Sends a stream; a reader that goes away closes it, and with it the file that it reads. */
export function streamed(event: H3Event, stream: Readable): Promise<void> {
  event.node.res.once('close', () => stream.destroy())
  return sendStream(event, stream)
}

/** A header that has the answer kept as a file of that name. */
export function asFile(name: string): string {
  // By characters: half of one cannot be encoded
  const whole = [...name.toWellFormed()].slice(0, 200).join('')
  return `attachment; filename*=UTF-8''${encodeURIComponent(whole).replaceAll("'", '%27')}`
}
