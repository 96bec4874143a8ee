// What water shows at each pixel: the mirrored ray is followed to what it meets; over the slopes that no pixel tells what it
// shows is drawn out, and lamps glitter on them.
import { WaterMirrorArguments } from '../../build/arguments'
import { straight } from '../between'
import { HALF, ONE, TWO } from '../constants'
import { powerOfTwo } from '../exponent'
import * as L from '../layout'
import { fresnel } from '../opacity'
import { endsAt, endsMetres, follow, isMet } from '../mirrorRay'
import { Raster } from '../raster'
import { lookAlong, metresToLevel, wayX, wayY, wayZ } from '../waterPlace'

/** From air into water. */
const ETA: f32 = 1.0 / 1.333
/** Rays that end so alike, by their distances, have met the same. */
const ALIKE: f32 = 0.03
/** A mirrored ray rises at least so steeply: it does not go into the water. */
const RISES: f32 = 0.002
/** Places over which it is drawn out, and how far apart, in standard deviations. */
const TAPS: i32 = 7
const APART: f32 = 0.6
const PI: f32 = 3.1415927
const E: f32 = 1.442695


@inline
function root3(x: f32, y: f32, z: f32): f32 {
  return sqrt<f32>(x * x + y * y + z * z)
}
/** So often, and by such a share of the way to the middle. */
const INWARD: i32 = 6
const INWARD_BY: f32 = 0.02
const FAR_ASIDE: f32 = 0.375
const NEAR_ASIDE: f32 = 0.125
/**
 * Of four rays of a pixel how far each is aside of its middle, far or close: each has a row and a column of its own, and the
 * first two lie opposite.
 */
@inline
function aside(ray: i32, far: f32, close: f32): f32 {
  return ray == 0 ? -far : ray == 1 ? far : ray == 2 ? close : -close
}
/** Pixels beside a hidden place that are looked at for what is laid on the plate there. */
const MOST_BESIDE = 512
/** A place beyond an end as far within it. */
@inline
function folded(at: f32, low: f32, high: f32): f32 {
  const inner = at < low ? low + low - at : at > high ? high + high - at : at
  return max<f32>(low, min<f32>(high, inner))
}


