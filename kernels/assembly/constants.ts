// Literals with a type: AssemblyScript reads a bare `1 - x` as integer arithmetic.
export const ONE: f32 = 1
export const TWO: f32 = 2
export const HALF: f32 = 0.5
