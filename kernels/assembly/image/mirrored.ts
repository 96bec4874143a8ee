import { MirroredArguments } from '../../build/arguments'
import { Raster } from '../raster'

/** Where a place beyond the edge is seen as in a mirror, however far out. */
@inline
function mirrored(at: i32, low: i32, high: i32): i32 {
  const span = high - low
  let place = (at - low) % (span * 2)
  if (place < 0) place += span * 2
  return low + (place < span ? place : span * 2 - 1 - place)
}


@inline
function addressOf(picture: Raster, x: i32, y: i32, shift: usize): usize {
  return picture.pointer + ((<usize>((y - picture.top) * picture.stride + (x - picture.left))) << shift)
}

/** A row of a picture that goes on as in a mirror; shift: binary logarithm of the bytes of a pixel. */
export function mirrorRow(source: Raster, out: Raster, x0: i32, x1: i32, y: i32, shift: usize): void {
  const row = mirrored(y, source.top, source.bottom)
  const first = max(x0, min(x1, source.left))
  const last = min(x1, max(x0, source.right))
  const bytes = (<usize>1) << shift
  if (first < last)
    memory.copy(addressOf(out, first, y, shift), addressOf(source, first, row, shift), (<usize>(last - first)) << shift)
  for (let x = x0; x < x1; x++) {
    if (x == first && first < last) {
      x = last - 1
      continue
    }
    const from = addressOf(source, mirrored(x, source.left, source.right), row, shift)
    memory.copy(addressOf(out, x, y, shift), from, bytes)
  }
}


@final @unmanaged
export class Mirrored extends MirroredArguments {
  row(x0: i32, x1: i32, y: i32): void {
    mirrorRow(this.source, this.out, x0, x1, y, 4)
  }
}
