// Before any test: kernels compiled and bundles made, as the start command does it.
export default async function setup(): Promise<void> {
  const { buildKernels } = await import('../tools/build-kernels.mjs' as string)
  await buildKernels()
  const { bundle } = await import('../tools/bundle.mjs' as string)
  await bundle()
}
