/**
 * Project files whose manifest is odd: each of its fields in turn of another kind, without bounds, missing,
 * or named like what every object has. Reading one ends with a project within the bounds, or with a reason.
 */
import { limits } from '@/core/formats/manifestLimits';
import { manifestVersion, parseManifest } from '@/core/formats/projectManifest';
import { findSpec } from '@/core/specs/builtIn';
import { emptyTimeline, sheetFramesOf } from '@/core/timeline/timeline';
import { loadTimeline, plainTimeline } from '@/core/timeline/stored';
import { addMark } from '@/core/timeline/edits';
import { difference } from '@/core/timeline/history';
import { appendRecording } from '@/core/timeline/takes';
import { Findings, type FuzzResult } from './findings';

const slowestMs = 8000;
type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
type Path = (string | number)[];

/** A project with something of everything. */
function project(): Json {
  const piece = { kind: 'audio', source: 's1', channel: 0, from: 0, length: 480_000, gainDb: 0 } as const;
  const empty = emptyTimeline(['Voice']);
  const [{ id: track }] = empty.tracks;
  const taken = appendRecording(empty, new Map([[track, [piece]]]));
  const marked = addMark(taken, { id: 'm1', kind: 'note', at: 100, length: 50, name: 'Note' });
  const source = {
    ...{ id: 's1', partId: 'p1', trackId: track, trackIds: [track], take: 1, name: 'Take 1', rateHz: 48_000 },
    ...{
      channels: 1,
      frames: 480_000,
      handleFrames: 0,
      startedAt: 1,
      overrunFrames: 0,
      input: 'x',
      note: 'n',
    },
    ...{ circled: true, summary: { peakDbfs: -3, loudnessLufs: -20, clippedSamples: 0 } },
  };
  return JSON.parse(
    JSON.stringify({
      format: 'parola-project',
      version: manifestVersion,
      project: {
        ...{ name: 'Job', spec: findSpec('Dry voice'), rateHz: 48_000, createdAt: 1, joinMs: 10 },
        routes: [{ track, channel: 0, armed: true }],
        recording: {
          ...{ mode: 'retake', runUpSeconds: 5, countIn: 'none', fixedSeconds: null, keepGoing: false },
          patchLength: 'selection',
        },
      },
      parts: [
        {
          ...{ id: 'p1', name: 'One', script: [{ id: 'l1', text: 'Hello.' }], currentLine: 0, caret: 0 },
          ...{ historyAt: 2, refused: ['click s1 0 4'], timeline: plainTimeline(marked) },
          tones: {
            [track]: { source: 's1', channel: 0, start: 0, end: 48_000, levelDbfs: -60, origin: 'found' },
          },
          history: [
            { label: 'take 1', difference: difference(empty, taken) },
            { label: 'note', difference: difference(taken, marked) },
          ],
        },
      ],
      sources: [source],
      checks: [],
    }),
  ) as Json;
}

const oddValues: Json[] = [
  null,
  -1,
  0.5,
  1e15,
  2 ** 53,
  1e300,
  '',
  'constructor',
  '\u0000\u001b[2J',
  'x'.repeat(200_000),
  [],
  {},
  [[[[]]]],
  true,
];

/** Every place in a value, its own first. */
function* placesIn(value: Json, at: Path = []): Generator<Path> {
  if (at.length > 0) yield at;
  if (Array.isArray(value))
    for (const [index, inside] of value.entries()) yield* placesIn(inside, [...at, index]);
  else if (value !== null && typeof value === 'object')
    for (const [key, inside] of Object.entries(value)) yield* placesIn(inside, [...at, key]);
}

function changed(whole: Json, at: Path, change: (holder: Record<string, Json>, key: string) => void): Json {
  const copy = structuredClone(whole);
  let holder = copy as Record<string, Json>;
  for (const key of at.slice(0, -1)) holder = holder[key] as Record<string, Json>;
  change(holder, String(at[at.length - 1]));
  return copy;
}

