// Bytes of file formats. OpenEXR's ZIP and RLE store the even bytes before the odd ones, and each as its difference
// from the one before.

/**
 * Undoes both for `size` bytes at `source` (which it changes) into `out`. Both need 32 bytes of room behind their end.
 */
export function restoreBytes(source: usize, out: usize, size: i32): void {
  const bias = i8x16.splat(-128)
  const zero = i8x16.splat(0)
  // Running sum, sixteen at a time: four steps of doubling reach, then the sum so far
  let carry = i8x16.splat(-128)
  for (let at: usize = 0; at < <usize>size; at += 16) {
    let x = i8x16.add(v128.load(source + at), bias)
    x = i8x16.add(x, i8x16.shuffle(x, zero, 16, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14))
    x = i8x16.add(x, i8x16.shuffle(x, zero, 16, 16, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13))
    x = i8x16.add(x, i8x16.shuffle(x, zero, 16, 16, 16, 16, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11))
    x = i8x16.add(x, i8x16.shuffle(x, zero, 16, 16, 16, 16, 16, 16, 16, 16, 0, 1, 2, 3, 4, 5, 6, 7))
    x = i8x16.add(x, carry)
    v128.store(source + at, x)
    carry = i8x16.shuffle(x, x, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15)
  }
  const odd = source + ((<usize>(size + 1)) >> 1)
  for (let at: usize = 0; at < <usize>((size + 1) >> 1); at += 16) {
    const a = v128.load(source + at)
    const b = v128.load(odd + at)
    v128.store(out + at * 2, i8x16.shuffle(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23))
    v128.store(out + at * 2, i8x16.shuffle(a, b, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16)
  }
}
