// Noise taken out of the light of a render: each pixel becomes a mean of those about it that differ from it by no more
// than their noise, as measured, and that show a surface of like colour and facing. Non-local means with the variance
// taken off the distance, and guides: F. Rousselle, C. Knaus and M. Zwicker, "Adaptive rendering with non-local means
// filtering", ACM TOG 31(6), 2012; the same with M. Manzi, "Robust denoising using feature and color information", CGF
// 32(7), 2013.
import { BAND_ROWS } from '../layout'
import { DenoiseArguments } from '../../build/arguments'

/** Pixels across that are worked on at a time, so that sums of all layers stay near the processor. */
const TILE = 64
const BUFFER_STRIDE: usize = (TILE + 8) << 2
/** Differences of all rows and one more all round, and the sums of three rows under one another. */
const BUFFER: usize = BUFFER_STRIDE * (BAND_ROWS + 3)
const COLUMNS: usize = BUFFER_STRIDE * (BAND_ROWS + 2)
const ROW: usize = TILE << 2
const SUMS: usize = ROW * BAND_ROWS

/** Bytes of room that a band needs for so many layers. */
export function denoiseRoom(layers: i32): usize {
  return BUFFER + SUMS * <usize>(layers + 2)
}

/**
 * Planes of f32, each padded all round. planes: light that is compared, its variance, a plane that is 1 within the
 * picture and 0 beyond, guides, layers; plane, stride: bytes of a plane and of a row; out: as many planes as layers;
 * room: denoiseRoom for each band; gain: how much of the noise counts as a difference (its square over the variance's
 * share); weights: of the guides' squared differences; step: pixels from one that is looked at to the next; left: a
 * plane for what is left of the variance as a share of it.
 */
@final @unmanaged
export class Denoise extends DenoiseArguments {
  block(_x0: i32, y0: i32, x1: i32, y1: i32): void {
    const room = this.room + <usize>(y0 / BAND_ROWS) * denoiseRoom(this.layers)
    for (let x = 0; x < x1; x += TILE) this.tile(room, x, y0, min(TILE, x1 - x), y1 - y0, this.layers)
  }

  tile(buffer: usize, x0: i32, y0: i32, width: i32, height: i32, layers: i32): void {
    const plane = <usize>this.plane
    const stride = <usize>this.stride
    const guides = this.guides
    const radius = this.radius
    const step = this.step
    const gain = f32x4.splat(this.gain)
    const weights = this.weights
    const origin = this.planes + <usize>(y0 + this.padding) * stride + ((<usize>(x0 + this.padding)) << 2)
    const inside = plane * 2
    const firstGuide = plane * 3
    const firstLayer = firstGuide + plane * <usize>guides
    const sums = buffer + BUFFER
    const none = f32x4.splat(0)
    const one = f32x4.splat(1)
    const eighth = f32x4.splat(0.125)
    const eight = f32x4.splat(8)
    const ninth = f32x4.splat(<f32>(1.0 / 9))
    const tiny = f32x4.splat(1e-10)
    memory.fill(sums, 0, SUMS * <usize>(layers + 2))
    for (let dy = -radius; dy <= radius; dy++)
      for (let dx = -radius; dx <= radius; dx++) {
        const shift = <usize>(dy * step) * stride + ((<usize>(dx * step)) << 2)
        // How much each pixel differs from the one over there, beyond what noise explains; one pixel more all round
        for (let y = -1; y <= height; y++) {
          const p = origin + <usize>y * stride - 4
          const to = buffer + <usize>(y + 1) * BUFFER_STRIDE
          for (let x: usize = 0, end = (<usize>(width + 2)) << 2; x < end; x += 16) {
            const a = p + x
            const b = a + shift
            const d = f32x4.sub(v128.load(a), v128.load(b))
            const va = v128.load(a + plane)
            const vb = v128.load(b + plane)
            v128.store(
              to + x,
              f32x4.div(
                f32x4.sub(f32x4.mul(d, d), f32x4.add(va, f32x4.min(va, vb))),
                f32x4.add(tiny, f32x4.mul(gain, f32x4.add(va, vb))),
              ),
            )
          }
        }
        for (let y = 0; y < height; y++) {
          const p = origin + <usize>y * stride
          const from = buffer + <usize>y * BUFFER_STRIDE
          const sum = sums + <usize>y * ROW
          const columns = buffer + COLUMNS
          for (let x: usize = 0, end = (<usize>(width + 2)) << 2; x < end; x += 16)
            v128.store(
              columns + x,
              f32x4.add(
                v128.load(from + x),
                f32x4.add(v128.load(from + x, BUFFER_STRIDE), v128.load(from + x, BUFFER_STRIDE * 2)),
              ),
            )
          for (let x: usize = 0, end = (<usize>width) << 2; x < end; x += 16) {
            const at = columns + x
            let far = f32x4.add(v128.load(at), f32x4.add(v128.load(at, 4), v128.load(at, 8)))
            far = f32x4.max(none, f32x4.mul(far, ninth))
            if (!v128.any_true(f32x4.lt(far, eight))) continue
            const a = p + x
            const b = a + shift
            for (let g = 0; g < guides; g++) {
              const at = firstGuide + plane * <usize>g
              const d = f32x4.sub(v128.load(a + at), v128.load(b + at))
              far = f32x4.add(far, f32x4.mul(f32x4.mul(d, d), v128.load32_splat(weights + ((<usize>g) << 2))))
            }
            // e to the minus far, near enough, and nothing from 8 on
            let weight = f32x4.max(none, f32x4.sub(one, f32x4.mul(far, eighth)))
            weight = f32x4.mul(weight, weight)
            weight = f32x4.mul(weight, weight)
            weight = f32x4.mul(weight, weight)
            weight = f32x4.mul(weight, v128.load(b + inside))
            if (!v128.any_true(f32x4.gt(weight, f32x4.splat(1e-5)))) continue
            const to = sum + x
            v128.store(to, f32x4.add(v128.load(to), weight))
            const squares = to + SUMS * <usize>(layers + 1)
            v128.store(squares, f32x4.add(v128.load(squares), f32x4.mul(weight, weight)))
            let layer = b + firstLayer
            for (let l = 1; l <= layers; l++, layer += plane) {
              const s = to + SUMS * <usize>l
              v128.store(s, f32x4.add(v128.load(s), f32x4.mul(weight, v128.load(layer))))
            }
          }
        }
      }
    const place = <usize>(y0 + this.padding) * stride + ((<usize>(x0 + this.padding)) << 2)
    const left = this.left + place
    for (let y = 0; y < height; y++)
      for (let x: usize = 0, end = (<usize>width) << 2; x < end; x += 4) {
        const from = sums + <usize>y * ROW + x
        const weight = load<f32>(from)
        store<f32>(left + <usize>y * stride + x, load<f32>(from + SUMS * <usize>(layers + 1)) / (weight * weight))
      }
    const out = this.out + place
    for (let l = 0; l < layers; l++)
      for (let y = 0; y < height; y++)
        for (let x: usize = 0, end = (<usize>width) << 2; x < end; x += 4) {
          const from = sums + <usize>y * ROW + x
          store<f32>(
            out + plane * <usize>l + <usize>y * stride + x,
            load<f32>(from + SUMS * <usize>(l + 1)) / load<f32>(from),
          )
        }
  }
}
