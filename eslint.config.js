// The kernel's language, AssemblyScript, which only this linter can read: decorators stand on functions, and its types
// are its own. All else is linted by oxlint.
import tseslint from 'typescript-eslint';

export default tseslint.config({
  files: ['{engine,bench}/kernel/**/*.ts'],
  languageOptions: { parser: tseslint.parser, parserOptions: { allowInvalidAST: true } },
  rules: {
    'max-statements-per-line': ['error', { max: 1 }],
    'no-nested-ternary': 'error',
    'no-sequences': 'error',
    'one-var': ['error', { initialized: 'never' }],
  },
});
