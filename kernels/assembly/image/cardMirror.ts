// What ground or a wall mirrors of a card: the ray of a pixel, mirrored, meets the card or not; by Fresnel, and over as many
// ways as a rough ground mirrors to.
import { CardMirrorArguments } from '../../build/arguments'
import { HALF } from '../constants'
import * as L from '../layout'
import { cardHigh, cardU, cardV, cardWay, meetCard, meetsPicture, onCard } from '../onCard'
import { groundT, groundX, groundY, groundZ, isWall, rayX, rayY, rayZ, receive } from '../receiver'

/** What a smooth surface of that index mirrors of light that is not polarised (Fresnel; M. Born, E. Wolf 1.5.2). */
@inline
function mirrored(cosine: v128, index: v128): v128 {
  const one = f32x4.splat(1)
  const sine2 = f32x4.div(f32x4.sub(one, f32x4.mul(cosine, cosine)), f32x4.mul(index, index))
  const through = f32x4.sqrt(f32x4.max(f32x4.splat(0), f32x4.sub(one, sine2)))
  const s = f32x4.div(f32x4.sub(cosine, f32x4.mul(index, through)), f32x4.add(cosine, f32x4.mul(index, through)))
  const p = f32x4.div(f32x4.sub(f32x4.mul(index, cosine), through), f32x4.add(f32x4.mul(index, cosine), through))
  return f32x4.mul(f32x4.add(f32x4.mul(s, s), f32x4.mul(p, p)), f32x4.splat(HALF))
}


@inline
function dot(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(ax, bx), f32x4.mul(ay, by)), f32x4.mul(az, bz))
}


@final
@unmanaged
export class CardMirror extends CardMirrorArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++) v128.store(to + ((<usize>(x - x0)) << 4), this.pixel(x, y))
  }

  pixel(x: i32, y: i32): v128 {
    const place = this.place
    const zero = f32x4.splat(0)
    const one = f32x4.splat(1)
    const towardX = v128.load32_splat(place, L.CARD_TOWARD)
    const towardZ = v128.load32_splat(place, L.CARD_TOWARD + 4)
    const up = v128.load32_splat(place, L.CARD_UP)
    const index = f32x4.splat(this.index)
    const wall = this.wall != 0
    let sum = zero
    const end = this.facets + <usize>(this.count >> 2) * L.CARD_FACETS
    for (let facet = this.facets; facet < end; facet += L.CARD_FACETS) {
      receive(
        place,
        f32x4.add(f32x4.splat(<f32>x), v128.load(facet, 32)),
        f32x4.add(f32x4.splat(<f32>y), v128.load(facet, 48)),
      )
      const first = v128.load(facet)
      const second = v128.load(facet, 16)
      // A normal that leans by the facet's slopes
      let nx = first
      let ny = up
      let nz = second
      if (wall) {
        const wallX = v128.load32_splat(place, L.CARD_WALL)
        const wallZ = v128.load32_splat(place, L.CARD_WALL + 4)
        nx = f32x4.add(wallX, f32x4.mul(wallZ, first))
        ny = second
        nz = f32x4.sub(wallZ, f32x4.mul(wallX, first))
      }
      const long = f32x4.div(one, f32x4.sqrt(dot(nx, ny, nz, nx, ny, nz)))
      const over = f32x4.div(one, f32x4.sqrt(dot(rayX, rayY, rayZ, rayX, rayY, rayZ)))
      const against = f32x4.mul(dot(rayX, rayY, rayZ, nx, ny, nz), long)
      const twice = f32x4.mul(f32x4.add(against, against), long)
      const rx = f32x4.sub(rayX, f32x4.mul(twice, nx))
      const ry = f32x4.sub(rayY, f32x4.mul(twice, ny))
      const rz = f32x4.sub(rayZ, f32x4.mul(twice, nz))
      meetCard(place, groundX, groundY, groundZ, rx, ry, rz, towardX, towardZ)
      const wide = f32x4.mul(
        f32x4.div(cardWay, over),
        f32x4.mul(f32x4.splat(this.spread), v128.load32_splat(place, L.CARD_DENSE)),
      )
      let inside = v128.and(meetsPicture(place, wide), v128.and(f32x4.lt(against, zero), f32x4.gt(groundT, zero)))
      // Into the ground it mirrors nothing
      inside = wall
        ? v128.and(inside, isWall)
        : v128.andnot(v128.and(inside, f32x4.gt(f32x4.mul(ry, up), zero)), isWall)
      if (!v128.any_true(inside)) continue
      const u = cardU
      const v = cardV
      const gone = f32x4.max(zero, f32x4.sub(one, f32x4.div(f32x4.max(zero, cardHigh), f32x4.splat(this.fade))))
      const much = f32x4.mul(mirrored(f32x4.neg(f32x4.mul(against, over)), index), gone)
      if (i32x4.extract_lane(inside, 0))
        sum = f32x4.add(
          sum,
          this.seen(
            f32x4.extract_lane(u, 0),
            f32x4.extract_lane(v, 0),
            f32x4.extract_lane(wide, 0),
            f32x4.extract_lane(much, 0),
            f32x4.extract_lane(gone, 0),
          ),
        )
      if (i32x4.extract_lane(inside, 1))
        sum = f32x4.add(
          sum,
          this.seen(
            f32x4.extract_lane(u, 1),
            f32x4.extract_lane(v, 1),
            f32x4.extract_lane(wide, 1),
            f32x4.extract_lane(much, 1),
            f32x4.extract_lane(gone, 1),
          ),
        )
      if (i32x4.extract_lane(inside, 2))
        sum = f32x4.add(
          sum,
          this.seen(
            f32x4.extract_lane(u, 2),
            f32x4.extract_lane(v, 2),
            f32x4.extract_lane(wide, 2),
            f32x4.extract_lane(much, 2),
            f32x4.extract_lane(gone, 2),
          ),
        )
      if (i32x4.extract_lane(inside, 3))
        sum = f32x4.add(
          sum,
          this.seen(
            f32x4.extract_lane(u, 3),
            f32x4.extract_lane(v, 3),
            f32x4.extract_lane(wide, 3),
            f32x4.extract_lane(much, 3),
            f32x4.extract_lane(gone, 3),
          ),
        )
    }
    const light = this.amount / <f32>this.count
    return f32x4.mul(sum, f32x4(light, light, light, this.hides / <f32>this.count))
  }

  /** Its light as much as is mirrored; its cover whole, for what it hides of what was mirrored before. */
  @inline
  seen(u: f32, v: f32, wide: f32, much: f32, gone: f32): v128 {
    return f32x4.mul(
      onCard(this.level0, this.level1, this.level2, this.level3, this.level4, u, v, wide),
      f32x4(much, much, much, gone),
    )
  }
}
