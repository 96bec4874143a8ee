// Builds the four-wide hierarchy: binned surface area heuristic (I. Wald, "On fast construction of SAH-based bounding
// volume hierarchies", 2007), each node opened into up to four children by splitting the costliest child first.
import * as L from './layout'

const BINS = 16
const TRIANGLES_A_LEAF = 4
const bins = memory.data(48 * 16 * 3, 16) // per axis and bin: min v128, max v128, count
const suffixCost = memory.data(64)

let boxes: usize = 0 // per triangle: min xyz, max xyz as two v128
let order: usize = 0
let nodes: usize = 0
let packets: usize = 0
let triangles: usize = 0
let vertices: usize = 0
let flags: usize = 0
let nodeCount: i32 = 0
let packetCount: i32 = 0
let frames: usize = 0
// Over places a leaf is one of them, by its code; over triangles up to four in a packet, numbered from `first`
let codes: usize = 0
let leaf: i32 = 4
let first: i32 = 0

export function builtNodes(): i32 {
  return nodeCount
}
export function builtPackets(): i32 {
  return packetCount
}


@inline
function area(low: v128, high: v128): f32 {
  const d = f32x4.sub(high, low)
  const x = f32x4.extract_lane(d, 0)
  const y = f32x4.extract_lane(d, 1)
  const z = f32x4.extract_lane(d, 2)
  return x < 0 ? 0 : x * y + y * z + z * x
}


@inline
function boxOf(index: i32): usize {
  return boxes + ((<usize>load<u32>(order + ((<usize>index) << 2))) << 5)
}


@inline
function packetsFor(count: i32): f32 {
  return <f32>((count + 3) >> 2)
}

let foundMiddle: i32 = 0

/** Splits order[begin, end) in two, leaving the border in foundMiddle. */
function split(begin: i32, end: i32): void {
  // Bounds of the centres (twice the centre: min + max)
  let low = f32x4.splat(1e30)
  let high = f32x4.splat(-1e30)
  for (let i = begin; i < end; i++) {
    const box = boxOf(i)
    const centre = f32x4.add(v128.load(box), v128.load(box, 16))
    low = f32x4.pmin(centre, low)
    high = f32x4.pmax(centre, high)
  }
  const extent = f32x4.sub(high, low)
  const scale = f32x4.div(f32x4.splat(<f32>BINS * 0.9999), f32x4.max(extent, f32x4.splat(1e-20)))
  const blank = f32x4.splat(1e30)
  const blankHigh = f32x4.splat(-1e30)
  for (let i: usize = 0; i < <usize>(BINS * 3); i++) {
    const bin = bins + i * 48
    v128.store(bin, blank)
    v128.store(bin, blankHigh, 16)
    store<i32>(bin, 0, 32)
  }
  const limit = i32x4.splat(BINS - 1)
  const zero = i32x4.splat(0)
  for (let i = begin; i < end; i++) {
    const box = boxOf(i)
    const minimum = v128.load(box)
    const maximum = v128.load(box, 16)
    const cell = i32x4.max_s(
      zero,
      i32x4.min_s(limit, i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.add(minimum, maximum), low), scale))),
    )
    const a = bins + <usize>i32x4.extract_lane(cell, 0) * 48
    v128.store(a, f32x4.pmin(v128.load(a), minimum))
    v128.store(a, f32x4.pmax(v128.load(a, 16), maximum), 16)
    store<i32>(a, load<i32>(a, 32) + 1, 32)
    const b = bins + <usize>(BINS + i32x4.extract_lane(cell, 1)) * 48
    v128.store(b, f32x4.pmin(v128.load(b), minimum))
    v128.store(b, f32x4.pmax(v128.load(b, 16), maximum), 16)
    store<i32>(b, load<i32>(b, 32) + 1, 32)
    const c = bins + <usize>(BINS * 2 + i32x4.extract_lane(cell, 2)) * 48
    v128.store(c, f32x4.pmin(v128.load(c), minimum))
    v128.store(c, f32x4.pmax(v128.load(c, 16), maximum), 16)
    store<i32>(c, load<i32>(c, 32) + 1, 32)
  }
  let bestCost: f32 = 1e38
  let bestAxis = -1
  let bestBin = 0
  for (let axis = 0; axis < 3; axis++) {
    const base = bins + <usize>(axis * BINS) * 48
    let boxLow = blank
    let boxHigh = blankHigh
    let count = 0
    for (let bin = BINS - 1; bin > 0; bin--) {
      const at = base + <usize>bin * 48
      boxLow = f32x4.pmin(boxLow, v128.load(at))
      boxHigh = f32x4.pmax(boxHigh, v128.load(at, 16))
      count += load<i32>(at, 32)
      store<f32>(suffixCost + ((<usize>bin) << 2), count ? area(boxLow, boxHigh) * packetsFor(count) : -1)
    }
    boxLow = blank
    boxHigh = blankHigh
    count = 0
    for (let bin = 0; bin < BINS - 1; bin++) {
      const at = base + <usize>bin * 48
      boxLow = f32x4.pmin(boxLow, v128.load(at))
      boxHigh = f32x4.pmax(boxHigh, v128.load(at, 16))
      count += load<i32>(at, 32)
      const right = load<f32>(suffixCost + ((<usize>(bin + 1)) << 2))
      if (count == 0 || right < 0) continue
      const cost = area(boxLow, boxHigh) * packetsFor(count) + right
      if (cost < bestCost) {
        bestCost = cost
        bestAxis = axis
        bestBin = bin
      }
    }
  }
  if (bestAxis < 0) {
    foundMiddle = (begin + end) >> 1
    return
  }
  let left = begin
  let right = end - 1
  const lowAxis =
    bestAxis == 0 ? f32x4.extract_lane(low, 0) : bestAxis == 1 ? f32x4.extract_lane(low, 1) : f32x4.extract_lane(low, 2)
  const scaleAxis =
    bestAxis == 0
      ? f32x4.extract_lane(scale, 0)
      : bestAxis == 1
        ? f32x4.extract_lane(scale, 1)
        : f32x4.extract_lane(scale, 2)
  const field = (<usize>bestAxis) << 2
  while (left <= right) {
    const box = boxOf(left)
    const cell = max(
      0,
      min(BINS - 1, <i32>((load<f32>(box + field) + load<f32>(box + field, 16) - lowAxis) * scaleAxis)),
    )
    if (cell <= bestBin) left++
    else {
      const a = order + ((<usize>left) << 2)
      const b = order + ((<usize>right) << 2)
      const held = load<u32>(a)
      store<u32>(a, load<u32>(b))
      store<u32>(b, held)
      right--
    }
  }
  foundMiddle = left == begin || left == end ? (begin + end) >> 1 : left
}

