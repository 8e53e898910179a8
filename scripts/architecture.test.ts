import { execFileSync } from 'node:child_process';

/**
 * The layers of docs/architecture.md are kept by lint; these planted violations prove that the rule bites.
 * ESLint loads its configuration with a dynamic import, which Jest does not have, so one process of its own
 * lints them all.
 */
const lint = `
  import { ESLint } from 'eslint';
  const planted = JSON.parse(await new Response(process.stdin).text());
  // What the others say, and what they have to know of types for it, takes ten times as long.
  const eslint = new ESLint({
    ruleFilter: ({ ruleId }) => /^(boundaries|import-x)[/]/.test(ruleId),
    overrideConfig: { languageOptions: { parserOptions: { projectService: false, project: null } } },
  });
  const broken = [];
  for (const [filePath, code] of planted) {
    const [{ messages }] = await eslint.lintText(code, { filePath });
    broken.push(messages.filter((message) => message.severity === 2).map((message) => message.ruleId ?? 'parse'));
  }
  console.log(JSON.stringify(broken));
`;

type Planted = [file: string, code: string];

function rulesBroken(planted: Planted[]): string[][] {
  const output = execFileSync(process.execPath, ['--input-type=module', '-e', lint], {
    input: JSON.stringify(planted),
    encoding: 'utf8',
    stdio: ['pipe', 'pipe', 'ignore'],
  });
  return JSON.parse(output.trim().split('\n').at(-1) ?? '[]') as string[][];
}

const boundary = 'boundaries/dependencies';

const up: Planted[] = [
  ['src/core/planted.ts', "import { usePart } from '@/state/sheet/part';\nexport const planted = usePart;\n"],
  [
    'src/core/planted.ts',
    "import { openApp } from '../../e2e/support/app';\nexport const planted = openApp;\n",
  ],
  [
    'src/storage/planted.ts',
    "import { JobClient } from '../workers/client';\nexport const planted = JobClient;\n",
  ],
  ['src/ui/planted.ts', "import { database } from '@/storage/database';\nexport const planted = database;\n"],
  ['src/app/planted.ts', "import { Player } from '@/audio/player';\nexport const planted = Player;\n"],
  ['src/ui/planted.ts', "export const planted = new URL('../workers/proof.worker.ts', import.meta.url);\n"],
  // Rooms of the state: the sheet knows nothing of finding, playing nothing of recording, nobody of the
  // lifecycle.
  [
    'src/state/sheet/planted.ts',
    "import { findAll } from '../finds/finding';\nexport const planted = findAll;\n",
  ],
  [
    'src/state/hearing/planted.ts',
    "import { record } from '../recording/recording';\nexport const planted = record;\n",
  ],
  [
    'src/state/files/planted.ts',
    "import { leaveProject } from '../lifecycle/lifecycle';\nexport const planted = leaveProject;\n",
  ],
];

const down: Planted[] = [
  [
    'src/state/sheet/planted.ts',
    "import { JobClient } from '../../workers/client';\nexport const planted = JobClient;\n",
  ],
  [
    'src/state/proof/planted.ts',
    "export const planted = new URL('../../workers/proof.worker.ts', import.meta.url);\n",
  ],
  [
    'src/state/finds/planted.ts',
    "import { usePart } from '../sheet/part';\nexport const planted = usePart;\n",
  ],
  [
    'src/state/page/planted.test.ts',
    "import { usePart } from '../sheet/part';\nexport const planted = usePart;\n",
  ],
  ['src/ui/planted.ts', "import { usePart } from '@/state/sheet/part';\nexport const planted = usePart;\n"],
];

const cycle: Planted = [
  'src/state/page/notices.ts',
  "import { useJob } from './jobs';\nexport const notifyError = useJob;\n",
];

test('imports go down only, worker addresses included, and never in a circle', () => {
  // The circle first: what the rule knows of the files on disk it keeps for later ones.
  const [circle, ...broken] = rulesBroken([cycle, ...up, ...down]);
  for (const rules of broken.slice(0, up.length)) expect(rules).toContain(boundary);
  for (const rules of broken.slice(up.length)) expect(rules).toEqual([]);
  expect(circle).toContain('import-x/no-cycle');
}, 60_000);
