// Specks: drops, flakes and sparks as short lines with a soft border.
import { HALF, ONE } from './constants'
import { SPECK, SPECK_ROWS } from './layout'

/** Numbers of the specks of a row: where they begin and end in the list. */
@inline
export function speckFrom(rows: usize, order: usize, row: i32): usize {
  const first = load<f32>(rows + ((<usize>(row / SPECK_ROWS)) << 2))
  return order + ((<usize>first) << 2)
}


@inline
export function speckAt(specks: usize, at: usize): usize {
  return specks + <usize>load<f32>(at) * SPECK
}
/** The first and the last pixel and one of a row that a speck may cover. */
@inline
export function speckLeft(speck: usize, x0: i32): i32 {
  return max(x0, <i32>load<f32>(speck, 48))
}


@inline
export function speckRight(speck: usize, x1: i32): i32 {
  return min(x1, <i32>load<f32>(speck, 56))
}


@inline
export function isInRow(speck: usize, y: i32): bool {
  return <f32>y >= load<f32>(speck, 52) && <f32>y < load<f32>(speck, 60)
}

/** How much of a pixel a speck covers. */
@inline
export function speckCover(speck: usize, x: i32, y: i32): f32 {
  const px = <f32>x + HALF - load<f32>(speck)
  const py = <f32>y + HALF - load<f32>(speck, 4)
  const wayX = load<f32>(speck, 8)
  const wayY = load<f32>(speck, 12)
  const along = max<f32>(0, min<f32>(1, (px * wayX + py * wayY) * load<f32>(speck, 16)))
  const dx = px - along * wayX
  const dy = py - along * wayY
  const soft = load<f32>(speck, 24)
  const inside = (load<f32>(speck, 20) + soft - sqrt<f32>(dx * dx + dy * dy)) / (soft + soft)
  return max<f32>(0, min<f32>(ONE, inside)) * load<f32>(speck, 28)
}
