/**
 * Requests to measure a file that are odd: specs, reports and bodies of every kind. Each is answered with a
 * status that says whose mistake it is, and a reason in plain words; none with 500.
 */
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { POST } from '@/app/api/proof/route';
import { specToJson } from '@/core/specs/specFile';
import { builtInSpecs } from '@/core/specs/builtIn';
import { flacHead, silentFlac } from '@/core/testing/hostile';
import { stopMeasuring } from '@/node/measuring';
import { refusal, usualHost } from '../server/guards.mjs';
import { Findings, type FuzzResult } from './findings';

const slowestMs = 5000;
const spec = JSON.parse(specToJson(builtInSpecs[0])) as Record<string, unknown>;

const oddSpecs: string[] = [
  ...[
    '',
    ' ',
    'none',
    'constructor',
    '__proto__',
    'toString',
    'hasOwnProperty',
    '\u0000',
    '../../etc/passwd',
  ],
  ...[
    '{',
    '{}',
    '[]',
    'null',
    '{"parolaSpec":1}',
    '{"parolaSpec":"x"}',
    '{"parolaSpec":1e999}',
    '{"parolaSpec":-1}',
  ],
  ...['__proto__', 'constructor', 'toString', 'valueOf', 'resolve', 'fields'].map(
    (key) => `{"parolaSpec":1,"${key}":{"a":1},"limits":{"${key}":1},"file":{"${key}":[]}}`,
  ),
  ...Object.keys(spec).flatMap((key) =>
    [null, {}, [], 1e300, 'x'].map((value) => JSON.stringify({ ...spec, [key]: value })),
  ),
];
const oddReports = ['constructor', 'toString', '__proto__', '', 'HTML', 'html ', 'pdf', '../html'];

export async function oddRequests(): Promise<FuzzResult> {
  const result = new Findings();
  execFileSync(process.execPath, ['scripts/build-bundles.mjs']);
  const arrival = readFileSync('public/demo/arrival.mp3');
  const ask = async (name: string, query: string, body: BodyInit | null, wanted: readonly number[]) =>
    result.watch(name, slowestMs, async () => {
      const response = await POST(
        new Request(`http://localhost/api/proof?${query}`, { method: 'POST', body } as RequestInit),
      );
      result.expect(name, wanted.includes(response.status), `is answered with ${response.status}`);
      const text = await response.text();
      if (response.status >= 400)
        result.expect(name, !/is not a function|\[object|TypeError|undefined/.test(text), `says ${text}`);
    });
  const encoded = (text: string) => `spec=${encodeURIComponent(text)}`;
  for (const text of oddSpecs) await ask(`spec ${text.slice(0, 60)}`, encoded(text), 'x', [400, 415]);
  for (const form of oddReports)
    await ask(`report ${form}`, `spec=dry-voice&report=${encodeURIComponent(form)}`, arrival, [415]);
  await ask('no spec', '', arrival, [400]);
  await ask('no body', 'spec=dry-voice', null, [415]);
  await ask('an empty body', 'spec=dry-voice', '', [415]);
  await ask('no sound', 'spec=dry-voice', 'a letter', [415]);
  await ask('half a file', 'spec=dry-voice', arrival.subarray(0, 100_000), [200]);
  await ask('a name that moves a cursor', 'spec=dry-voice&file=%1b%5b2J', arrival, [200]);
  await ask(
    'days of silence',
    'spec=dry-voice',
    silentFlac({ hours: 100, rateHz: 1000, channels: 8 }),
    [413],
  );
  await ask('a head alone', 'spec=dry-voice', flacHead(48_000, 2, 100), [415, 422]);
  await ask(
    'twice the same question',
    'spec=dry-voice&spec=none&report=json&report=constructor',
    arrival,
    [200],
  );
  await stopMeasuring();

  const hosts = [
    'example.org',
    'localhost.example.org',
    '10.0.0.1',
    '127.0.0.1.example.org',
    '',
    '[::2]',
    'localhost@x',
  ];
  for (const host of hosts)
    await result.watch(`host ${host}`, slowestMs, () => {
      const refused = refusal({ method: 'GET', headers: { host } }, usualHost);
      result.expect(`host ${host}`, refused?.status === 421, 'is answered');
    });
  for (const origin of [
    'null',
    'http://example.org',
    'http://localhost:1',
    'x',
    'http://localhost:3000.example.org',
  ])
    await result.watch(`origin ${origin}`, slowestMs, () => {
      const headers = { host: 'localhost:3000', origin };
      const refused = refusal({ method: 'POST', headers }, usualHost);
      result.expect(`origin ${origin}`, refused?.status === 403, 'may send');
    });
  return result;
}
