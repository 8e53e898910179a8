import { readFileSync } from 'node:fs';
import { Meter, type Measurement } from '../loudness/measure';
import { add, concat, noise } from '../testing/signals';
import type { Output } from '../timeline/output';
import { builtInSpecs, findSpec } from './builtIn';
import { describeLevel } from './fixText';
import { defaultFixOptions, planLevels, takenOffsets, type LevelPlan } from './levelPlan';
import { judgeAmong } from './judgeAmong';
import { differencesOf, lookOver, namePlaces, placesOf } from './looks';
import { bitRateThatFits } from './mailLimit';
import { reportCsv, reportHtml, reportJson, type Report } from './report';
import { endTarget, planSound } from './soundPlan';
import { noLimits, upgradeSpec, type Spec } from './spec';
import { specFromJson, specToJson } from './specFile';
import { specJsonSchema } from './specJsonSchema';
import { rehearseLevels } from './rehearsal';
import { judge, passes } from './verdicts';

const rateHz = 48_000;

function specOf(name: string, changes: Partial<Spec> = {}): Spec {
  const spec = findSpec(name);
  if (!spec) throw new Error(`no spec ${name}`);
  return { ...structuredClone(spec), ...changes };
}

/** Speech at an RMS level over a room, with head and tail; `peak` is put in as one sample in its middle. */
function voice(speechDb: number, roomDb: number, { head = 0.7, tail = 2, peak = 0 } = {}) {
  const speech = concat(
    new Float32Array(head * rateHz),
    noise(8 * rateHz, speechDb, 2),
    new Float32Array(1.5 * rateHz),
    noise(6 * rateHz, speechDb, 3),
    new Float32Array(tail * rateHz),
  );
  const audio = add(speech, noise(speech.length, roomDb, 6));
  if (peak > 0) audio[4 * rateHz] = peak;
  return audio;
}

function measured(...channels: Float32Array[]) {
  const meter = new Meter(rateHz, channels.length);
  meter.process(channels);
  return meter.finish();
}

const outputOf = (plan: LevelPlan): Output => {
  if (!plan.possible) throw new Error(plan.why);
  return plan.output;
};

describe('the specs that come with the application', () => {
  test.each([
    // EBU R 128, ATSC A/85; the others are common practice. Values from memory.
    ['Broadcast EU', 'integratedLufs', -23.5, -22.5],
    ['Broadcast EU', 'truePeakDbtp', null, -1],
    ['Broadcast US', 'integratedLufs', -26, -22],
    ['Broadcast US', 'truePeakDbtp', null, -2],
    ['Podcast stereo', 'integratedLufs', -17, -15],
    ['Podcast mono', 'integratedLufs', -20, -18],
    ['Audiobook retail', 'rmsDbfs', -23, -18],
    ['Audiobook retail', 'noiseFloorDbfs', null, -60],
    ['Dry voice', 'samplePeakDbfs', -12, -3],
    ['Casting sample', 'fileMegabytes', null, 25],
  ] as const)('%s: %s between %s and %s', (name, measure, min, max) => {
    expect(specOf(name).limits[measure]).toEqual({ min, max });
  });

  test('a spec stored by an earlier version gets the defaults of what came later', () => {
    const {
      more: _more,
      naming: _naming,
      rmsConvention: _convention,
      unprocessed: _dry,
      ...old
    } = specOf('Dry voice');
    const { channels: _channels, vbrQuality: _vbr, broadcast: _bext, marks: _marks, ...file } = old.file;
    const { integratedLufs: loudness, samplePeakDbfs } = old.limits;
    const upgraded = upgradeSpec({ ...old, file, limits: { integratedLufs: loudness, samplePeakDbfs } });
    expect(upgraded).toMatchObject({
      more: [],
      naming: '{project}_{nn}_{part}',
      rmsConvention: 'full-scale',
      unprocessed: false,
    });
    expect(upgraded.file).toMatchObject({ container: 'wav', channels: 1, vbrQuality: null });
    expect(upgraded.limits.samplePeakDbfs).toEqual({ min: -12, max: -3 });
  });
});

