/** Of red, green and blue, nanometres: about the middles of sRGB's primaries, from memory. */
export const WAVELENGTHS = [610, 550, 465] as const
