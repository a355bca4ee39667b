import globals from 'globals';
import tseslint from 'typescript-eslint';

/** What the formatter cannot say: one statement a line, one declaration a statement, a choice of many written as one. */
const SET_FOR_READING = {
  'max-statements-per-line': ['error', { max: 1 }],
  'no-nested-ternary': 'error',
  'no-sequences': 'error',
  'one-var': ['error', { initialized: 'never' }],
};
const KERNEL = ['engine/kernel/**/*.ts', 'bench/kernel/**/*.ts'];

export default tseslint.config(
  {
    ignores: ['**/dist/**', '**/node_modules/**', 'build/**'],
  },
  ...tseslint.configs.recommended.map((config) => ({ ...config, ignores: KERNEL })),
  {
    files: ['**/*.{ts,tsx}'],
    ignores: ['vitest.config.ts', 'web/vite.config.ts', ...KERNEL],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
      '@typescript-eslint/only-throw-error': 'off',
      eqeqeq: ['error', 'always'],
      'no-console': 'error',
      'prefer-const': 'error',
      ...SET_FOR_READING,
    },
  },
  // AssemblyScript: decorators stand on functions, and its types are its own
  {
    files: KERNEL,
    languageOptions: { parser: tseslint.parser, parserOptions: { allowInvalidAST: true } },
    rules: SET_FOR_READING,
  },
  { files: ['web/**'], languageOptions: { globals: globals.browser } },
  {
    files: ['bench/**', 'scripts/**', 'server/src/main/**'],
    languageOptions: { globals: globals.node },
    rules: { 'no-console': 'off' },
  },
);