describe('spec files', () => {
  test('go out and come back the same', () => {
    for (const spec of builtInSpecs) expect(specFromJson(specToJson(spec))).toEqual(spec);
  });

  test('the published schema is the one of this version', () => {
    expect(JSON.parse(readFileSync('public/spec.schema.json', 'utf8'))).toEqual(
      JSON.parse(JSON.stringify(specJsonSchema())),
    );
  });

  test('a byte-order mark is passed over', () => {
    expect(specFromJson(`\uFEFF${specToJson(builtInSpecs[0])}`)).toEqual(builtInSpecs[0]);
  });

  test.each([
    ['not JSON', '{', /it is not JSON/],
    ['something else', '{"name":"x"}', /no field “parolaSpec”/],
    ['a newer one', '{"parolaSpec":2}', /newer version/],
    [
      'a wrong limit',
      specToJson(specOf('Dry voice', { limits: { ...noLimits, rmsDbfs: { min: -3, max: -20 } } })),
      /limits\.rmsDbfs\.max: RMS: the lowest allowed is above the highest/,
    ],
    [
      'a misspelt field of names',
      specToJson(specOf('Dry voice', { naming: '{projekt}' })),
      /There is no field \{projekt\}/,
    ],
    [
      'joint stereo at 64 kbit/s',
      specToJson(specOf('Podcast stereo', { file: { ...specOf('Podcast stereo').file, bitRateKbps: 64 } })),
      /Joint stereo needs at least 128/,
    ],
    [
      'two things at once: both are told',
      specToJson(specOf('Dry voice', { name: ' ', naming: '{projekt}' })),
      /name: Give the spec a name\..*naming: There is no field/,
    ],
    ['text for a number', '{"parolaSpec":"1"}', /newer version/],
    [
      'keys that every object has',
      '{"parolaSpec":1,"__proto__":{"a":1},"toString":1}',
      /Give the spec a name/,
    ],
    ['a list for a name', '{"parolaSpec":1,"name":{"a":1}}', /of another kind than it should be/],
  ])('%s is refused with what is wrong', (_, text, message) =>
    expect(() => specFromJson(text)).toThrow(message),
  );
});

describe('RMS by either convention', () => {
  test('a full-scale sine is −3.01 dBFS, or 0 by AES17, and limits are meant in the same way', () => {
    const audio = Float32Array.from({ length: rateHz }, (_, i) => Math.sin((2 * Math.PI * 997 * i) / rateHz));
    const limits = { ...noLimits, rmsDbfs: { min: -1, max: 1 } };
    const [plain] = judge(specOf('Dry voice', { limits }), measured(audio));
    expect(plain.value).toBeCloseTo(-3.01, 2);
    expect(plain.passes).toBe(false);
    const [sine] = judge(specOf('Dry voice', { limits, rmsConvention: 'sine' }), measured(audio));
    expect(sine.value).toBeCloseTo(0, 2);
    expect(sine.passes).toBe(true);
  });
});

