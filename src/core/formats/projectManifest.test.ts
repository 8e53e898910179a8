import { ParolaError } from '../base/errors';
import { findSpec } from '../specs/builtIn';
import { manifestVersion, parseManifest } from './projectManifest';

const piece = { kind: 'audio', source: 'src-1', channel: 0, from: 0, length: 100, gainDb: 0 };
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
  const { manifest: renamed } = parseManifest(JSON.stringify(manifest()), (id) => `new-${id}`);
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
  };
  const edged = {
    ...piece,
    joint: { frames: null, shape: 'power' },
    fadeIn: { frames: 20, shape: 'smooth' },
  };
  const silence = { kind: 'silence', length: 5, meant: true };
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
    const [part] = parseManifest(JSON.stringify(withAll()), (id) => `new-${id}`).manifest.parts;
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
  const { manifest: read } = parseManifest(text);
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
  expect(parseManifest(withOutput(output)).manifest.parts[0].timeline.output).toEqual(output);
  expect(code(withOutput({ ...output, ceiling: { dbfs: 4, kind: 'sample' } }))).toBe('damaged-file');
  expect(code(withOutput({ gainDb: 'loud' }))).toBe('damaged-file');
});

test('levels, places and beds come along with their history, and are checked', () => {
  const clip = {
    id: 'c1',
    source: 'src-1',
    channels: 1,
    from: 10,
    length: 80,
    levelDb: -3,
    begin: { moment: { kind: 'mark', mark: 'm1', at: 40 }, after: -20 },
    end: { moment: { kind: 'lastWord' }, after: 30 },
    fadeIn: 5,
    fadeOut: 9,
    loop: { from: 30, to: 70, fadeFrames: 12, shape: 'smooth' },
  };
  const mix = {
    strips: [
      {
        id: 'track-1',
        levelDb: -6,
        place: 0.5,
        points: [
          { at: 5, db: -3, passage: '5' },
          { at: 9, db: 2 },
        ],
      },
      {
        id: 'b1',
        levelDb: 0,
        place: 0,
        points: [],
        ducking: { amountDb: 12, downSeconds: 0.5, waitSeconds: 1, upSeconds: 1.5 },
      },
    ],
    beds: [{ id: 'b1', name: 'Music', clips: [clip] }],
    words: { first: 3, last: 90 },
  };
  const withMix = (value: unknown) => {
    const draft = manifest();
    const [part] = draft.parts;
    const [step] = part.history;
    const history = [{ ...step, difference: { ...step.difference, mix: { before: null, after: value } } }];
    return JSON.stringify({
      ...draft,
      parts: [{ ...part, timeline: { ...part.timeline, mix: value }, history }],
    });
  };
  const read = parseManifest(withMix(mix), (id) => `new-${id}`).manifest.parts[0];
  const renamed = { ...mix, beds: [{ ...mix.beds[0], clips: [{ ...clip, source: 'new-src-1' }] }] };
  expect(read.timeline.mix).toEqual(renamed);
  expect(read.history[0].difference.mix).toEqual({ before: null, after: renamed });
  const withClip = (changes: object) =>
    withMix({ ...mix, beds: [{ ...mix.beds[0], clips: [{ ...clip, ...changes }] }] });
  expect(code(withClip({}))).toBe('accepted');
  for (const changes of [
    { source: 'src-9' },
    { channels: 2 },
    { length: 95 },
    { levelDb: 99 },
    { begin: { moment: { kind: 'dream' }, after: 0 } },
    { end: { moment: { kind: 'mark', mark: 'm1' }, after: 0 } },
    { loop: { ...clip.loop, to: 95 } },
    { loop: { ...clip.loop, fadeFrames: 31 } },
    { fadeIn: -1 },
  ])
    expect([changes, code(withClip(changes))]).toEqual([changes, 'damaged-file']);
  expect(code(withMix({ ...mix, strips: [...mix.strips, ...mix.strips] }))).toBe('damaged-file');
  expect(code(withMix({ ...mix, strips: [{ ...mix.strips[0], place: 2 }] }))).toBe('damaged-file');
});

