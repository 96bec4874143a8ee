// A program is a row of steps, each a kernel with its arguments. It runs band by band, so that what one step wrote is
// still in the cache when the next one reads it; pictures of one band live in room that each thread has of its own.
import { dispatch } from '../build/dispatch'
import * as L from './layout'
import { Raster } from './raster'

let ownArguments: usize = 0
let ownThread: usize = 0

export function initProgram(scratch: usize, thread: i32): void {
  ownArguments = scratch + L.SCRATCH_ARGUMENTS
  ownThread = <usize>thread
}

/** Runs one band of the program that stands in the control block. */
export function runBand(band: i32): void {
  const left = load<i32>(L.CONTROL_LEFT)
  const right = load<i32>(L.CONTROL_RIGHT)
  const rows = load<i32>(L.CONTROL_ROWS)
  const top = load<i32>(L.CONTROL_TOP) + band * rows
  const bottom = min(load<i32>(L.CONTROL_BOTTOM), top + rows)
  const room = <usize>load<u32>(L.CONTROL_ROOM) + ownThread * <usize>load<u32>(L.CONTROL_THREAD_ROOM)
  const slot = <usize>load<u32>(L.CONTROL_SLOT)
  let step = <usize>load<u32>(L.CONTROL_STEPS)
  for (let i = load<i32>(L.CONTROL_STEP_COUNT); i > 0; i--) {
    const x0 = max(left, load<i32>(step, L.STEP_LEFT))
    const y0 = max(top, load<i32>(step, L.STEP_TOP))
    const x1 = min(right, load<i32>(step, L.STEP_RIGHT))
    const y1 = min(bottom, load<i32>(step, L.STEP_BOTTOM))
    const bytes = load<i32>(step, L.STEP_BYTES)
    if (x0 < x1 && y0 < y1) {
      const kernel = load<i32>(step, L.STEP_KERNEL)
      const formula = kernel >= L.FORMULA_FIRST
      // Of a row of points only the pictures: its numbers are read where they stand
      const size = formula
        ? <usize>load<i32>(step, L.STEP_RASTERS) * offsetof<Raster>()
        : <usize>(bytes - L.STEP_ARGUMENTS)
      for (let at: usize = 0; at < size; at += 16)
        v128.store(ownArguments + at, v128.load(step + L.STEP_ARGUMENTS + at))
      let raster = changetype<Raster>(ownArguments)
      for (let k = load<i32>(step, L.STEP_RASTERS); k > 0; k--) {
        const number = raster.pointer
        if (number > 0 && number < <usize>L.SLOTS) {
          raster.pointer = room + (number - 1) * slot
          raster.left = left
          raster.top = top
          raster.right = right
          raster.bottom = bottom
          raster.stride = right - left
        }
        raster = changetype<Raster>(changetype<usize>(raster) + offsetof<Raster>())
      }
      if (formula) call_indirect<void>(kernel, ownArguments, step + L.STEP_ARGUMENTS, x0, y0, x1, y1)
      else dispatch(kernel, ownArguments, x0, y0, x1, y1)
    }
    step += <usize>bytes
  }
}