describe('what is looked at beside limits', () => {
  test('DC offset, digital silence, clipped runs, each in its place', () => {
    const audio = voice(-20, -65).map((sample) => sample + 0.01);
    audio.fill(0, 3 * rateHz, 3.5 * rateHz);
    audio.fill(1, 5 * rateHz, 5 * rateHz + 20);
    const measurement = measured(audio);
    expect(measurement.dcOffsetDbfs).toBeCloseTo(-40, 1);
    expect(measurement.silences).toEqual([{ from: 3, to: 3.5 }]);
    expect(measurement.clippedRuns).toEqual([{ from: 5, to: 5 + 20 / rateHz }]);
    const looks = lookOver(measurement);
    expect(looks.map(({ kind }) => kind)).toEqual(['clipped', 'silence', 'dc']);
    expect(looks[0].message).toMatch(/^20 samples are at full scale, in one run/);
  });

  test('a thump is no DC offset', () => {
    const audio = voice(-20, -65);
    for (let i = 0; i < 20_000; i++) audio[100_000 + i] += 0.3;
    expect(measured(audio).dcOffsetDbfs).toBeLessThan(-60);
  });

  test.each([
    [
      'a dead side',
      (audio: Float32Array) => [audio, audio.map(() => 0)],
      'dead-side',
      /right side is silent/,
    ],
    [
      'one side inverted',
      (audio: Float32Array) => [audio, audio.map((s) => -s)],
      'inverted',
      /opposite \(correlation -1\.00\)/,
    ],
    [
      'mono in two channels',
      (audio: Float32Array) => [audio, audio.slice()],
      'same-sides',
      /mono in two channels/,
    ],
  ] as const)('%s', (_, sides, kind, message) => {
    const [look] = lookOver(measured(...sides(voice(-20, -65))), true);
    expect(look.kind).toBe(kind);
    expect(look.message).toMatch(message);
  });

  test('a part that stands out among the others is told of: its voice, its room', () => {
    const all = [voice(-20, -65), voice(-20, -65), voice(-24, -57)].map((audio) => measured(audio));
    const looksOf = (measurement: Measurement) =>
      judgeAmong(specOf('Dry voice'), measurement, { bytes: 0, all }).looks.map(({ message }) => message);
    expect(looksOf(all[0])).toEqual([]);
    expect(looksOf(all[2])).toEqual([
      expect.stringMatching(/^Speech is [34]\.\d dB softer than in the middle of all parts/) as string,
      expect.stringMatching(/^The room is [78]\.\d dB louder than in the middle of all parts/) as string,
    ]);
  });

  test('two voices on two sides are nothing to look at', () => {
    expect(lookOver(measured(voice(-20, -65), noise(voice(-20, -65).length, -22, 99)), true)).toEqual([]);
  });

  test('peaks over a limit are found where they are, head and tail at the ends', () => {
    const spec = specOf('Audiobook retail');
    const measurement = measured(voice(-20, -65, { head: 0.2, peak: 0.95 }));
    const verdicts = judge(spec, measurement);
    const places = (measure: string) => {
      const verdict = verdicts.find((candidate) => candidate.measure === measure);
      return verdict ? placesOf(verdict, measurement) : [];
    };
    expect(places('samplePeakDbfs')[0].from).toBeCloseTo(4, 1);
    expect(places('headSeconds')).toEqual([{ from: 0, to: expect.closeTo(0.2, 1) as number }]);
    expect(places('rmsDbfs')).toEqual([]);
    expect(
      namePlaces([
        { from: 1, to: 1 },
        { from: 2, to: 2 },
        { from: 3, to: 3 },
        { from: 4, to: 4 },
      ]),
    ).toBe('00:01.000, 00:02.000, 00:03.000 and 1 more');
  });

  test('a pause is measured between the words', () => {
    const measurement = measured(voice(-20, -65));
    expect(measurement.longestPauseSeconds).toBeCloseTo(1.5, 1);
    expect(measurement.longestPause.from).toBeCloseTo(8.7, 1);
    expect(measurement.usualPauseSeconds).toBeCloseTo(1.5, 1);
    expect(measured(noise(5 * rateHz, -20, 1)).usualPauseSeconds).toBe(0);
  });

  test('a part louder than the others differs from their median', () => {
    const all = [-20, -20.5, -19.5, -15].map((level) => measured(voice(level, -65)));
    expect(differencesOf(all[3], all).speechDb).toBeCloseTo(4.75, 1);
    expect(differencesOf(all[0], [all[0]])).toEqual({ speechDb: 0, roomDb: 0 });
  });
});

