// Where places stand to a lamp in the form of a tube.
import { ONE } from './constants'
import * as L from './layout'

export let tubeX: f32 = 0
export let tubeY: f32 = 0
export let tubeZ: f32 = 0 // unit vector from the tube's line to a place, square to the line
export let tubeFar: f32 = 0 // metres from the line
export let tubeLong: f32 = 0 // half length
/** Where a place stands to a tube; false inside it. */
export function besideTube(light: usize, x: f32, y: f32, z: f32): bool {
  const ax = load<f32>(light, L.LIGHT_V)
  const ay = load<f32>(light, L.LIGHT_V + 4)
  const az = load<f32>(light, L.LIGHT_V + 8)
  const long2 = ax * ax + ay * ay + az * az
  const rx = x - load<f32>(light, L.LIGHT_POSITION)
  const ry = y - load<f32>(light, L.LIGHT_POSITION + 4)
  const rz = z - load<f32>(light, L.LIGHT_POSITION + 8)
  const t = (rx * ax + ry * ay + rz * az) / long2
  tubeX = rx - ax * t
  tubeY = ry - ay * t
  tubeZ = rz - az * t
  tubeFar = sqrt<f32>(tubeX * tubeX + tubeY * tubeY + tubeZ * tubeZ)
  if (tubeFar <= load<f32>(light, L.LIGHT_U) * 1.0001) return false
  const scale = ONE / tubeFar
  tubeX *= scale
  tubeY *= scale
  tubeZ *= scale
  tubeLong = sqrt<f32>(long2)
  return true
}
/** Area of the strip of a tube's side that besideTube's place can see. */
@inline
export function seenOfTube(radius: f32): f32 {
  return 4 * Mathf.acos(radius / tubeFar) * radius * tubeLong
}
