import next from 'eslint-config-next/core-web-vitals';
import boundaries from 'eslint-plugin-boundaries';
import importX from 'eslint-plugin-import-x';
import prettier from 'eslint-config-prettier';
import tseslint from 'typescript-eslint';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';

/**
 * Which layer may import which (docs/architecture.md). Imports go down only; tests may use whatever their
 * subject may. Worker addresses (`new URL('./x.worker.ts', import.meta.url)`) count as imports.
 */
/** The rooms of `src/state`, from the lowest up: each imports itself and those before it. */
const rooms = [
  'page',
  'project',
  'pictures',
  'sheet',
  'hearing',
  'finds',
  'mix',
  'chain',
  'script',
  'cues',
  'far',
  'recording',
  'talent',
  'proof',
  'files',
  'keep',
  'visit',
  'lifecycle',
].map((room) => `state/${room}`);

const allowed = {
  texts: [],
  core: ['core'],
  node: ['node', 'core'],
  audio: ['audio', 'core'],
  // The network of the browser: letters and lines to another one.
  net: ['net', 'core'],
  storage: ['storage', 'core'],
  workers: ['workers', 'storage', 'core'],
  ...Object.fromEntries(
    rooms.map((room, index) => [
      room,
      [...rooms.slice(0, index + 1), 'workers', 'audio', 'net', 'storage', 'core'],
    ]),
  ),
  // What tests of any room share.
  'state/testing': [...rooms, 'state/testing', 'workers', 'audio', 'net', 'storage', 'core'],
  ui: ['ui', ...rooms, 'core'],
  // The service worker.
  offline: ['offline', 'core'],
  app: ['app', 'ui', ...rooms, 'node', 'core'],
  scripts: ['scripts', 'app', 'workers', 'node', 'core', 'e2e'],
  e2e: ['e2e', 'node', 'core', 'scripts'],
};

const policiesOf = (layers) => [
  'error',
  {
    default: 'disallow',
    policies: Object.entries(layers).map(([from, to]) => ({
      from: { element: { type: from } },
      // Everything may say something to the user.
      allow: { to: { element: { type: [...to, 'texts'] } } },
    })),
  },
];

/** What looks for React, in every file there is. */
const ofReact = next
  .flatMap(({ rules = {} }) => Object.keys(rules))
  .filter((rule) => /^(react|react-hooks|jsx-a11y|@next\/next)\//.test(rule));

export default tseslint.config(
  {
    ignores: [
      '.next/**',
      '.cache/**',
      'public/**',
      'node_modules/**',
      'next-env.d.ts',
      'src/core/dsp/kernels/assembly/**',
      'src/core/dsp/kernels/module.ts',
    ],
  },
  ...next,
  ...tseslint.configs.strict,
  {
    files: ['**/*.ts', '**/*.tsx'],
    plugins: { boundaries, 'import-x': importX },
    settings: {
      'boundaries/include': ['src/*/**', 'scripts/**', 'e2e/**'],
      'boundaries/elements': [
        ...[
          'texts',
          'core',
          'node',
          'audio',
          'net',
          'storage',
          'workers',
          ...rooms,
          'state/testing',
          'ui',
          'offline',
          'app',
        ].map((type) => ({
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
      'boundaries/dependencies': policiesOf(allowed),
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
    // There is none: half of what lint does would be for nothing.
    files: ['src/{core,node,audio,net,storage,workers,offline,texts}/**', 'scripts/**', 'e2e/**'],
    rules: Object.fromEntries(ofReact.map((rule) => [rule, 'off'])),
  },
  {
    // A test may set the scene with whatever rooms it needs.
    files: ['src/state/**/*.test.ts'],
    rules: {
      'boundaries/dependencies': policiesOf(
        Object.fromEntries(rooms.map((room) => [room, [...allowed['state/testing'], 'state/testing']])),
      ),
    },
  },
  {
    files: ['*.config.mjs', 'jest.shared.mjs'],
    rules: { 'import/no-anonymous-default-export': 'off' },
  },
  prettier,
  {
    // The formatter breaks code, not comments: those end where the code does.
    rules: { 'max-len': ['error', { code: 1000, comments: 110, ignoreUrls: true }] },
  },
);
