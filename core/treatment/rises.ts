// How what a pixel shows rises with its distance.
import type { Camera } from '../scene/scene'

/** What rises by how much on a step of one metre along the view axis, and the camera's height. */
export function risesOf({ matrix, focalLength, sensorWidth, shiftX, shiftY }: Camera, width: number, height: number) {
  // Half of what is seen at one metre, across; pixels are square
  const side = sensorWidth / focalLength / width
  return {
    sideX: side,
    // Down the picture is down in the world
    sideY: -side,
    middleX: width / 2 - (shiftX * width) / 2,
    middleY: height / 2 + (shiftY * height) / 2,
    riseX: matrix[1]!,
    riseY: matrix[5]!,
    rise0: -matrix[9]!,
    height: matrix[13]!,
  }
}
