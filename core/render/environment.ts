// The environment picture and the tables by which it is sampled: by rows, then along a row (piecewise constant, as in
// M. Pharr, W. Jakob, G. Humphreys, "Physically Based Rendering", 3rd ed., section 14.2.4).
import * as L from '../../kernels/assembly/layout'
import { luminanceAt } from '../colour/luminance'
import type { Kernels } from '../engine/memory'
import type { Environment } from '../scene/scene'

const GRID_WIDTH = 256
const GRID_HEIGHT = 128

export function placeEnvironment(
  kernels: Kernels,
  record: number,
  environment: Environment,
  own: (pointer: number) => number,
): void {
  const { width, height, pixels } = environment
  const gridWidth = Math.min(GRID_WIDTH, width)
  const gridHeight = Math.min(GRID_HEIGHT, height)
  const weight = new Float64Array(gridWidth * gridHeight)
  for (let y = 0; y < height; y++) {
    const gy = Math.min(gridHeight - 1, Math.floor((y * gridHeight) / height))
    const sine = Math.sin((Math.PI * (y + 0.5)) / height)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4
      const value = luminanceAt(pixels, at) * sine
      if (value > 0 && value < 1e30)
        weight[gy * gridWidth + Math.min(gridWidth - 1, Math.floor((x * gridWidth) / width))]! += value
    }
  }
  let sum = 0
  for (const value of weight) sum += value
  // A floor keeps interpolated borders of dark cells from weighing too much
  const floor = sum > 0 ? (sum / weight.length) * 0.02 : 1
  sum = 0
  for (let i = 0; i < weight.length; i++) {
    weight[i]! += floor * Math.sin((Math.PI * (Math.floor(i / gridWidth) + 0.5)) / gridHeight)
    sum += weight[i]!
  }
  const marginal = new Float32Array(gridHeight)
  const conditional = new Float32Array(gridWidth * gridHeight)
  const density = new Float32Array(gridWidth * gridHeight)
  let total = 0
  for (let y = 0; y < gridHeight; y++) {
    let row = 0
    for (let x = 0; x < gridWidth; x++) row += weight[y * gridWidth + x]!
    total += row
    marginal[y] = total / sum
    let along = 0
    for (let x = 0; x < gridWidth; x++) {
      along += weight[y * gridWidth + x]!
      conditional[y * gridWidth + x] = along / row
      density[y * gridWidth + x] = (weight[y * gridWidth + x]! / sum) * gridWidth * gridHeight
    }
    conditional[(y + 1) * gridWidth - 1] = 1
  }
  marginal[gridHeight - 1] = 1
  const picture = own(kernels.place(pixels))
  const marginalPointer = own(kernels.place(marginal))
  const conditionalPointer = own(kernels.place(conditional))
  const densityPointer = own(kernels.place(density))
  const words = kernels.words(record, L.SCENE_SIZE / 4)
  const floats = kernels.floats(record, L.SCENE_SIZE / 4)
  words[L.SCENE_ENVIRONMENT >> 2] = picture
  words[L.SCENE_ENVIRONMENT_WIDTH >> 2] = width
  words[L.SCENE_ENVIRONMENT_HEIGHT >> 2] = height
  words[L.SCENE_ENVIRONMENT_MARGINAL >> 2] = marginalPointer
  words[L.SCENE_ENVIRONMENT_CONDITIONAL >> 2] = conditionalPointer
  words[L.SCENE_ENVIRONMENT_GRID_WIDTH >> 2] = gridWidth
  words[L.SCENE_ENVIRONMENT_GRID_HEIGHT >> 2] = gridHeight
  words[L.SCENE_ENVIRONMENT_DENSITY >> 2] = densityPointer
  floats[L.SCENE_ENVIRONMENT_TURN >> 2] = -environment.turn / 360
  floats.set(environment.gain, L.SCENE_ENVIRONMENT_GAIN >> 2)
}
