import { MirroredArguments } from '../../build/arguments'
import { mirrored } from '../mirror'
import { Raster } from '../raster'


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
