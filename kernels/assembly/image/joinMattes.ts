import { JoinMattesArguments } from '../../build/arguments'

// The same of four and of one
@inline
function joined4(a: v128, b: v128, how: i32): v128 {
  const both = f32x4.mul(a, b)
  if (how == 0) return f32x4.sub(f32x4.add(a, b), both)
  if (how == 1) return f32x4.sub(a, both)
  if (how == 2) return both
  return f32x4.sub(f32x4.add(a, b), f32x4.add(both, both))
}


@final
@unmanaged
export class JoinMattes extends JoinMattesArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let first = this.first.single(x0, y)
    let second = this.second.single(x0, y)
    let to = this.out.single(x0, y)
    const how = this.how
    let x = x0
    for (; x < x1 - 3; x += 4, first += 16, second += 16, to += 16)
      v128.store(to, joined4(v128.load(first), v128.load(second), how))
    for (; x < x1; x++, first += 4, second += 4, to += 4)
      store<f32>(to, f32x4.extract_lane(joined4(f32x4.splat(load<f32>(first)), f32x4.splat(load<f32>(second)), how), 0))
  }
}
