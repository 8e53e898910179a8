import { ParolaError } from '../base/errors';
import { findSpec } from '../specs/builtIn';
import { manifestVersion, parseManifest } from './projectManifest';

const piece = { kind: 'audio', source: 'src-1', channel: 0, from: 0, length: 100, gainDb: 0, struck: false };
const manifest = () => ({
  format: 'parola-project',
  version: manifestVersion,
  project: { name: 'Job', spec: findSpec('Dry voice'), rateHz: 48_000, createdAt: 1, joinMs: 10 },
  parts: [
    {
      id: 'p1',
      name: 'One',
      script: [{ id: 'l1', text: 'Hello.' }],
      currentLine: 0,
      caret: 0,
      historyAt: 1,
      timeline: { tracks: [{ id: 'track-1', name: 'Voice', pieces: [piece] }], marks: [] },
      history: [
        {
          label: 'take 1',
          difference: {
            tracks: [{ id: 'track-1', pieces: { at: 0, removed: [], added: [piece] } }],
            marks: null,
          },
        },
      ],
    },
  ],
  sources: [
    {
      id: 'src-1',
      partId: 'p1',
      trackId: 'track-1',
      take: 1,
      name: 'Take 1',
      rateHz: 48_000,
      channels: 1,
      frames: 100,
      handleFrames: 0,
      startedAt: 1,
      overrunFrames: 0,
      input: 'x',
    },
  ],
});
type Draft = ReturnType<typeof manifest>;

const code = (text: string) => {
  try {
    parseManifest(text);
    return 'accepted';
  } catch (error) {
    expect(error).toBeInstanceOf(ParolaError);
    return (error as ParolaError).code;
  }
};

test('a whole manifest is accepted, and its sources can be renamed everywhere, the history included', () => {
  const renamed = parseManifest(JSON.stringify(manifest()), (id) => `new-${id}`);
  expect(renamed.sources[0].id).toBe('new-src-1');
  expect(JSON.stringify(renamed)).not.toContain('"src-1"');
  expect(renamed.parts[0].history[0].difference.tracks[0].pieces.added[0]).toMatchObject({
    source: 'new-src-1',
  });
});

test.each<[string, (draft: Draft) => void]>([
  ['a piece of a source that is not there', (draft) => (draft.sources = [])],
  ['a piece that reaches beyond its source', (draft) => (draft.sources[0].frames = 50)],
  [
    'a piece on a channel that is not there',
    (draft) => (draft.parts[0].timeline.tracks[0].pieces[0].channel = 1),
  ],
  ['a piece of negative length', (draft) => (draft.parts[0].timeline.tracks[0].pieces[0].length = -5)],
  ['a number that is text', (draft) => (draft.parts[0].caret = 'x' as never)],
  ['no parts at all', (draft) => delete (draft as Partial<Draft>).parts],
  ['more undone steps than there are', (draft) => (draft.parts[0].historyAt = 7)],
  ['another format', (draft) => (draft.format = 'something-else')],
  ['an unknown rate', (draft) => (draft.project.rateHz = -1)],
])('%s is a damaged file', (_name, spoil) => {
  const draft = manifest();
  draft.parts[0].timeline.tracks[0].pieces = [{ ...piece }];
  spoil(draft);
  expect(code(JSON.stringify(draft))).toBe('damaged-file');
});

test('text that is no JSON is damaged, a newer version asks for a newer Parola', () => {
  expect(code('{"format":')).toBe('damaged-file');
  expect(code('null')).toBe('damaged-file');
  expect(code(JSON.stringify({ ...manifest(), version: 99 }))).toBe('unsupported');
});

describe('pieces of every kind', () => {
  const tone = {
    kind: 'tone',
    source: 'src-1',
    channel: 0,
    start: 10,
    end: 90,
    seed: 7,
    from: -20,
    length: 500,
    gainDb: -1.5,
    struck: false,
  };
  const edged = {
    ...piece,
    joint: { frames: null, shape: 'power' },
    fadeIn: { frames: 20, shape: 'smooth' },
  };
  const silence = { kind: 'silence', length: 5, struck: false, meant: true };
  const withAll = (changes: object = {}) => {
    const draft = manifest();
    const pieces = [edged, { ...tone, ...changes }, silence];
    const [part] = draft.parts;
    return {
      ...draft,
      parts: [
        {
          ...part,
          tones: {
            'track-1': { source: 'src-1', channel: 0, start: 10, end: 90, levelDbfs: -63, origin: 'found' },
          },
          timeline: {
            tracks: [{ id: 'track-1', name: 'Voice', pieces }],
            marks: [{ id: 'm', kind: 'line', at: 3, length: 0, name: '', line: 'l1' }],
          },
        },
      ],
    };
  };

  test('come back as they were, with their edges, lines and room tones', () => {
    const [part] = parseManifest(JSON.stringify(withAll()), (id) => `new-${id}`).parts;
    expect(part.timeline.tracks[0].pieces).toEqual([
      { ...edged, source: 'new-src-1' },
      { ...tone, source: 'new-src-1' },
      silence,
    ]);
    expect(part.timeline.marks[0].line).toBe('l1');
    expect(part.tones?.['track-1']).toMatchObject({ source: 'new-src-1', levelDbfs: -63 });
  });

  test.each([
    ['a tone from outside its source', { end: 101 }],
    ['a tone without a seed', { seed: undefined }],
    ['a tone of no source', { source: undefined }],
  ])('%s is a damaged file', (_name, changes) => {
    expect(code(JSON.stringify(withAll(changes)))).toBe('damaged-file');
  });
});

test('a file of version 3 is read: its spec gets what specs have had since, and no part has an output', () => {
  const old = manifest();
  const {
    more: _more,
    naming: _naming,
    rmsConvention: _rms,
    unprocessed: _dry,
    ...spec
  } = old.project.spec ?? {};
  const {
    channels: _channels,
    vbrQuality: _vbr,
    broadcast: _bext,
    marks: _marks,
    ...file
  } = old.project.spec?.file ?? {};
  const text = JSON.stringify({ ...old, version: 3, project: { ...old.project, spec: { ...spec, file } } });
  const read = parseManifest(text);
  expect(read.project.spec).toEqual({ ...findSpec('Dry voice'), unprocessed: false });
  expect(read.parts[0].timeline.output).toBeUndefined();
});

test('gain and ceiling of a part come along, and are checked', () => {
  const withOutput = (output: unknown) => {
    const draft = manifest();
    const [part] = draft.parts;
    return JSON.stringify({ ...draft, parts: [{ ...part, timeline: { ...part.timeline, output } }] });
  };
  const output = { gainDb: 3.5, dcOffsets: [0, 0], ceiling: { dbfs: -3.6, kind: 'sample' } };
  expect(parseManifest(withOutput(output)).parts[0].timeline.output).toEqual(output);
  expect(code(withOutput({ ...output, ceiling: { dbfs: 4, kind: 'sample' } }))).toBe('damaged-file');
  expect(code(withOutput({ gainDb: 'loud' }))).toBe('damaged-file');
});
