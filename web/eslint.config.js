import hooks from 'eslint-plugin-react-hooks';
import { defineConfig, globalIgnores } from 'eslint/config';
import tseslint from 'typescript-eslint';

export default defineConfig([
  globalIgnores(['dist', 'target', 'src/api/schema.d.ts']),
  {
    files: ['src/**/*.{ts,tsx}'],
    extends: [tseslint.configs.strict, hooks.configs.flat.recommended],
    rules: {
      // what a component leaves out of the properties it hands on
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      // what is typed follows what the server says when that changes
      'react-hooks/set-state-in-effect': 'off',
      // the virtual lists: there is no other door to them
      'react-hooks/incompatible-library': 'off',
    },
  },
]);