@final
@unmanaged
export class WaterMirror extends WaterMirrorArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const zero = f32x4.splat(0)
    const surface = this.surface
    const matte = this.matte
    let from = surface.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 16) {
      const metres = load<f32>(from, 8)
      const share: f32 = matte.there ? load<f32>(matte.single(x, y)) : 1
      v128.store(to, metres > 0 && share > 0 ? this.pixel(x, y, from, metres, share) : zero)
    }
  }

  /** The mean of rays within a pixel, of more than two only where those meet something else: there is a border. */
  pixel(x: i32, y: i32, from: usize, metres: f32, share: f32): v128 {
    const place = this.place
    lookAlong(place, <f32>x, <f32>y)
    const level = metresToLevel(place)
    const rays = this.rays
    let sum = f32x4.splat(0)
    let first: f32 = 0
    let met = false
    let ray = 0
    while (ray < rays) {
      const px = <f32>x + (rays > 1 ? aside(ray, FAR_ASIDE, NEAR_ASIDE) : 0)
      const py = <f32>y + (rays > 1 ? aside(ray, -NEAR_ASIDE, FAR_ASIDE) : 0)
      lookAlong(place, px, py)
      // As high as the wave at the pixel is
      const own = metresToLevel(place)
      if (own > 0 && level > 0) sum = f32x4.add(sum, this.ray(px, py, from, (metres * own) / level))
      else {
        lookAlong(place, <f32>x, <f32>y)
        sum = f32x4.add(sum, this.ray(<f32>x, <f32>y, from, metres))
      }
      ray++
      if (ray == 1) {
        first = endsMetres
        met = isMet
      } else if (ray == 2 && met == isMet && abs<f32>(endsMetres - first) < ALIKE * first) break
    }
    const clear = this.clear
    // The rest of the mirrored share, as the fourth, is what lies under it
    const under = f32x4.add(
      f32x4.mul(v128.load(this.level0.colour(x, y)), f32x4.splat(clear)),
      f32x4.mul(v128.load(place, L.WATER_COLOUR), f32x4.splat(ONE - clear)),
    )
    sum = f32x4.mul(sum, f32x4.splat(ONE / <f32>ray))
    const value = f32x4.add(sum, f32x4.mul(under, f32x4.splat(ONE - f32x4.extract_lane(sum, 3))))
    return f32x4.mul(f32x4.replace_lane(value, 3, 1), f32x4.splat(share))
  }

  /** What one ray (wayX, wayY, wayZ) is sent by the water; as the fourth, how much of all is mirrored. */
  @inline
  ray(px: f32, py: f32, from: usize, metres: f32): v128 {
    const dx = wayX
    const dy = wayY
    const dz = wayZ
    const far = root3(dx, dy, dz)
    let sx = load<f32>(from)
    let sz = load<f32>(from, 4)
    const vary = load<f32>(from, 12) + this.rough
    let long = sqrt<f32>(sx * sx + sz * sz + ONE)
    let against = (-dx * sx + dy - dz * sz) / long
    if (!(against < -RISES * far)) {
      // A slope that turns away is not seen
      sx = 0
      sz = 0
      long = 1
      against = dy
    }
    const twice = (TWO * against) / long
    const rx = dx + twice * sx
    const ry = max<f32>(dy - twice, RISES * far)
    const rz = dz + twice * sz
    const mirror = this.seen(px, py, metres, rx, ry, rz, sqrt<f32>(vary), far, -dy / far)
    const shown = fresnel(min<f32>(ONE, -against / far), ETA)
    let value = f32x4.mul(mirror, f32x4.splat(shown * this.mirrors))
    if (this.count)
      value = f32x4.add(
        value,
        this.glitter(metres, dx / far, dy / far, dz / far, far, sx, sz, max<f32>(vary, <f32>1e-5)),
      )
    return f32x4.replace_lane(value, 3, shown)
  }

  /** What a mirrored ray shows. */
  @inline
  seen(x: f32, y: f32, metres: f32, rx: f32, ry: f32, rz: f32, slope: f32, far: f32, grazing: f32): v128 {
    const place = this.place
    const shore = load<f32>(place, L.WATER_SHORE)
    const dense = load<f32>(place, L.WATER_DENSE)
    const middleX = load<f32>(place, L.WATER_MIDDLE)
    const middleY = load<f32>(place, L.WATER_MIDDLE + 4)
    const px = x + HALF
    const py = y + HALF
    // As the camera has it: to the right, up, away
    const bx =
      rx * load<f32>(place, L.WATER_RIGHT) +
      ry * load<f32>(place, L.WATER_RIGHT + 4) +
      rz * load<f32>(place, L.WATER_RIGHT + 8)
    const by =
      rx * load<f32>(place, L.WATER_UP) + ry * load<f32>(place, L.WATER_UP + 4) + rz * load<f32>(place, L.WATER_UP + 8)
    const bz = -(
      rx * load<f32>(place, L.WATER_BACK) +
      ry * load<f32>(place, L.WATER_BACK + 4) +
      rz * load<f32>(place, L.WATER_BACK + 8)
    )
    const ax = ((px - middleX) / dense) * metres
    const ay = ((middleY - py) / dense) * metres
    // To the shore, or to the camera where it comes toward that
    const nearly = metres * <f32>0.05
    const way: f32 = bz > <f32>1e-5 ? (shore - metres) / bz : bz < <f32>-1e-5 ? (metres - nearly) / -bz : metres * 1000
    const toMetres = max<f32>(nearly, metres + bz * way)
    const ex = middleX + (dense * (ax + bx * way)) / toMetres
    const ey = middleY - (dense * (ay + by * way)) / toMetres
    follow(this.depth, this.nearest, px, py, metres, ex - px, ey - py, toMetres, shore, load<f32>(place, L.WATER_THICK))
    const atX = px + (ex - px) * endsAt
    const atY = py + (ey - py) * endsAt
    // What it would meet behind something nearer is not known: there is what is seen where nothing stands
    const depth = this.depth
    const column = max<i32>(depth.left, min<i32>(depth.right - 1, <i32>atX))
    const line = max<i32>(depth.top, min<i32>(depth.bottom - 1, <i32>atY))
    const isHidden = !isMet && load<f32>(depth.single(column, line)) < shore * <f32>0.999
    const gone = (way * endsAt * endsMetres) / toMetres
    const tall = (dense * TWO * slope * gone * far) / endsMetres
    const level: Raster = isHidden ? this.far : this.level0
    const value =
      tall < HALF ? this.pictureAt(level, atX, atY, 0) : this.drawnOut(isHidden, atX, atY, tall, tall * grazing)
    return isHidden ? f32x4.add(value, this.laidBeside(atX, atY, column, line, shore)) : value
  }

  /** What is laid on the plate, air above all, beside what hides a place: the nearest to its left or right that is not hidden. */
  laidBeside(x: f32, y: f32, column: i32, line: i32, shore: f32): v128 {
    const depth = this.depth
    for (let off = 1; off < MOST_BESIDE; off += max(1, off >> 2))
      for (let side = -1; side <= 1; side += 2) {
        const at = column + off * side
        if (at < depth.left || at >= depth.right || load<f32>(depth.single(at, line)) < shore * <f32>0.999) continue
        const there = x + <f32>(off * side)
        const laid = f32x4.sub(this.pictureAt(this.level0, there, y, 0), this.pictureAt(this.far, there, y, 0))
        return f32x4.replace_lane(laid, 3, 0)
      }
    return f32x4.splat(0)
  }

  /** Over so many pixels up and down, and aside. */
  drawnOut(isHidden: bool, x: f32, y: f32, tall: f32, wide: f32): v128 {
    let sum = f32x4.splat(0)
    let all: f32 = 0
    const apart = tall * APART
    const coarse = max<f32>(apart, wide)
    const level = isHidden ? 0 : coarse < <f32>1.5 ? 0 : coarse < 3 ? 1 : coarse < 6 ? 2 : coarse < 12 ? 3 : 4
    const picture: Raster = isHidden
      ? this.far
      : level == 0
        ? this.level0
        : level == 1
          ? this.level1
          : level == 2
            ? this.level2
            : level == 3
              ? this.level3
              : this.level4
    for (let i = 0; i < TAPS; i++) {
      const off = (<f32>i - <f32>((TAPS - 1) >> 1)) * APART
      const weight = powerOfTwo(-off * off * HALF * E)
      const value = this.pictureAt(picture, x, y + off * tall, level)
      sum = f32x4.add(sum, f32x4.mul(value, f32x4.splat(weight)))
      all += weight
    }
    return f32x4.mul(sum, f32x4.splat(ONE / all))
  }

  /** The picture, halved so often, at a place of it; beyond the frame it goes on as in a mirror, and nothing of it is missing. */
  @inline
  pictureAt(picture: Raster, x: f32, y: f32, level: i32): v128 {
    const place = this.place
    const left = load<f32>(place, L.WATER_FRAME)
    const top = load<f32>(place, L.WATER_FRAME + 4)
    const right = load<f32>(place, L.WATER_FRAME + 8)
    const bottom = load<f32>(place, L.WATER_FRAME + 12)
    let px = folded(x, left, right)
    let py = folded(y, top, bottom)
    const scale = ONE / <f32>(1 << level)
    let value = straight(picture, px * scale - HALF, py * scale - HALF, 1)
    // A plate that a lens has bent does not reach all of the frame's edge: what lies a little more to the middle stands for that
    for (let i = 0; i < INWARD && f32x4.extract_lane(value, 3) < HALF; i++) {
      px += ((left + right) * HALF - px) * INWARD_BY
      py += ((top + bottom) * HALF - py) * INWARD_BY
      value = straight(picture, px * scale - HALF, py * scale - HALF, 1)
    }
    const cover = f32x4.extract_lane(value, 3)
    return cover > <f32>0.02 && cover < ONE ? f32x4.div(value, f32x4.splat(cover)) : value
  }

  /**
   * Light of lamps that slopes send to the camera: E F p / (4 cos v cos^4 b), with how often a slope is that mirrors it
   * (C. Cox, W. Munk, J. Opt. Soc. Am. 44, 1954).
   */
  glitter(metres: f32, dx: f32, dy: f32, dz: f32, far: f32, sx: f32, sz: f32, vary: f32): v128 {
    const place = this.place
    const wx = load<f32>(place, L.WATER_EYE) + dx * metres * far
    const wy = load<f32>(place, L.WATER_EYE + 4) + dy * metres * far
    const wz = load<f32>(place, L.WATER_EYE + 8) + dz * metres * far
    let sum = f32x4.splat(0)
    const end = this.lamps + <usize>this.count * L.WATER_LAMP
    for (let lamp = this.lamps; lamp < end; lamp += L.WATER_LAMP) {
      const isPlace = load<f32>(lamp, 12)
      let lx = load<f32>(lamp) - wx * isPlace
      let ly = load<f32>(lamp, 4) - wy * isPlace
      let lz = load<f32>(lamp, 8) - wz * isPlace
      const away = root3(lx, ly, lz)
      if (!(away > 0) || !(ly > 0)) continue
      lx /= away
      ly /= away
      lz /= away
      let hx = lx - dx
      let hy = ly - dy
      let hz = lz - dz
      const half = root3(hx, hy, hz)
      hx /= half
      hy /= half
      hz /= half
      if (!(hy > <f32>0.05)) continue
      const offX = -hx / hy - sx
      const offZ = -hz / hy - sz
      const often = powerOfTwo((-(offX * offX + offZ * offZ) / (TWO * vary)) * E) / (TWO * PI * vary)
      const shown = fresnel(max<f32>(0, -(hx * dx + hy * dy + hz * dz)), ETA)
      const gain = (shown * often) / (4 * max<f32>(<f32>0.02, -dy) * hy * hy * hy * hy)
      sum = f32x4.add(sum, f32x4.mul(v128.load(lamp, 16), f32x4.splat(isPlace > 0 ? gain / (away * away) : gain)))
    }
    return sum
  }
}
