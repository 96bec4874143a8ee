// Byte layouts that the kernels and the TypeScript that feeds them share.
export * from './layout/pool'
export * from './layout/scene'
export * from './layout/render'
export * from './layout/water'
