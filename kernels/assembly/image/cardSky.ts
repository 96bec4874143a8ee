// What a card takes of the sky on the ground round its foot: by heading across, and by distance down, each row so many times
// as far as the one before. It is the same wherever the camera is.
import { CardSkyArguments } from '../../build/arguments'
import { falling, sumOf, taken } from '../cardLight'
import { HALF } from '../constants'
import * as L from '../layout'

const TURN: f32 = 6.2831853


@final
@unmanaged
export class CardSky extends CardSkyArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const place = this.place
    const zero = f32x4.splat(0)
    const far = load<f32>(place, L.CARD_SKY_FROM) * Mathf.exp(<f32>y * load<f32>(place, L.CARD_SKY_STEP))
    const up = v128.load32_splat(place, L.CARD_UP)
    const height = v128.load32_splat(place, L.CARD_FOOT + 4)
    for (let x = x0; x < x1; x++) {
      const angle = (<f32>x / <f32>L.CARD_SKY_HEADINGS - HALF) * TURN
      const groundX = f32x4.splat(load<f32>(place, L.CARD_FOOT) + far * Mathf.sin(angle))
      const groundZ = f32x4.splat(load<f32>(place, L.CARD_FOOT + 8) + far * Mathf.cos(angle))
      let red = zero
      let green = zero
      let blue = zero
      const end = this.lights + <usize>this.groups * L.CARD_LIGHTS
      for (let light = this.lights; light < end; light += L.CARD_LIGHTS) {
        const falls = falling(light, groundX, height, groundZ, zero, up, zero)
        const stopped = taken(
          place,
          light,
          falls,
          groundX,
          height,
          groundZ,
          this.level0,
          this.level1,
          this.level2,
          this.level3,
          this.level4,
        )
        red = f32x4.add(red, f32x4.mul(stopped, v128.load(light, 128)))
        green = f32x4.add(green, f32x4.mul(stopped, v128.load(light, 144)))
        blue = f32x4.add(blue, f32x4.mul(stopped, v128.load(light, 160)))
      }
      v128.store(this.out.colour(x, y), f32x4(sumOf(red), sumOf(green), sumOf(blue), 0))
    }
  }
}
