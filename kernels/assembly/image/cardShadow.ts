// The shadow of a card on the ground and on a wall: of every light the share that the card takes, light by light and place
// by place of each, at every pixel. What it takes of the sky is worked out round its foot (cardSky.ts).
import { CardShadowArguments } from '../../build/arguments'
import { falling, sumOf, taken } from '../cardLight'
import { HALF, ONE } from '../constants'
import * as L from '../layout'
import { straight } from '../between'
import { groundT, groundX, groundY, groundZ, isWall, receive } from '../receiver'

const TURN: f32 = 6.2831853
/** Rows over which what is taken of the sky fades at last. */
const FADES: f32 = 8


@final
@unmanaged
export class CardShadow extends CardShadowArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++) v128.store(to + ((<usize>(x - x0)) << 4), this.pixel(x, y))
  }

  pixel(x: i32, y: i32): v128 {
    const place = this.place
    const zero = f32x4.splat(0)
    receive(place, f32x4.splat(<f32>x + HALF), f32x4.splat(<f32>y + HALF))
    if (!(f32x4.extract_lane(groundT, 0) > 0)) return zero
    const onWall = i32x4.extract_lane(isWall, 0) != 0
    // From the middle of the pixel to the foot, as seen from above
    const hereX = f32x4.extract_lane(groundX, 0)
    const hereZ = f32x4.extract_lane(groundZ, 0)
    const offX = load<f32>(place, L.CARD_FOOT) - hereX
    const offZ = load<f32>(place, L.CARD_FOOT + 8) - hereZ
    const far = sqrt<f32>(offX * offX + offZ * offZ)
    const reach = load<f32>(place, L.CARD_REACH)
    const wallX = v128.load32_splat(place, L.CARD_WALL)
    const wallZ = v128.load32_splat(place, L.CARD_WALL + 4)
    const up = v128.load32_splat(place, L.CARD_UP)
    let allR = zero
    let allG = zero
    let allB = zero
    let light = this.lights
    // All that falls there, by a few places of each light
    const counted = light + <usize>this.counted * L.CARD_LIGHTS
    const end = counted + <usize>this.groups * L.CARD_LIGHTS
    for (; light < counted; light += L.CARD_LIGHTS) {
      const all = falling(
        light,
        groundX,
        groundY,
        groundZ,
        v128.bitselect(wallX, zero, isWall),
        v128.bitselect(zero, up, isWall),
        v128.bitselect(wallZ, zero, isWall),
      )
      allR = f32x4.add(allR, f32x4.mul(all, v128.load(light, 128)))
      allG = f32x4.add(allG, f32x4.mul(all, v128.load(light, 144)))
      allB = f32x4.add(allB, f32x4.mul(all, v128.load(light, 160)))
    }
    // Then what of it goes through the card
    let takenR = zero
    let takenG = zero
    let takenB = zero
    for (; light < end; light += L.CARD_LIGHTS) {
      // What shines past the card is seen at once
      const placed = load<f32>(light, L.CARD_LIGHT_PLACED)
      const aX = load<f32>(light, L.CARD_LIGHT_MIDDLE) - placed * hereX
      const aZ = load<f32>(light, L.CARD_LIGHT_MIDDLE + 4) - placed * hereZ
      const long = sqrt<f32>(aX * aX + aZ * aZ)
      const aside = abs<f32>(offX * aZ - offZ * aX)
      const along = offX * aX + offZ * aZ
      const spread = load<f32>(light, L.CARD_LIGHT_SPREAD)
      // A light that stands over it may shine from all sides
      if (long > spread && (aside > reach * long + spread * (far + reach) || along < -(reach + spread) * long)) {
        light += <usize>(<i32>load<f32>(light, L.CARD_LIGHT_OF) - 1) * L.CARD_LIGHTS
        continue
      }
      // The places of the ground that the pixel shows, one for each place of the lights: so its edge is smooth, too
      receive(
        place,
        f32x4.add(f32x4.splat(<f32>x), v128.load(light, 224)),
        f32x4.add(f32x4.splat(<f32>y), v128.load(light, 240)),
      )
      const falls = v128.and(
        f32x4.gt(groundT, zero),
        falling(
          light,
          groundX,
          groundY,
          groundZ,
          v128.bitselect(wallX, zero, isWall),
          v128.bitselect(zero, up, isWall),
          v128.bitselect(wallZ, zero, isWall),
        ),
      )
      const stopped = taken(
        place,
        light,
        falls,
        groundX,
        groundY,
        groundZ,
        this.level0,
        this.level1,
        this.level2,
        this.level3,
        this.level4,
      )
      takenR = f32x4.add(takenR, f32x4.mul(stopped, v128.load(light, 128)))
      takenG = f32x4.add(takenG, f32x4.mul(stopped, v128.load(light, 144)))
      takenB = f32x4.add(takenB, f32x4.mul(stopped, v128.load(light, 160)))
    }
    const other = onWall ? v128.load(place, L.CARD_OTHER_WALL) : v128.load(place, L.CARD_OTHER)
    const sky = onWall || !this.sky.there ? zero : this.ofSky(offX, offZ, far)
    const red = share(sumOf(takenR) + f32x4.extract_lane(sky, 0), sumOf(allR) + f32x4.extract_lane(other, 0))
    const green = share(sumOf(takenG) + f32x4.extract_lane(sky, 1), sumOf(allG) + f32x4.extract_lane(other, 1))
    const blue = share(sumOf(takenB) + f32x4.extract_lane(sky, 2), sumOf(allB) + f32x4.extract_lane(other, 2))
    return f32x4(red, green, blue, max(red, max(green, blue)))
  }

  /** What is taken of the sky so far from the foot. */
  ofSky(offX: f32, offZ: f32, far: f32): v128 {
    const steps = Mathf.log(
      max<f32>(far, load<f32>(this.place, L.CARD_SKY_FROM)) / load<f32>(this.place, L.CARD_SKY_FROM),
    )
    const row = steps / load<f32>(this.place, L.CARD_SKY_STEP)
    if (row >= <f32>(L.CARD_SKY_ROWS - 1)) return f32x4.splat(0)
    const heading = (Mathf.atan2(-offX, -offZ) / TURN + HALF) * <f32>L.CARD_SKY_HEADINGS
    // Where it ends it has faded
    const left = min<f32>(ONE, (<f32>(L.CARD_SKY_ROWS - 1) - row) / FADES)
    return f32x4.mul(straight(this.sky, heading, row, 1), f32x4.splat(left))
  }
}


@inline
function share(part: f32, all: f32): f32 {
  return all > 0 ? part / all : 0
}
