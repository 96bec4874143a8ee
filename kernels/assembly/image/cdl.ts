// ASC CDL 1.2: (in slope + offset) ^ power, then saturation. Nothing is held to 1 (scene-linear), and below 0 the power
// is 1.
import { CdlArguments } from '../../build/arguments'
import { luminance, luminanceOf } from '../points'
import { pow4 } from '../power'

/** One channel of four pixels, by its own lane of the values. */
@inline
function raised(value: v128, slopes: v128, offsets: v128, powers: v128, lane: u8): v128 {
  const slope = splatOf(slopes, lane)
  const offset = splatOf(offsets, lane)
  const linear = f32x4.add(f32x4.mul(value, slope), offset)
  return v128.bitselect(pow4(linear, splatOf(powers, lane)), linear, f32x4.gt(linear, f32x4.splat(0)))
}


@inline
function splatOf(values: v128, lane: u8): v128 {
  return lane == 0
    ? v128.shuffle<f32>(values, values, 0, 0, 0, 0)
    : lane == 1
      ? v128.shuffle<f32>(values, values, 1, 1, 1, 1)
      : v128.shuffle<f32>(values, values, 2, 2, 2, 2)
}


@final @unmanaged
export class Cdl extends CdlArguments {

  @inline
  at(value: v128, _x: i32, _y: i32): v128 {
    const linear = f32x4.add(f32x4.mul(value, this.slope), this.offset)
    const raised = v128.bitselect(pow4(linear, this.power), linear, f32x4.gt(linear, f32x4.splat(0)))
    const grey = luminance(raised)
    return f32x4.add(grey, f32x4.mul(f32x4.sub(raised, grey), this.saturation))
  }

  /** Four pixels with their reds together, and so on: three powers instead of four, and the same numbers. */
  @inline
  four(from: usize, to: usize): void {
    const a = v128.load(from)
    const b = v128.load(from, 16)
    const c = v128.load(from, 32)
    const d = v128.load(from, 48)
    const redGreen0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5)
    const redGreen1 = v128.shuffle<f32>(c, d, 0, 4, 1, 5)
    const blue0 = v128.shuffle<f32>(a, b, 2, 6, 3, 7)
    const blue1 = v128.shuffle<f32>(c, d, 2, 6, 3, 7)
    const red = raised(v128.shuffle<f32>(redGreen0, redGreen1, 0, 1, 4, 5), this.slope, this.offset, this.power, 0)
    const green = raised(v128.shuffle<f32>(redGreen0, redGreen1, 2, 3, 6, 7), this.slope, this.offset, this.power, 1)
    const blue = raised(v128.shuffle<f32>(blue0, blue1, 0, 1, 4, 5), this.slope, this.offset, this.power, 2)
    const alpha = v128.shuffle<f32>(blue0, blue1, 2, 3, 6, 7)
    const grey = luminanceOf(red, green, blue)
    const saturation = this.saturation
    const r = f32x4.add(grey, f32x4.mul(f32x4.sub(red, grey), saturation))
    const g = f32x4.add(grey, f32x4.mul(f32x4.sub(green, grey), saturation))
    const l = f32x4.add(grey, f32x4.mul(f32x4.sub(blue, grey), saturation))
    const rg0 = v128.shuffle<f32>(r, g, 0, 4, 1, 5)
    const rg1 = v128.shuffle<f32>(r, g, 2, 6, 3, 7)
    const la0 = v128.shuffle<f32>(l, alpha, 0, 4, 1, 5)
    const la1 = v128.shuffle<f32>(l, alpha, 2, 6, 3, 7)
    v128.store(to, v128.shuffle<f32>(rg0, la0, 0, 1, 4, 5))
    v128.store(to, v128.shuffle<f32>(rg0, la0, 2, 3, 6, 7), 16)
    v128.store(to, v128.shuffle<f32>(rg1, la1, 0, 1, 4, 5), 32)
    v128.store(to, v128.shuffle<f32>(rg1, la1, 2, 3, 6, 7), 48)
  }
}
