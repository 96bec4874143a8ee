// Uneven air on the way to each pixel, in steps, each counted by how thick even air is there (kernels/assembly/medium.ts
// has the same for rays of a render).
import { FogUnevenArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { powerOfTwo } from '../exponent'
import { patchiness } from '../medium'

const STEPS: i32 = 24
/** Half heights above the ground beyond which nothing is. */
const HIGHEST: f32 = 10


@final
@unmanaged
export class FogUneven extends FogUnevenArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const py = (<f32>y + HALF - this.middleY) * this.sideY
    for (let x = x0; x < x1; x++) {
      const px = (<f32>x + HALF - this.middleX) * this.sideX
      const long = sqrt<f32>(ONE + px * px + py * py)
      let depth = load<f32>(this.depth.single(x, y))
      if (!(depth < 1e9)) depth = 1e9
      // A step of one metre on the way
      const way = f32x4.mul(
        f32x4.add(f32x4.add(f32x4.mul(this.right, f32x4.splat(px)), f32x4.mul(this.up, f32x4.splat(py))), this.forward),
        f32x4.splat(ONE / long),
      )
      store<f32>(this.out.single(x, y), this.on(max<f32>(0, depth) * long, way))
    }
  }

  on(metres: f32, way: v128): f32 {
    const eye = this.eye
    const thinning = this.thinning
    const rise = f32x4.extract_lane(way, 1)
    const height = f32x4.extract_lane(eye, 1) - this.ground
    const begin = min(metres, this.from)
    let end = min(metres, begin + this.farthest)
    if (thinning > 0 && rise > 1e-6) end = min(end, max(begin, (max<f32>(0, -height) + thinning * HIGHEST) / rise))
    const step = (end - begin) / <f32>STEPS
    if (step <= 0) return 1
    let all: f32 = 0
    let sum: f32 = 0
    for (let k = 0; k < STEPS; k++) {
      const t = begin + (<f32>k + HALF) * step
      const weight = thinning > 0 ? powerOfTwo(-max<f32>(0, height + rise * t) / thinning) : 1
      const place = f32x4.mul(f32x4.add(eye, f32x4.mul(way, f32x4.splat(t))), f32x4.splat(this.fine))
      all += weight
      sum +=
        weight *
        patchiness(
          this.uneven,
          f32x4.extract_lane(place, 0),
          f32x4.extract_lane(place, 1),
          f32x4.extract_lane(place, 2),
          this.seed,
        )
    }
    return all > 0 ? sum / all : 1
  }
}
