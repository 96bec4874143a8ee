// Areas of pixels: from left, top up to right, bottom, which are not in them any more.
export interface Box {
  left: number
  top: number
  right: number
  bottom: number
}

export const boxOf = (width: number, height: number): Box => ({ left: 0, top: 0, right: width, bottom: height })
export const widthOf = ({ left, right }: Box): number => Math.max(0, right - left)
export const heightOf = ({ top, bottom }: Box): number => Math.max(0, bottom - top)
export const isEmpty = ({ left, top, right, bottom }: Box): boolean => right <= left || bottom <= top
export const NOWHERE: Box = { left: 0, top: 0, right: 0, bottom: 0 }

/** What lies in both. */
export function common(a: Box, b: Box): Box {
  const box = {
    left: Math.max(a.left, b.left),
    top: Math.max(a.top, b.top),
    right: Math.min(a.right, b.right),
    bottom: Math.min(a.bottom, b.bottom),
  }
  return isEmpty(box) ? NOWHERE : box
}
/** The least box that holds both. */
export function around(a: Box, b: Box): Box {
  if (isEmpty(a)) return b
  if (isEmpty(b)) return a
  return {
    left: Math.min(a.left, b.left),
    top: Math.min(a.top, b.top),
    right: Math.max(a.right, b.right),
    bottom: Math.max(a.bottom, b.bottom),
  }
}
export const grown = ({ left, top, right, bottom }: Box, by: number): Box => ({
  left: left - by,
  top: top - by,
  right: right + by,
  bottom: bottom + by,
})
export const moved = ({ left, top, right, bottom }: Box, dx: number, dy: number): Box => ({
  left: left + dx,
  top: top + dy,
  right: right + dx,
  bottom: bottom + dy,
})
export const holds = (outer: Box, inner: Box): boolean =>
  isEmpty(inner) ||
  (outer.left <= inner.left && outer.top <= inner.top && outer.right >= inner.right && outer.bottom >= inner.bottom)
export const sameBox = (a: Box, b: Box): boolean =>
  a.left === b.left && a.top === b.top && a.right === b.right && a.bottom === b.bottom
