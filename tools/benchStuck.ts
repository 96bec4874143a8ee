// Speed of finding the places of a drawing: a ball of 363 000 pixels at 1280x720 that has turned by 23 degrees.
import { RestSurface, seenOn, type RestSeen } from '../core/stuck/surface'
import { medians, type Figure } from './figures'

const [WIDTH, HEIGHT, RADIUS] = [1280, 720, 340]
function turned(by: number): RestSeen {
  const count = WIDTH * HEIGHT
  const [x, y, z] = [new Float32Array(count), new Float32Array(count), new Float32Array(count)]
  const thing = new Uint32Array(count)
  const [cos, sin] = [Math.cos(by), Math.sin(by)]
  for (let i = 0; i < count; i++) {
    const u = ((i % WIDTH) + 0.5 - WIDTH / 2) / RADIUS
    const v = (Math.floor(i / WIDTH) + 0.5 - HEIGHT / 2) / RADIUS
    const rest = 1 - u * u - v * v
    if (rest <= 0) continue
    const w = Math.sqrt(rest)
    x[i] = u * cos + w * sin
    y[i] = -v
    z[i] = w * cos - u * sin
    thing[i] = 1
  }
  return { width: WIDTH, height: HEIGHT, x, y, z, thing }
}

export function stuckFigures(wanted: (name: string) => boolean): Figure[] {
  if (!wanted('stuck.surface') && !wanted('stuck.places')) return []
  const [drawn, now] = [turned(0), turned(0.4)]
  const surface = new RestSurface(drawn)
  let sum = 0
  const [read, indexed, found] = medians(
    5,
    () => {
      // The same planes, each of whose numbers is looked at once
      for (let i = 0; i < now.thing.length; i++)
        if (now.thing[i]) sum += Math.hypot(now.x[i]! - drawn.x[i]!, now.y[i]! - drawn.y[i]!, now.z[i]! - drawn.z[i]!)
    },
    () => {
      sum += new RestSurface(drawn).find(1, 0, 0, 1)?.[0] ?? 0
    },
    () => {
      sum += seenOn(surface, now)[0]!
    },
  )
  if (!Number.isFinite(sum)) throw new Error('The ball of the bench is broken.')
  const against = 'each pixel compared with the one there before, in JavaScript'
  return [
    { name: 'stuck.surface', value: indexed, unit: 'ms', against, ratio: read / indexed },
    { name: 'stuck.places', value: found, unit: 'ms', against, ratio: read / found },
  ].filter(({ name }) => wanted(name))
}
