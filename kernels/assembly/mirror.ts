// What stands beyond the edge of a picture, where it goes on as in a mirror: a b c | c b a.

/** The place between low and high (which is beyond) that a place shows. */
@inline
export function mirrored(at: i32, low: i32, high: i32): i32 {
  while (at < low || at >= high) at = at < low ? 2 * low - 1 - at : 2 * high - 1 - at
  return at
}
