// Which video container a file is, by its first bytes. Decoding is ffmpeg's, on the server (host/media.ts).
export type VideoContainer = 'mov' | 'matroska' | 'avi'

const text = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))

/**
 * ISO/IEC 14496-12 (and QuickTime, whose old files begin with other boxes), Matroska/WebM (RFC 8794 EBML), AVI (RIFF).
 */
export function videoContainer(bytes: Uint8Array): VideoContainer | undefined {
  if (bytes.length < 12) return undefined
  if (['ftyp', 'moov', 'wide', 'mdat', 'free', 'skip', 'pnot'].includes(text(bytes, 4))) return 'mov'
  if (bytes[0] === 0x1a && bytes[1] === 0x45 && bytes[2] === 0xdf && bytes[3] === 0xa3) return 'matroska'
  if (text(bytes, 0) === 'RIFF' && text(bytes, 8) === 'AVI ') return 'avi'
  return undefined
}
