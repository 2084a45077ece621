import hooks from 'eslint-plugin-react-hooks';
import { defineConfig, globalIgnores } from 'eslint/config';
import tseslint from 'typescript-eslint';

export default defineConfig([
  globalIgnores(['dist', 'target', 'src/api/schema.d.ts']),
  {
    files: ['src/**/*.{ts,tsx}'],
    extends: [tseslint.configs.strict],
    plugins: { 'react-hooks': hooks },
    rules: {
      // what a component leaves out of the properties it hands on
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
    },
  },
]);
