// Arguments of image kernels: words in the control block.
@inline
export function pointer(args: usize, word: usize): usize {
  return <usize>load<u32>(args + (word << 2))
}


@inline
export function whole(args: usize, word: usize): i32 {
  return load<i32>(args + (word << 2))
}


@inline
export function number(args: usize, word: usize): f32 {
  return load<f32>(args + (word << 2))
}