test('guides come along with their history; the voices are as long as the longest, and what is wrong is damaged', () => {
  const piece = { kind: 'audio', source: 'src-1', channel: 0, from: 0, length: 90, gainDb: 0 };
  const gap = { kind: 'silence', length: 60 };
  const guide = { id: 'g1', name: 'Visitor', free: true, pieces: [gap, piece] };
  const withGuides = (...guides: unknown[]) => {
    const draft = manifest();
    const [part] = draft.parts;
    const [step] = part.history;
    const history = [{ ...step, difference: { ...step.difference, guides: { before: [], after: guides } } }];
    return JSON.stringify({
      ...draft,
      parts: [{ ...part, timeline: { ...part.timeline, guides }, history }],
    });
  };
  const [read] = parseManifest(withGuides(guide), (id) => `new-${id}`).manifest.parts;
  const renamed = { ...guide, pieces: [gap, { ...piece, source: 'new-src-1' }] };
  expect(read.timeline.guides).toEqual([renamed]);
  expect(read.history[0].difference.guides).toEqual({ before: [], after: [renamed] });
  const frames = read.timeline.tracks.map(({ pieces }) =>
    pieces.reduce((sum, { length }) => sum + length, 0),
  );
  expect(Math.min(...frames)).toBeGreaterThanOrEqual(150);
  for (const wrong of [
    { ...guide, id: '' },
    { ...guide, name: 7 },
    { ...guide, pieces: [{ ...piece, from: 50 }] },
    { ...guide, pieces: [{ ...piece, source: 'src-9' }] },
    { ...guide, pieces: 'all' },
  ])
    expect([wrong, code(withGuides(wrong))]).toEqual([wrong, 'damaged-file']);
  expect(code(withGuides(guide, guide))).toBe('damaged-file');
});

