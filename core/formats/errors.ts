/** Something read from outside is not as it must be. The message says what is wrong and, where known, what to do. */
export class BadInput extends Error {
  override name = 'BadInput'
}

/** Largest picture side and pixel count that is read or made (2^28 floats are 1 GiB). */
export const MAXIMUM_SIDE = 32768
export const MAXIMUM_PIXELS = 1 << 26

/** Refuses sizes that cannot be meant, before memory is taken for them. */
export function checkSize(what: string, width: number, height: number): void {
  if (!Number.isInteger(width) || !Number.isInteger(height) || width < 1 || height < 1)
    throw new BadInput(`${what} says it is ${width} x ${height} pixels, which is no picture.`)
  if (width > MAXIMUM_SIDE || height > MAXIMUM_SIDE || width * height > MAXIMUM_PIXELS)
    throw new BadInput(
      `${what} says it is ${width} x ${height} pixels; at most ${MAXIMUM_SIDE} a side and ${(MAXIMUM_PIXELS / 1e6) | 0} million pixels are read.`,
    )
}
