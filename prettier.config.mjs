// One form for all code. Markdown, JSON and generated files keep their own.
export default {
  printWidth: 120,
  semi: false,
  singleQuote: true,
  arrowParens: 'avoid',
  objectWrap: 'collapse',
  vueIndentScriptAndStyle: false,
  overrides: [{ files: 'kernels/assembly/**/*.ts', options: { plugins: ['assemblyscript-prettier'] } }],
}