describe('planning levels', () => {
  const audiobook = specOf('Audiobook retail');

  test('a soft voice is raised to the middle of the limits', () => {
    const measurement = measured(voice(-28, -80));
    const { gainDb, ceiling } = outputOf(planLevels(audiobook, measurement));
    expect(measurement.rmsDbfs + gainDb).toBeCloseTo(-20.5, 1);
    // Noise of that level peaks 12 dB over its RMS: the ceiling is not needed.
    expect(ceiling).toBe(null);
  });

  test('a peak over the limit is limited, with room for coding, and the level stays', () => {
    const plan = planLevels(audiobook, measured(voice(-20.3, -65, { peak: 0.95 })));
    expect(outputOf(plan)).toMatchObject({ gainDb: 0, ceiling: { kind: 'true', dbfs: -3.6 } });
    if (plan.possible) expect(plan.reductionDb).toBeGreaterThan(3.1);
    const master = { ...audiobook, file: { ...audiobook.file, container: 'wav' as const } };
    expect(outputOf(planLevels(master, measured(voice(-20.3, -65, { peak: 0.95 })))).ceiling).toEqual({
      kind: 'sample',
      dbfs: -3.1,
    });
  });

  test('more than the limiter may take is refused with what would help', () => {
    const plan = planLevels(audiobook, measured(voice(-34, -80, { peak: 0.95 })));
    expect(plan).toMatchObject({ possible: false });
    if (!plan.possible)
      expect(plan.why).toMatch(
        /would have to take \d+\.\d dB off .* more than 6\.0 dB is heard\. Lower the loudest passages/,
      );
    expect(
      planLevels(audiobook, measured(voice(-34, -80, { peak: 0.95 })), { mostReductionDb: 20 }).possible,
    ).toBe(true);
  });

  test('a room too loud for the level that is wanted is no matter of gain', () => {
    const plan = planLevels(audiobook, measured(voice(-30, -64)));
    if (plan.possible) throw new Error('it is not');
    expect(plan.why).toMatch(
      /The room is too loud against the voice: at the level that is wanted it would be at −5\d\.\d dBFS/,
    );
  });

  test('a room a little too loud is brought under its limit with the voice, as far as the voice allows', () => {
    const measurement = measured(voice(-18, -59.2));
    const { gainDb } = outputOf(planLevels(audiobook, measurement));
    expect(gainDb).toBeLessThan(0);
    expect(measurement.noiseFloorDbfs + gainDb).toBeLessThanOrEqual(-60);
    expect(measurement.rmsDbfs + gainDb).toBeGreaterThanOrEqual(-23);
  });

  test('an unprocessed voice gets gain, never a limiter', () => {
    const dry = specOf('Dry voice');
    expect(outputOf(planLevels(dry, measured(voice(-20, -65, { peak: 0.95 })))).ceiling).toBe(null);
    const { gainDb } = outputOf(planLevels(dry, measured(voice(-36, -80))));
    expect(gainDb).toBeGreaterThan(6);
  });

  test('true peaks where they are limited', () => {
    const plan = planLevels(specOf('Broadcast EU'), measured(voice(-31, -65, { peak: 0.7 })));
    expect(outputOf(plan).ceiling).toEqual({ kind: 'true', dbfs: -1.1 });
  });

  test('an offset is found, and goes before anything else is planned', async () => {
    const audio = voice(-20, -65).map((sample) => sample - 0.02);
    expect(takenOffsets(audiobook, measured(audio))[0]).toBeCloseTo(-0.02, 4);
    expect(takenOffsets(audiobook, measured(voice(-20, -65)))).toEqual([0, 0]);
    const { plan, predicted } = await rehearseLevels(audiobook, defaultFixOptions, (output) => {
      const offset = output?.dcOffsets[0] ?? 0;
      const gain = 10 ** ((output?.gainDb ?? 0) / 20);
      const measurement = measured(audio.map((sample) => (sample - offset) * gain));
      return Promise.resolve({ measurement, reductionDb: 0 });
    });
    expect(outputOf(plan).dcOffsets[0]).toBeCloseTo(-0.02, 4);
    expect(predicted?.noiseFloorDbfs).toBeLessThan(-60);
    expect(passes(judge(audiobook, predicted ?? measured(audio)))).toBe(true);
  });

  test('is told in words', () => {
    const output: Output = { gainDb: 3.87, dcOffsets: [0.1, 0], ceiling: { kind: 'sample', dbfs: -3.6 } };
    expect(describeLevel(output)).toBe('Raise 3.9 dB, limit at −3.6 dBFS, take the DC offset out');
    expect(
      describeLevel({ gainDb: 0, dcOffsets: [0, 0], ceiling: null }, { ...output, dcOffsets: [0, 0] }),
    ).toBe('Lower 3.9 dB, limit no more');
  });
});