/** What is taken over lies within the bounds, and is a project's and nothing else. */
function outOfBounds(text: string): string | null {
  const { manifest } = parseManifest(text);
  const known = ['name', 'spec', 'rateHz', 'createdAt', 'joinMs', 'routes', 'recording', 'levels'];
  const foreign = Object.keys(manifest.project).filter((key) => !known.includes(key));
  if (foreign.length > 0) return `takes over ${foreign.join(', ')}`;
  if (!(manifest.project.createdAt >= 0 && manifest.project.createdAt <= limits.time))
    return 'has a date that is none';
  for (const part of manifest.parts) {
    const timeline = loadTimeline(part.timeline);
    if (!(sheetFramesOf(timeline) <= limits.hours * 3600 * limits.mostRateHz))
      return 'has a sheet without end';
    if (part.caret > sheetFramesOf(timeline)) return 'has its caret behind the sheet';
  }
  for (const { startedAt, frames } of manifest.sources)
    if (!(startedAt <= limits.time) || !Number.isSafeInteger(frames)) return 'has a take that is none';
  return null;
}

export async function oddProjects(): Promise<FuzzResult> {
  const result = new Findings();
  const whole = project();
  const read = async (name: string, value: Json | string) =>
    result.watch(name, slowestMs, () => {
      const told = outOfBounds(typeof value === 'string' ? value : JSON.stringify(value));
      if (told) result.broken.push(`${name}: ${told}`);
    });
  await read('whole', whole);
  result.expect('whole', result.refused === 0, 'a whole project is refused');
  for (const at of placesIn(whole)) {
    const name = at.join('.');
    await read(
      `without ${name}`,
      changed(whole, at, (holder, key) => {
        if (Array.isArray(holder)) holder.splice(Number(key), 1);
        else Reflect.deleteProperty(holder, key);
      }),
    );
    for (const [index, value] of oddValues.entries())
      await read(
        `${name} = odd value ${index}`,
        changed(whole, at, (holder, key) => (holder[key] = value)),
      );
  }
  const text = JSON.stringify(whole);
  const extra = (field: string) => text.replace('"project":{', `"project":{${field},`);
  const texts: [string, string][] = [
    ['an id of its own', extra('"id":"other"')],
    ['a time of opening beyond all', extra('"openedAt":1e300')],
    ['a prototype', extra('"__proto__":{"id":"x","openedAt":1e300}')],
    ['parts of its own', extra('"partIds":["x"],"openPartId":"y"')],
    ['no JSON', '{"format":'],
    ['a list', '[]'],
    ['a number', '1'],
    ['nothing', ''],
    ['deep lists', `{"a":${'['.repeat(100_000)}${']'.repeat(100_000)}}`],
    ['a number beyond numbers', text.replace('"createdAt":1', '"createdAt":1e999')],
  ];
  for (const [name, odd] of texts) await read(name, odd);
  const many = (count: number, one: (index: number) => Json) =>
    Array.from({ length: count }, (_, i) => one(i));
  const at = (path: Path, value: Json) => changed(whole, path, (holder, key) => (holder[key] = value));
  const [part] = (whole as { parts: Json[] }).parts;
  const note = (i: number): Json => ({ id: `m${i}`, kind: 'note', at: i, length: 0, name: 'n' });
  for (const [name, value] of [
    [
      '50,000 parts',
      at(
        ['parts'],
        many(50_000, (i) => ({ ...(part as object), id: `p${i}` }) as Json),
      ),
    ],
    ['300,000 marks', at(['parts', 0, 'timeline', 'marks'], many(300_000, note))],
    ['100,000 marks', at(['parts', 0, 'timeline', 'marks'], many(100_000, note))],
    [
      '200,000 lines',
      at(
        ['parts', 0, 'script'],
        many(200_000, (i) => ({ id: `l${i}`, text: 'x' })),
      ),
    ],
    ['a line of 50 MB', at(['parts', 0, 'script'], [{ id: 'l1', text: 'x'.repeat(50_000_000) }])],
    [
      '100,000 routes',
      at(
        ['project', 'routes'],
        many(100_000, (i) => ({ track: `t${i}`, channel: 0, armed: true })),
      ),
    ],
  ] as [string, Json][])
    await read(name, value);
  return result;
}