describe('odd and hostile files', () => {
  type Change = (draft: ReturnType<typeof manifest> & Record<string, unknown>) => void;
  const made = (change: Change) => {
    const draft = JSON.parse(JSON.stringify(manifest())) as Parameters<Change>[0];
    change(draft);
    return JSON.stringify(draft);
  };
  const part = (draft: Parameters<Change>[0]) => draft.parts[0] as unknown as Record<string, never>;
  const message = (text: string) => {
    try {
      parseManifest(text);
      return '';
    } catch (error) {
      return (error as ParolaError).message;
    }
  };
  const silences = (count: number, length: number) =>
    Array.from({ length: count }, () => ({
      kind: 'silence',
      length,
      meant: true,
      joint: { frames: null, shape: 'power' },
    }));
  const sheet = (draft: Parameters<Change>[0], pieces: unknown[]) => {
    draft.parts[0].timeline.tracks[0].pieces = pieces as never;
    draft.parts[0].history = [];
    draft.parts[0].historyAt = 0;
  };

  test.each<[string, Change]>([
    ['silence of 1e15 frames', (draft) => sheet(draft, silences(1, 1e15))],
    ['a sum of lengths beyond 100 hours', (draft) => sheet(draft, silences(300, 3600 * 48_000))],
    ['200,001 pieces', (draft) => sheet(draft, silences(200_001, 1))],
    [
      '65 tracks',
      (draft) => {
        draft.parts[0].timeline.tracks = Array.from({ length: 65 }, (_, i) => ({
          id: `t${i}`,
          name: '',
          pieces: [],
        }));
      },
    ],
    ['no track', (draft) => (draft.parts[0].timeline.tracks = [])],
    [
      'two tracks of one id',
      (draft) => draft.parts[0].timeline.tracks.push(draft.parts[0].timeline.tracks[0]),
    ],
    [
      '200,001 marks',
      (draft) => {
        part(draft).timeline = {
          ...draft.parts[0].timeline,
          marks: Array.from({ length: 200_001 }, (_, i) => ({
            id: `m${i}`,
            kind: 'note',
            at: i,
            length: 0,
            name: '',
          })),
        } as never;
      },
    ],
    [
      'two marks of one id',
      (draft) => {
        const mark = { id: 'm', kind: 'note', at: 0, length: 0, name: '' };
        part(draft).timeline = { ...draft.parts[0].timeline, marks: [mark, mark] } as never;
      },
    ],
    [
      '100,000 routes',
      (draft) => {
        draft.project = {
          ...draft.project,
          routes: Array.from({ length: 100_000 }, () => ({ track: 't', channel: 0, armed: true })),
        } as never;
      },
    ],
    ['two parts of one id', (draft) => draft.parts.push(draft.parts[0])],
    ['a date that is none', (draft) => (draft.project.createdAt = 1e300)],
    ['a recording of another rate', (draft) => (draft.sources[0].rateHz = 44_100)],
    ['a recording whose handle is longer than it', (draft) => (draft.sources[0].handleFrames = 101)],
    ['an empty id', (draft) => (draft.sources[0].id = '')],
    ['a name of a million letters', (draft) => (draft.project.name = 'x'.repeat(1e6))],
    ['a spec that is a number', (draft) => (draft.project.spec = 7 as never)],
    [
      'a spec whose file is a list',
      (draft) => ((draft.project.spec as unknown as Record<string, unknown>).file = []),
    ],
    ['parts that are an object', (draft) => (draft.parts = {} as never)],
    ['a part that is null', (draft) => (draft.parts[0] = null as never)],
    ['a sheet that is text', (draft) => (part(draft).timeline = 'sheet' as never)],
    ['a history that is an object', (draft) => (part(draft).history = {} as never)],
    [
      'a joint of an hour',
      (draft) => sheet(draft, [{ ...piece, joint: { frames: 3600 * 48_000, shape: 'power' } }]),
    ],
    [
      'a struck passage that ends before it begins',
      (draft) => {
        part(draft).timeline = { ...draft.parts[0].timeline, struck: [{ from: 9, to: 3 }] } as never;
      },
    ],
  ])('%s is refused, in our own words', (_name, change) => {
    const text = message(made(change));
    expect(text).toMatch(/^This project file is damaged: .*Nothing was opened; try another copy of it\.$/);
    expect(text).not.toMatch(/type|`|resolve|undefined|object|function|Error/);
  });

  test('a number too large for JSON is refused, also where nothing is known of its field', () => {
    const text = made(() => undefined).replace('"joinMs":10', '"joinMs":10,"odd":1e999');
    expect(message(text)).toMatch(/a number that is none/);
  });

  test('only known fields are taken over: no id, no prototype, nothing for another version', () => {
    const text = made((draft) => {
      Object.assign(draft.project, { id: 'stolen', openedAt: 'never', partIds: 7 });
      Object.assign(draft.parts[0], { projectId: 'x', odd: 1 });
      Object.assign(draft.parts[0].timeline.tracks[0].pieces[0], { odd: 1, joint: null });
      Object.assign(draft.sources[0], { state: 'recording', projectIds: ['x'], own: {} });
    });
    const { manifest: read } = parseManifest(text);
    expect(Object.keys(read.project).sort()).toEqual(['createdAt', 'joinMs', 'name', 'rateHz', 'spec']);
    expect(read.parts[0]).not.toHaveProperty('odd');
    expect(read.parts[0].timeline.tracks[0].pieces[0]).toEqual(piece);
    expect(read.sources[0]).not.toHaveProperty('state');
    expect(read.sources[0]).not.toHaveProperty('own');
  });

  test('room tone that is not valid is left out with a word, be it of the wrong kind or ending before it begins', () => {
    for (const tones of [
      7,
      [],
      { 'track-1': 3 },
      { 'track-1': { source: 'src-1', channel: 0, start: 90, end: 10, levelDbfs: -60, origin: 'found' } },
      { 'track-1': { source: 'src-1', channel: 0, start: 0, end: 100, levelDbfs: '?', origin: 'found' } },
    ]) {
      const { manifest: read, left } = parseManifest(made((draft) => (part(draft).tones = tones as never)));
      expect(read.parts[0].tones).toBeUndefined();
      expect(left).toHaveLength(1);
    }
    const fine = { source: 'src-1', channel: 0, start: 0, end: 100, levelDbfs: -60, origin: 'found' };
    const other = JSON.stringify({ 'track-1': fine, other: fine, __proto__: fine });
    const { manifest: read } = parseManifest(
      made((draft) => (part(draft).tones = JSON.parse(other) as never)),
    );
    expect(read.parts[0].tones).toEqual({ 'track-1': fine });
  });

  test.each<[string, unknown]>([
    ['a splice beyond the end', { tracks: [], marks: { at: 5, removed: [], added: [] } }],
    [
      'a track that is not there',
      { tracks: [{ id: 'none', pieces: { at: 0, removed: [], added: [] } }], marks: null },
    ],
    [
      'tracks of different lengths',
      { tracks: [], marks: null, staves: { at: 1, removed: [], added: [{ id: 'b', name: '', pieces: [] }] } },
    ],
    [
      'no tracks at all',
      {
        tracks: [],
        marks: null,
        staves: { at: 0, removed: [{ id: 'track-1', name: 'Voice', pieces: [piece] }], added: [] },
      },
    ],
    ['something that is no difference', 'later'],
    [
      'a piece of a recording that is not there',
      {
        tracks: [{ id: 'track-1', pieces: { at: 0, removed: [], added: [{ ...piece, source: 'none' }] } }],
        marks: null,
      },
    ],
  ])('a history step with %s is left out with a word; the sheet is whole', (_name, difference) => {
    const { manifest: read, left } = parseManifest(
      made((draft) => draft.parts[0].history.push({ label: 'odd', difference } as never)),
    );
    expect(read.parts[0].history).toHaveLength(1);
    expect(read.parts[0].historyAt).toBe(1);
    expect(left[0]).toMatch(/One step of the history of “One” did not fit/);
    expect(read.parts[0].timeline.tracks[0].pieces).toEqual([piece]);
  });

  test('a hundred thousand marks and pieces are read in moments', () => {
    const marks = Array.from({ length: 100_000 }, (_, i) => ({
      id: `m${i}`,
      kind: 'note',
      at: i,
      length: 0,
      name: 'n',
    }));
    const { manifest: read } = parseManifest(
      made((draft) => {
        sheet(draft, silences(100_000, 2));
        part(draft).timeline = { ...draft.parts[0].timeline, marks } as never;
      }),
    );
    expect(read.parts[0].timeline.marks).toHaveLength(100_000);
  });
});

describe('what is beside the point is put right, and what is lost is told', () => {
  const read = (change: (draft: Draft) => void) => {
    const draft = manifest();
    change(draft);
    return parseManifest(JSON.stringify(draft));
  };
  const partOf = (change: (draft: Draft) => void) => read(change).manifest.parts[0];
  type Raw = Record<string, unknown>;
  const timelineOf = (draft: Draft) => draft.parts[0].timeline as unknown as Raw;

  test('caret and current line lie inside the part', () => {
    expect(partOf((draft) => (draft.parts[0].caret = 70)).caret).toBe(70);
    expect(partOf((draft) => (draft.parts[0].caret = 700)).caret).toBe(100);
    const twoLines = (currentLine: number) =>
      partOf((draft) => {
        draft.parts[0].script.push({ id: 'l2', text: 'Bye.' });
        draft.parts[0].currentLine = currentLine;
      }).currentLine;
    expect([0, 1, 2, 9].map(twoLines)).toEqual([0, 1, 1, 1]);
    expect(partOf((draft) => (draft.parts[0].script = [])).currentLine).toBe(0);
  });

  test('what is struck ends with the sheet; a track that is shorter ends in silence', () => {
    const struck = [
      { from: 20, to: 40 },
      { from: 90, to: 400 },
      { from: 500, to: 600 },
    ];
    expect(partOf((draft) => (timelineOf(draft).struck = struck)).timeline.struck).toEqual([
      { from: 20, to: 40 },
      { from: 90, to: 100 },
    ]);
    const { tracks } = partOf((draft) => {
      timelineOf(draft).tracks = [
        { id: 'track-1', name: 'Ada', side: 'left', pieces: [{ ...piece, length: 60 }] },
        { id: 'track-2', name: 'Berthe', pieces: [piece] },
      ];
    }).timeline;
    expect(tracks.map(({ side }) => side)).toEqual(['left', undefined]);
    expect(tracks.map(({ pieces }) => pieces.map(({ kind, length }) => [kind, length]))).toEqual([
      [
        ['audio', 60],
        ['silence', 40],
      ],
      [['audio', 100]],
    ]);
  });

  test('room tone that is not valid is found anew, with a word; none is none', () => {
    const tone = { source: 'src-1', channel: 0, start: 0, end: 100, levelDbfs: -62, origin: 'found' };
    const withTones = (tones: unknown, frames = 100_000) =>
      read((draft) => {
        draft.sources[0].frames = frames;
        (draft.parts[0] as unknown as Raw).tones = tones;
      });
    const long = { ...tone, end: 50_000 };
    const kept = withTones({ 'track-1': long, gone: long });
    expect(kept.left).toEqual([]);
    expect(kept.manifest.parts[0].tones).toEqual({ 'track-1': long });
    for (const none of [undefined, null]) expect(withTones(none)).toMatchObject({ left: [] });
    for (const odd of [
      5,
      [long],
      { 'track-1': null },
      { 'track-1': { ...long, levelDbfs: 'loud' } },
      { 'track-1': { ...long, origin: 'guessed' } },
      { 'track-1': { ...long, end: 200_000 } },
      { 'track-1': { ...long, start: 49_999 } },
    ]) {
      const { left, manifest: parsed } = withTones(odd);
      expect(left).toEqual([expect.stringMatching(/room tone of “One” was not valid/)]);
      expect(parsed.parts[0].tones).toBeUndefined();
    }
  });

  test('steps that do not fit are counted', () => {
    const step = (at: number) => ({
      label: 'x',
      difference: { tracks: [{ id: 'track-1', pieces: { at, removed: [], added: [piece] } }], marks: null },
    });
    const left = (...more: object[]) =>
      read((draft) => {
        draft.parts[0].history = [...more, ...draft.parts[0].history] as Draft['parts'][0]['history'];
        draft.parts[0].historyAt = draft.parts[0].history.length;
      }).left.join();
    expect(left()).toBe('');
    expect(left(step(7))).toMatch(/^One step of the history of “One” did not fit/);
    expect(left(step(7), step(7))).toMatch(/^2 steps of the history/);
  });
});

test('a cue sheet is read with its steps, and one that cannot be is refused', () => {
  const cue = { id: 'c1', number: '12a', from: 10, to: 60, character: 'ada', text: 'Hello.', note: 'slow' };
  const cueSheet = {
    rate: '29.97 drop',
    start: 107_892,
    characters: [{ id: 'ada', name: 'Ada' }],
    cues: [cue],
  };
  const { cues, ...head } = cueSheet;
  const withCues = (sheet: object) => {
    const draft = manifest();
    const [part] = draft.parts;
    const [step] = part.history;
    const difference = {
      ...step.difference,
      cues: { at: 0, removed: [], added: cues },
      cueHead: { before: null, after: head },
    };
    const timeline = { ...part.timeline, cueSheet: sheet };
    return JSON.stringify({ ...draft, parts: [{ ...part, timeline, history: [{ ...step, difference }] }] });
  };
  const read = parseManifest(withCues(cueSheet)).manifest.parts[0];
  expect(read.timeline.cueSheet).toEqual(cueSheet);
  expect(read.history[0].difference.cues?.added).toEqual(cues);
  for (const broken of [
    { ...cueSheet, rate: '12' },
    { ...cueSheet, start: -1 },
    { ...cueSheet, start: 2_589_408 },
    { ...cueSheet, cues: [{ ...cue, to: 5 }] },
    { ...cueSheet, cues: [{ ...cue, from: 1.5 }] },
    { ...cueSheet, cues: [{ ...cue, text: 7 }] },
    { ...cueSheet, cues: Array.from({ length: 20_001 }, () => cue) },
    { ...cueSheet, characters: [{ id: '', name: 'Ada' }] },
  ])
    expect(code(withCues(broken))).toBe('damaged-file');
});
