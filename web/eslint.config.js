import svelte from 'eslint-plugin-svelte'
import ts from 'typescript-eslint'
import config from './svelte.config.js'

export default ts.config(
  { ignores: ['dist', 'contract', 'public', 'src/core/wasm_exec.js', 'src/contract.ts'] },
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-unused-vars': [
        'error',
        { varsIgnorePattern: '^_$', argsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      // Most maps and sets here live for the length of one call.
      'svelte/prefer-svelte-reactivity': 'off',
    },
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, svelteConfig: config } },
  },
)
