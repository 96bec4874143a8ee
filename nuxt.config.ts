import vuetify from 'vite-plugin-vuetify'

const decorators = { compilerOptions: { experimentalDecorators: true, target: 'es2022' as const } }
const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
}

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  telemetry: false,
  // One server, one build: nothing to fetch about other versions, least of all while the server is away
  experimental: { appManifest: false },
  devtools: { enabled: false },
  modules: [
    '@pinia/nuxt',
    (_options, nuxt) => {
      nuxt.hooks.hook('vite:extendConfig', config => {
        ;(config.plugins as unknown[]).push(vuetify({ autoImport: true }))
      })
    },
  ],
  css: [
    '@fontsource-variable/atkinson-hyperlegible-next/index.css',
    '@fontsource-variable/atkinson-hyperlegible-mono/index.css',
    'vuetify/styles',
    '~/assets/main.css',
  ],
  build: { transpile: ['vuetify'] },
  imports: { scan: false },
  // Ours is an ordinary folder; the framework's own meaning of 'shared' (left out of the page's server bundle) would
  // break imports from it
  dir: { shared: 'unused-framework-shared' },
  components: { dirs: ['~/components'] },
  app: {
    head: {
      title: 'Northmist',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
    },
  },
  // Only for pages: a top-level `ssr: false` breaks the development server in this version
  routeRules: { '/**': { ssr: false, headers: isolation } },
  vite: {
    esbuild: { tsconfigRaw: decorators },
    build: { cssMinify: 'lightningcss', target: 'es2022' },
    worker: { format: 'es' },
    server: { headers: isolation },
  },
  nitro: {
    esbuild: { options: { tsconfigRaw: decorators, target: 'es2022' } },
    moduleSideEffects: ['reflect-metadata'],
    experimental: { asyncContext: false },
    typescript: { tsConfig: decorators },
    publicAssets: [
      { dir: '../kernels/build', baseURL: '/kernels', maxAge: 0 },
      ...[
        ['draco', 'draco/gltf'],
        ['basis', 'basis'],
      ].map(([name, folder]) => ({
        dir: `../node_modules/three/examples/jsm/libs/${folder}`,
        baseURL: `/codecs/${name}`,
      })),
    ],
  },
  typescript: {
    tsConfig: { ...decorators, include: ['../core/**/*', '../shared/**/*'] },
    nodeTsConfig: decorators,
    sharedTsConfig: decorators,
  } as never,
})
