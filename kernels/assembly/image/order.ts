// Which of a few values is less, of four channels at once. What is compared must be numbers.

@inline
export function lesser(a: v128, b: v128): v128 {
  return f32x4.pmin(a, b)
}


@inline
export function greater(a: v128, b: v128): v128 {
  return f32x4.pmax(a, b)
}

/** The middle one of three. */
@inline
export function middleOf(a: v128, b: v128, c: v128): v128 {
  return greater(lesser(a, b), lesser(greater(a, b), c))
}

/** The same where a is not greater than c. */
@inline
export function middleBetween(a: v128, b: v128, c: v128): v128 {
  return greater(a, lesser(b, c))
}
