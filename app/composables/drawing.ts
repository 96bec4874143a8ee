// Stand-ins drawn click by click on the plate's ground: what has been clicked, what follows from where the pointer is,
// and when it is whole.
import { aboutMiddle, besideFoot, heightOver, rectangleOnGround, snapped } from '../../core/match/ground'
import { onLevel } from '../../core/match/project'
import type { Camera } from '../../core/scene/scene'
import type { StandIn, StandInShape } from '../../core/scene/standin'
import type { Vector3 } from '../../core/scene/vector'

export interface Drawn {
  shape: StandIn
  place: [number, number, number]
  heading: number
}
type Place = { u: number; v: number }
const round = (value: number): number => Math.round(value * 1e4) / 1e4

export class Drawing {
  /** Places on the ground (metres x, z), and of a profile (radius, height). */
  ground: [number, number][] = []
  profile: [number, number][] = []
  closed = false
  constructor(
    readonly shape: StandInShape,
    private camera: Camera,
    private aspect: number,
    private step: number,
  ) {}

  private onGround({ u, v }: Place): [number, number] {
    const found = onLevel(this.camera, this.aspect, u, v, 0)
    if (!found) throw new Error('That place lies on or above the horizon: it is not on the ground.')
    return [snapped(found[0], this.step), snapped(found[2], this.step)]
  }
  private foot(): Vector3 {
    const [x, z] = this.ground[this.shape === 'box' ? this.ground.length - 1 : 0]!
    return [x, 0, z]
  }
  private height(place: Place, foot = this.foot()): number {
    const found = heightOver(this.camera, this.aspect, foot, place)
    return Math.max(0.01, this.step > 0 ? snapped(found, this.step) || this.step : found)
  }

  /** Takes a click; the finished stand-in when it is whole. Throws with what is wrong. */
  click(place: Place): Drawn | undefined {
    const { shape, ground } = this
    if (shape === 'profile') {
      if (!ground.length) {
        ground.push(this.onGround(place))
        return undefined
      }
      const beside = besideFoot(this.camera, this.aspect, this.foot(), place)
      if (beside) this.profile.push([Math.max(0.001, round(Math.abs(beside[0]))), Math.max(0, round(beside[1]))])
      return undefined
    }
    if (shape === 'outline') {
      if (!this.closed) {
        ground.push(this.onGround(place))
        return undefined
      }
      return this.made(this.height(place))
    }
    if (shape === 'ball') {
      if (ground.length) return this.made(this.height(place))
      ground.push(this.onGround(place))
      return undefined
    }
    const need = shape === 'cylinder' ? 2 : 3
    if (ground.length < need) {
      ground.push(this.onGround(place))
      return shape === 'plane' && ground.length === need ? this.made(0.01) : undefined
    }
    return this.made(this.height(place))
  }

  /** Ends an open line: a profile is whole, a footprint is closed. */
  end(): Drawn | undefined {
    if (this.shape === 'outline' && !this.closed) {
      if (this.ground.length < 3) throw new Error('A footprint has three corners at least.')
      this.closed = true
      return undefined
    }
    if (this.shape !== 'profile') return undefined
    if (this.profile.length < 2) throw new Error('A turned shape needs two places of its outline at least.')
    const [x, z] = this.ground[0]!
    return {
      shape: { shape: 'profile', width: 1, height: 1, depth: 1, points: this.profile },
      place: [x, 0, z],
      heading: 0,
    }
  }

  private made(height: number): Drawn {
    const { ground, shape } = this
    const tall = round(height)
    const plain = { height: tall, points: [] as [number, number][] }
    if (shape === 'outline') {
      const { middle, points } = aboutMiddle(ground)
      return {
        shape: { shape, width: 1, depth: 1, height: tall, points },
        place: [round(middle[0]), 0, round(middle[1])],
        heading: 0,
      }
    }
    const [a, b, c] = ground
    if (shape === 'ball')
      return { shape: { shape, width: tall, depth: tall, ...plain }, place: [a![0], 0, a![1]], heading: 0 }
    if (shape === 'cylinder') {
      const width = round(Math.max(0.01, 2 * Math.hypot(b![0] - a![0], b![1] - a![1])))
      return { shape: { shape, width, depth: width, ...plain }, place: [a![0], 0, a![1]], heading: 0 }
    }
    const { middle, width, depth, heading } = rectangleOnGround(a!, b!, c!)
    if (depth < 0.005 || width < 0.005) throw new Error('That is too thin: click its opposite edge farther off.')
    return {
      shape: { shape, width: round(width), depth: round(depth), ...plain },
      place: [round(middle[0]), 0, round(middle[1])],
      heading: round(heading),
    }
  }

