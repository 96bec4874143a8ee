// Pixels of a block: row by row with one channel after another in each row (as they stand uncompressed), or channel by
// channel (as most codecs want them).

export type ExrType = 'uint' | 'half' | 'float'
export const BYTES: Record<ExrType, number> = { uint: 4, half: 2, float: 4 }

/** A channel's part of a block: so many values a line on so many lines; lines of the block that it has. */
export interface BlockChannel {
  name: string
  type: ExrType
  linear: boolean
  across: number
  down: number
  has(line: number): boolean
}
export const blockBytes = (channels: readonly BlockChannel[]): number =>
  channels.reduce((sum, { type, across, down }) => sum + BYTES[type] * across * down, 0)

/**
 * Calls for each line of each channel in the order of the block: where it stands row by row, and channel by channel.
 */
function walk(
  channels: readonly BlockChannel[],
  rows: number,
  visit: (inRows: number, inPlanes: number, bytes: number) => void,
): void {
  const starts: number[] = []
  let at = 0
  for (const { type, across, down } of channels) {
    starts.push(at)
    at += BYTES[type] * across * down
  }
  let from = 0
  for (let line = 0; line < rows; line++) {
    channels.forEach((channel, c) => {
      if (!channel.has(line)) return
      const bytes = BYTES[channel.type] * channel.across
      visit(from, starts[c]!, bytes)
      starts[c]! += bytes
      from += bytes
    })
  }
}

export function planesToRows(planes: Uint8Array, channels: readonly BlockChannel[], rows: number): Uint8Array {
  const out = new Uint8Array(planes.length)
  walk(channels, rows, (inRows, inPlanes, bytes) => out.set(planes.subarray(inPlanes, inPlanes + bytes), inRows))
  return out
}
export function rowsToPlanes(raw: Uint8Array, channels: readonly BlockChannel[], rows: number): Uint8Array {
  const out = new Uint8Array(raw.length)
  walk(channels, rows, (inRows, inPlanes, bytes) => out.set(raw.subarray(inRows, inRows + bytes), inPlanes))
  return out
}
