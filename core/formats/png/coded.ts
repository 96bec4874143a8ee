/** Codes of a picture as they stand in the file: `channels` a pixel, 0..maximum, rows from the top. */
export interface CodedPicture {
  width: number
  height: number
  channels: 1 | 2 | 3 | 4
  maximum: number
  data: Uint8Array | Uint16Array | Float32Array
  /** What the file says of its alpha, where it does. */
  alphaSaid?: 'straight' | 'premultiplied'
}