let boundsLow: v128 = f32x4.splat(0)
let boundsHigh: v128 = f32x4.splat(0)
function bounds(begin: i32, end: i32): void {
  let low = f32x4.splat(1e30)
  let high = f32x4.splat(-1e30)
  for (let i = begin; i < end; i++) {
    const box = boxOf(i)
    low = f32x4.pmin(low, v128.load(box))
    high = f32x4.pmax(high, v128.load(box, 16))
  }
  boundsLow = low
  boundsHigh = high
}

function makePacket(begin: i32, end: i32): i32 {
  const packet = packets + <usize>packetCount * L.PACKET_STRIDE
  memory.fill(packet, 0, L.PACKET_STRIDE)
  for (let lane = 0; lane < 4; lane++) {
    const at = packet + ((<usize>lane) << 2)
    if (begin + lane >= end) {
      store<i32>(at, L.FLAG_EMPTY, L.PACKET_FLAGS)
      store<i32>(at, -1, L.PACKET_INDEX)
      continue
    }
    const index = load<u32>(order + ((<usize>(begin + lane)) << 2)) + first
    const record = triangles + <usize>index * L.TRIANGLE_STRIDE
    const a = vertices + <usize>load<u32>(record) * L.VERTEX_STRIDE
    const b = vertices + <usize>load<u32>(record, 4) * L.VERTEX_STRIDE
    const c = vertices + <usize>load<u32>(record, 8) * L.VERTEX_STRIDE
    for (let axis: usize = 0; axis < 12; axis += 4) {
      const origin = load<f32>(a + axis)
      store<f32>(at + (axis << 2), origin)
      store<f32>(at + (axis << 2), load<f32>(b + axis) - origin, 48)
      store<f32>(at + (axis << 2), load<f32>(c + axis) - origin, 96)
    }
    store<u32>(at, index, L.PACKET_INDEX)
    store<u32>(at, load<u32>(flags + ((<usize>index) << 2)), L.PACKET_FLAGS)
  }
  return packetCount++
}