  /** Lines of the world that show what is there so far, with the pointer as the next click. */
  ghost(place: Place): [Vector3, Vector3][] {
    const lines: [Vector3, Vector3][] = []
    const flat = (x: number, z: number, y = 0): Vector3 => [x, y, z]
    let at: [number, number] | undefined
    try {
      at = this.onGround(place)
    } catch {
      /* above the horizon: only heights can be shown */
    }
    const { shape, ground } = this
    const ring = (x: number, z: number, radius: number, y: number): void => {
      for (let i = 0; i < 36; i++) {
        const a = (i / 18) * Math.PI
        const b = ((i + 1) / 18) * Math.PI
        lines.push([
          flat(x + radius * Math.cos(a), z + radius * Math.sin(a), y),
          flat(x + radius * Math.cos(b), z + radius * Math.sin(b), y),
        ])
      }
    }
    const loop = (corners: readonly (readonly [number, number])[], y: number): void =>
      corners.forEach((corner, i) => {
        const next = corners[(i + 1) % corners.length]!
        lines.push([flat(corner[0], corner[1], y), flat(next[0], next[1], y)])
      })
    if (!ground.length) return lines
    if (shape === 'profile') {
      const [x, z] = ground[0]!
      const beside = besideFoot(this.camera, this.aspect, this.foot(), place)
      const line = [
        ...this.profile,
        ...(beside ? [[Math.max(0.001, Math.abs(beside[0])), Math.max(0, beside[1])] as [number, number]] : []),
      ]
      for (const [r, y] of line) ring(x, z, r, y)
      lines.push([flat(x, z), flat(x, z, Math.max(0.2, ...line.map(p => p[1])))])
      return lines
    }
    if (shape === 'ball') {
      const tall = this.height(place)
      const [x, z] = ground[0]!
      ring(x, z, tall / 2, tall / 2)
      for (let i = 0; i < 36; i++) {
        const a = (i / 18) * Math.PI
        const b = ((i + 1) / 18) * Math.PI
        lines.push([
          flat(x + (Math.sin(a) * tall) / 2, z, tall / 2 - (Math.cos(a) * tall) / 2),
          flat(x + (Math.sin(b) * tall) / 2, z, tall / 2 - (Math.cos(b) * tall) / 2),
        ])
      }
      return lines
    }
    if (shape === 'cylinder') {
      const [x, z] = ground[0]!
      if (ground.length === 1) {
        if (at) ring(x, z, Math.hypot(at[0] - x, at[1] - z), 0)
      } else {
        const radius = Math.hypot(ground[1]![0] - x, ground[1]![1] - z)
        const tall = this.height(place)
        ring(x, z, radius, 0)
        ring(x, z, radius, tall)
      }
      return lines
    }
    if (shape === 'outline') {
      const corners = this.closed || !at ? ground : [...ground, at]
      loop(corners, 0)
      if (this.closed) {
        const tall = this.height(place)
        loop(corners, tall)
        for (const [x, z] of corners) lines.push([flat(x, z), flat(x, z, tall)])
      }
      return lines
    }
    const [a, b, c] = ground
    if (!b) {
      if (at) lines.push([flat(...a!), flat(...at)])
    } else {
      const third = c ?? at
      if (!third) return lines
      const { corners } = rectangleOnGround(a!, b, third)
      loop(corners, 0)
      if (c) {
        const tall = this.height(place)
        loop(corners, tall)
        for (const [x, z] of corners) lines.push([flat(x, z), flat(x, z, tall)])
      }
    }
    return lines
  }
}
