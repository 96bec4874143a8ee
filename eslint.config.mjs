import { defineConfig } from 'eslint/config'
import tseslint from 'typescript-eslint'
import vue from 'eslint-plugin-vue'

// Imports go one way: app, server, cli -> shared -> core -> kernels; inside core a folder imports only from those above
// it in this list. formats stands above render but names two of its types (coverage), which are type-only.
const below = {
  kernels: ['app', 'server', 'cli', 'shared', 'core', 'host', 'demo'],
  core: ['app', 'server', 'cli', 'shared', 'host', 'demo'],
  shared: ['app', 'server', 'cli', 'host', 'demo'],
  host: ['app', 'server', 'cli', 'shared', 'demo'],
  app: ['server', 'cli', 'host', 'demo'],
  server: ['app', 'cli', 'demo'],
  cli: ['app', 'server', 'demo'],
}
/** What the browser runs too. */
const BROWSER = ['kernels', 'core', 'shared', 'app']
const CORE_ORDER = [
  'text',
  'declare',
  'engine',
  'lens',
  'plan',
  'colour',
  'scene',
  'formats',
  'match',
  'render',
  'matte',
  'treatment',
  'layer',
  'time',
  'track',
  'shot',
  'compose',
]
const above = folder => CORE_ORDER.slice(CORE_ORDER.indexOf(folder) + 1)

export default defineConfig(
  {
    ignores: [
      'node_modules',
      '.nuxt',
      '.output',
      '.build',
      '.data',
      'kernels/build',
      'test-results',
      'server/database/migrations',
    ],
  },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/essential'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: tseslint.parser } } },
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-undef': 'off',
      'vue/multi-word-component-names': 'off',
      'one-var': ['error', 'never'],
      '@typescript-eslint/no-unused-expressions': ['error', { allowTernary: true, allowShortCircuit: true }],
    },
  },
  // AssemblyScript is held to form only: its types are its own compiler's business
  {
    files: ['kernels/assembly/**/*.ts'],
    languageOptions: { parserOptions: { allowInvalidAST: true } },
    rules: {
      ...Object.fromEntries(
        tseslint.configs.recommended.flatMap(({ rules }) => Object.keys(rules ?? {})).map(rule => [rule, 'off']),
      ),
      'no-restricted-imports': 'off',
    },
  },
  ...Object.entries(below).map(([folder, forbidden]) => ({
    files: [`${folder}/**/*.{ts,vue}`],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            ...forbidden.map(other => ({
              regex: `(^|/)${other}/`,
              message: `${folder} must not import from ${other}.`,
            })),
            ...(BROWSER.includes(folder)
              ? [{ regex: '^node:', message: `${folder} runs in the browser, where there is no Node.` }]
              : []),
          ],
        },
      ],
    },
  })),
  ...CORE_ORDER.map(folder => ({
    files: [`core/${folder}/**/*.ts`],
    ignores: ['**/*.test.ts'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: above(folder).map(other => ({
            regex: `^(\\.\\./)+${other}/`,
            allowTypeImports: true,
            message: `core/${folder} must not import from core/${other}.`,
          })),
        },
      ],
    },
  })),
)
