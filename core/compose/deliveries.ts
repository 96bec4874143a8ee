// What finished pictures leave as: kinds of files and how they end.

export type DeliveryFormat = 'png8' | 'png16' | 'png16a' | 'tiff8' | 'tiff16' | 'tiff32' | 'jpeg' | 'exr16' | 'exr32'
/** All passes in one part, which any reader takes, or each layer as a part of its own. */
export type PassFormat = 'passes' | 'passes_parts'
export const DELIVERY_ENDINGS: Record<DeliveryFormat | PassFormat, string> = {
  png8: 'png',
  png16: 'png',
  png16a: 'png',
  tiff8: 'tif',
  tiff16: 'tif',
  tiff32: 'tif',
  jpeg: 'jpg',
  exr16: 'exr',
  exr32: 'exr',
  passes: 'exr',
  passes_parts: 'exr',
}

/** A movie for review or for other work, of frames that are delivered as PNG of 16 bit (with alpha where it is kept). */
export type MovieFormat = 'h264' | 'hevc10' | 'prores4444' | 'ffv1'
export const MOVIE_FORMATS: readonly MovieFormat[] = ['h264', 'hevc10', 'prores4444', 'ffv1']
export const isMovie = (format: string): format is MovieFormat => (MOVIE_FORMATS as readonly string[]).includes(format)
export const MOVIE_ENDINGS: Record<MovieFormat, string> = { h264: 'mp4', hevc10: 'mp4', prores4444: 'mov', ffv1: 'mkv' }
/** What frames of a movie are delivered as. */
export const frameFormatOf = (format: MovieFormat): DeliveryFormat => (format === 'prores4444' ? 'png16a' : 'png16')
