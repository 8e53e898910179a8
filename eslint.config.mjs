import next from 'eslint-config-next/core-web-vitals';
import boundaries from 'eslint-plugin-boundaries';
import importX from 'eslint-plugin-import-x';
import prettier from 'eslint-config-prettier';
import tseslint from 'typescript-eslint';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';

/**
 * Which layer may import which (docs/architecture.md). Imports go down only; tests may use whatever their subject may.
 * Worker addresses (`new URL('./x.worker.ts', import.meta.url)`) count as imports.
 */
const allowed = {
  core: ['core'],
  node: ['node', 'core'],
  audio: ['audio', 'core'],
  storage: ['storage', 'core'],
  workers: ['workers', 'storage', 'core'],
  state: ['state', 'workers', 'audio', 'storage', 'core'],
  ui: ['ui', 'state', 'core'],
  app: ['app', 'ui', 'state', 'node', 'core'],
  scripts: ['scripts', 'node', 'core', 'e2e'],
  e2e: ['e2e', 'node', 'core', 'scripts'],
};

export default tseslint.config(
  { ignores: ['.next/**', '.cache/**', 'public/**', 'node_modules/**', 'next-env.d.ts'] },
  ...next,
  ...tseslint.configs.strict,
  {
    files: ['**/*.ts', '**/*.tsx'],
    plugins: { boundaries, 'import-x': importX },
    settings: {
      'boundaries/include': ['src/*/**', 'scripts/**', 'e2e/**'],
      'boundaries/elements': [
        ...['core', 'node', 'audio', 'storage', 'workers', 'state', 'ui', 'app'].map((type) => ({
          type,
          pattern: `src/${type}/**`,
          partialMatch: false,
        })),
        { type: 'scripts', pattern: 'scripts/**', partialMatch: false },
        { type: 'e2e', pattern: 'e2e/**', partialMatch: false },
      ],
      'boundaries/additional-dependency-nodes': [
        {
          selector: 'NewExpression[callee.name=URL] > Literal:first-child',
          kind: 'value',
          name: 'worker',
        },
      ],
      'import/resolver': { typescript: { alwaysTryTypes: true } },
      'import-x/resolver-next': [createTypeScriptImportResolver()],
      'import-x/parsers': { '@typescript-eslint/parser': ['.ts', '.tsx'] },
      'import-x/extensions': ['.ts', '.tsx'],
    },
    rules: {
      'boundaries/dependencies': [
        'error',
        {
          default: 'disallow',
          policies: Object.entries(allowed).map(([from, to]) => ({
            from: { element: { type: from } },
            allow: { to: { element: { type: to } } },
          })),
        },
      ],
      'import-x/no-cycle': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'error',
      // `{ dropped: _dropped, ...rest }` is how a field is left out.
      '@typescript-eslint/no-unused-vars': [
        'error',
        { ignoreRestSiblings: true, varsIgnorePattern: '^_', argsIgnorePattern: '^_' },
      ],
    },
  },
  {
    files: ['*.config.mjs', 'jest.shared.mjs'],
    rules: { 'import/no-anonymous-default-export': 'off' },
  },
  prettier,
);