describe('planning head, tail and holes', () => {
  test.each([
    [0.2, { min: 0.5, max: 1 }, 0.75],
    [3, { min: 0.5, max: 1 }, 0.75],
    [0.7, { min: 0.5, max: 1 }, 0.7],
    [0.8, { min: 1, max: 5 }, 2],
    [9, { min: null, max: 5 }, 4.8],
    [0, { min: 2, max: null }, 3],
    [4, null, 4],
  ])('%d s with limits %o become %d s', (seconds, limit, target) =>
    expect(endTarget(seconds, limit)).toBeCloseTo(target),
  );

  test('nothing to do is nothing; a hole and a short head are both in the plan', () => {
    const spec = specOf('Audiobook retail');
    expect(planSound(spec, measured(voice(-20, -65)))).toBe(null);
    const audio = voice(-20, -65, { head: 0.2 });
    audio.fill(0, 3 * rateHz, 3.2 * rateHz);
    const plan = planSound(spec, measured(audio));
    expect(plan?.holes).toEqual([{ from: 3 * rateHz, to: 3.2 * rateHz }]);
    expect((plan?.head ?? 0) / rateHz).toBeCloseTo(0.55, 1);
    expect(plan?.tail).toBe(0);
  });

  test('of nothing but silence nothing is planned for the ends', () => {
    const plan = planSound(specOf('Audiobook retail'), measured(new Float32Array(rateHz)));
    expect(plan).toMatchObject({ head: 0, tail: 0 });
  });
});

describe('reports', () => {
  const spec = specOf('Audiobook retail');
  const file = (name: string, audio: Float32Array) => {
    const judged = { ...measured(audio), fileMegabytes: 1.2 };
    return {
      fileName: name,
      part: name,
      format: spec.file,
      bytes: 1_200_000,
      sha256: 'ab'.repeat(32),
      judged,
      verdicts: judge(spec, judged),
      looks: lookOver(judged),
      mistake: null,
    };
  };
  const report: Report = {
    project: 'A <b>project</b> & more',
    spec,
    madeAt: '2026-11-25T10:00:00.000Z',
    files: [file('good.mp3', voice(-20, -65)), file('=bad.mp3', voice(-30, -65))],
  };

  test('JSON has every value, the standard and the checksums; −∞ is null', () => {
    const data = JSON.parse(reportJson(report)) as { files: Record<string, unknown>[]; measuredBy: string };
    expect(data.measuredBy).toContain('ITU-R BS.1770-5, EBU Tech 3341/3342');
    expect(data.files).toHaveLength(2);
    expect(data.files[0]).toMatchObject({ passes: true, sha256: 'ab'.repeat(32), sampleRateHz: 48_000 });
    expect(data.files[1]).toMatchObject({ passes: false });
    const silent = JSON.parse(
      reportJson({ ...report, files: [file('silent', new Float32Array(rateHz))] }),
    ) as { files: { values: Record<string, unknown> }[] };
    expect(silent.files[0].values).toMatchObject({ rmsDbfs: null, integratedLufs: null });
  });

  test('CSV has one row a file, with the same columns, and no formula for a spreadsheet', () => {
    const [header, ...rows] = reportCsv(report).trim().split('\r\n');
    expect(header).toMatch(/^file,part,passes,bytes,sha256,rate_hz,channels,frames,integratedLufs,/);
    expect(rows).toHaveLength(2);
    expect(rows[1]).toMatch(/^'=bad\.mp3,/);
  });

  test('HTML stands by itself, marks what is out, and takes names as text', () => {
    const html = reportHtml(report);
    expect(html).toContain('A &lt;b&gt;project&lt;/b&gt; &amp; more');
    expect(html).toContain('1 of 2 files pass');
    expect(html).toMatch(/<td class="number out">−3\d\.\d dBFS<\/td>/);
    expect(html).not.toMatch(/<(script|link|img)/);
    expect(html.match(/abab/g)?.length).toBeGreaterThan(1);
  });
});

test('a mail limit is met by the highest bit rate that fits', () => {
  // 25 MB is a usual mail limit (common practice): 25e6 × 8 / 600 s is 333 kbit/s.
  expect(bitRateThatFits(600, 25e6)).toBe(320);
  expect(bitRateThatFits(1200, 25e6)).toBe(160);
  expect(bitRateThatFits(7200, 25e6)).toBe(null);
});