/** A node over order[begin, end); `depth` picks the frame that holds its four ranges. */
function makeNode(begin: i32, end: i32, depth: i32): i32 {
  const index = nodeCount++
  const frame = frames + ((<usize>depth) << 6) // 4 ranges of begin, end, cost
  store<i32>(frame, begin)
  store<i32>(frame, end, 4)
  store<f32>(frame, 1, 8)
  let count = 1
  while (count < 4) {
    let chosen = -1
    let cost: f32 = -1
    for (let child = 0; child < count; child++) {
      const range = frame + <usize>child * 12
      if (load<i32>(range, 4) - load<i32>(range) > leaf && load<f32>(range, 8) > cost) {
        cost = load<f32>(range, 8)
        chosen = child
      }
    }
    if (chosen < 0) break
    const range = frame + <usize>chosen * 12
    const extra = frame + <usize>count * 12
    const from = load<i32>(range)
    const to = load<i32>(range, 4)
    split(from, to)
    store<i32>(range, foundMiddle, 4)
    store<i32>(extra, foundMiddle)
    store<i32>(extra, to, 4)
    bounds(from, foundMiddle)
    store<f32>(range, area(boundsLow, boundsHigh) * <f32>(foundMiddle - from), 8)
    bounds(foundMiddle, to)
    store<f32>(extra, area(boundsLow, boundsHigh) * <f32>(to - foundMiddle), 8)
    count++
  }
  const node = nodes + <usize>index * L.NODE_STRIDE
  for (let child = 0; child < 4; child++) {
    const at = node + ((<usize>child) << 2)
    if (child >= count) {
      for (let axis: usize = 0; axis < 48; axis += 16) {
        store<f32>(at + axis, 1e30)
        store<f32>(at + axis, -1e30, 48)
      }
      store<i32>(at, -1, L.NODE_CHILD)
      continue
    }
    const range = frame + <usize>child * 12
    const from = load<i32>(range)
    const to = load<i32>(range, 4)
    bounds(from, to)
    store<f32>(at, f32x4.extract_lane(boundsLow, 0))
    store<f32>(at, f32x4.extract_lane(boundsLow, 1), 16)
    store<f32>(at, f32x4.extract_lane(boundsLow, 2), 32)
    store<f32>(at, f32x4.extract_lane(boundsHigh, 0), 48)
    store<f32>(at, f32x4.extract_lane(boundsHigh, 1), 64)
    store<f32>(at, f32x4.extract_lane(boundsHigh, 2), 80)
    store<i32>(
      at,
      to - from > leaf
        ? makeNode(from, to, depth + 1)
        : codes
          ? load<i32>(codes + ((<usize>load<u32>(order + ((<usize>from) << 2))) << 2))
          : ~makePacket(from, to),
      L.NODE_CHILD,
    )
  }
  return index
}

/** Begins a hierarchy: nodes and packets of all that is built into it are laid one after another. */
export function beginHierarchy(nodesOut: usize, packetsOut: usize): void {
  nodes = nodesOut
  packets = packetsOut
  nodeCount = 0
  packetCount = 0
}

function sizeUp(temporary: usize, count: i32): void {
  frames = temporary
  boxes = temporary + 65536
  order = boxes + ((<usize>count) << 5)
  for (let i = 0; i < count; i++) store<i32>(order + ((<usize>i) << 2), i)
}

/**
 * Adds the tree of `count` triangles from number `start` on; gives its root. temporary: 36 bytes a triangle plus 64
 * KiB, 16-aligned.
 * It takes at most max(1, count) nodes and as many packets. What bounds it is left for boundsOut.
 */
export function buildTriangles(
  start: i32,
  count: i32,
  trianglesIn: usize,
  verticesIn: usize,
  flagsIn: usize,
  temporary: usize,
): i32 {
  triangles = trianglesIn
  vertices = verticesIn
  flags = flagsIn
  codes = 0
  leaf = TRIANGLES_A_LEAF
  first = start
  sizeUp(temporary, count)
  for (let i = 0; i < count; i++) {
    const record = triangles + <usize>(start + i) * L.TRIANGLE_STRIDE
    const a = v128.load(vertices + <usize>load<u32>(record) * L.VERTEX_STRIDE)
    const b = v128.load(vertices + <usize>load<u32>(record, 4) * L.VERTEX_STRIDE)
    const c = v128.load(vertices + <usize>load<u32>(record, 8) * L.VERTEX_STRIDE)
    const box = boxes + ((<usize>i) << 5)
    v128.store(box, f32x4.min(a, f32x4.min(b, c)))
    v128.store(box, f32x4.max(a, f32x4.max(b, c)), 16)
  }
  const root = makeNode(0, count, 0)
  bounds(0, count)
  return root
}
/** Box of what was built last, as two v128: least and greatest corner. */
export function boundsOut(out: usize): void {
  v128.store(out, boundsLow)
  v128.store(out, boundsHigh, 16)
}

/**
 * Adds the tree over `count` places; gives its root. boxesIn: two v128 each; codesIn: what stands at a leaf for each.
 * temporary as for so many triangles.
 */
export function buildPlaces(count: i32, boxesIn: usize, codesIn: usize, temporary: usize): i32 {
  codes = codesIn
  leaf = 1
  sizeUp(temporary, count)
  memory.copy(boxes, boxesIn, (<usize>count) << 5)
  return makeNode(0, count, 0)
}
