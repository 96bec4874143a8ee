import { SlopesArguments } from '../../build/arguments'
import { Raster } from '../raster'

/** Lightness as the eye has it, about: light over itself and middle grey. */
@inline
function lightAt(source: Raster, x: i32, y: i32): f32 {
  const at = source.colour(x, y)
  const light = max<f32>(
    0,
    <f32>0.2126 * load<f32>(at) + <f32>0.7152 * load<f32>(at, 4) + <f32>0.0722 * load<f32>(at, 8),
  )
  return light / (light + <f32>0.18)
}


@final
@unmanaged
export class Slopes extends SlopesArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const source = this.source
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, to += 16) {
      const a = lightAt(source, x - 1, y - 1)
      const b = lightAt(source, x, y - 1)
      const c = lightAt(source, x + 1, y - 1)
      const d = lightAt(source, x - 1, y)
      const f = lightAt(source, x + 1, y)
      const g = lightAt(source, x - 1, y + 1)
      const h = lightAt(source, x, y + 1)
      const i = lightAt(source, x + 1, y + 1)
      // Sobel
      const across = (c + f + f + i - (a + d + d + g)) / 4
      const down = (g + h + h + i - (a + b + b + c)) / 4
      store<f32>(to, across * across)
      store<f32>(to, across * down, 4)
      store<f32>(to, down * down, 8)
      store<f32>(to, 0, 12)
    }
  }
}
