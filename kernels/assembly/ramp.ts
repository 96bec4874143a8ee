// Soft ends of a range.

/** 1 from low to high, falling smoothly to 0 over `soft` outside each end; invert: 1 less that. */
@inline
export function inRange(value: f32, low: f32, high: f32, soft: f32, invert: i32): f32 {
  let inside: f32 = 1
  if (value < low) inside = soft > 0 ? max<f32>(0, <f32>1 - (low - value) / soft) : 0
  else if (value > high) inside = soft > 0 ? max<f32>(0, <f32>1 - (value - high) / soft) : 0
  // Without a kink at either end
  inside = inside * inside * (<f32>3 - inside - inside)
  return invert ? <f32>1 - inside : inside
}
