// A picture as kernels see it: its pixels from left, top up to right, bottom (RASTER_BYTES in kernels/record.ts).
@final @unmanaged
export class Raster {
  pointer: usize
  left: i32
  top: i32
  right: i32
  bottom: i32
  /** Pixels from a row to the next. */
  stride: i32

  /** Whether there is one at all. */
  @inline
  get there(): bool {
    return this.pointer != 0
  }

  /** Address of a pixel of four f32. */
  @inline
  colour(x: i32, y: i32): usize {
    return this.pointer + ((<usize>((y - this.top) * this.stride + (x - this.left))) << 4)
  }

  /** Address of a pixel of one f32. */
  @inline
  single(x: i32, y: i32): usize {
    return this.pointer + ((<usize>((y - this.top) * this.stride + (x - this.left))) << 2)
  }
}
