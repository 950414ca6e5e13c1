import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

/** Names that Nuxt brings into scope; undefined ones are the type checker's business. */
export default tseslint.config(
  { ignores: ['.nuxt', '.output', '.build', 'node_modules', 'data'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: tseslint.parser } },
    rules: {
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/html-indent': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/attributes-order': 'off',
    },
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'eqeqeq': ['error', 'always', { null: 'ignore' }],
      'no-console': 'error',
    },
  },
  {
    // What differs between engines in the last bit, or is a clock, has no place in the core.
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-properties': ['error',
        ...['sin', 'cos', 'tan', 'atan', 'atan2', 'asin', 'acos', 'exp', 'expm1', 'pow', 'log', 'log2', 'log10', 'log1p', 'cbrt', 'sinh', 'cosh', 'tanh', 'hypot', 'random']
          .map(property => ({ object: 'Math', property, message: 'Its last bit may differ between engines: use core/maths, or a random stream.' })),
        { object: 'Date', property: 'now', message: 'Time is handed in.' },
        { object: 'performance', property: 'now', message: 'Time is handed in.' },
      ],
      'no-restricted-syntax': ['error',
        { selector: 'BinaryExpression[operator="**"]', message: 'Its last bit may differ between engines.' },
        { selector: 'AssignmentExpression[operator="**="]', message: 'Its last bit may differ between engines.' },
        { selector: 'NewExpression[callee.name="Date"]', message: 'Time is handed in.' },
      ],
      'no-restricted-imports': ['error', { patterns: [{ group: ['node:*', 'vue', 'nuxt', '#*', 'pinia', 'vuetify', 'h3', 'kysely', '~*', '**/app/**', '**/server/**', '**/cli/**', '**/jobs/**'], message: 'The core knows no screen, server or disk.' }] }],
    },
  },
  // Documents with something wrong in them have no type.
  { files: ['tests/**/*.ts'], rules: { '@typescript-eslint/no-explicit-any': 'off' } },
  { files: ['cli/**/*.ts', 'benchmarks/**/*.ts'], rules: { 'no-console': 'off' } },
)
