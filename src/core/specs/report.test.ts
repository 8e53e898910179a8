import { measurementWith } from '../testing/measurements';
import { findSpec } from './builtIn';
import { plainFormat } from './fileFormat';
import { filePasses, reportCsv, reportHtml, reportJson, type ReportFile } from './report';
import { noLimits, type Spec } from './spec';
import { judge, type Judged } from './verdicts';
import Papa from 'papaparse';

const base = findSpec('Dry voice');
if (!base) throw new Error('no spec');
const spec: Spec = {
  ...base,
  limits: {
    ...noLimits,
    rmsDbfs: { min: -23, max: -18 },
    durationSeconds: { min: null, max: 60 },
    headSeconds: { min: null, max: null },
  },
};
function fileWith(figures: Partial<Judged>, more: Partial<ReportFile> = {}): ReportFile {
  const judged = { ...measurementWith({ rmsDbfs: -20.12345, integratedLufs: -21, ...figures }), ...figures };
  return {
    fileName: 'a.wav',
    part: 'One',
    format: plainFormat,
    bytes: 1000,
    sha256: 'ab'.repeat(32),
    judged,
    verdicts: judge(spec, judged),
    looks: [],
    chains: [],
    mistake: null,
    ...more,
  };
}
const reportOf = (...files: ReportFile[]) => ({
  project: 'Job',
  spec,
  madeAt: '2026-11-26T10:11:12.000Z',
  files,
});
const look = { kind: 'silence', message: 'A hole.', places: [] } as const;
const good = fileWith({ fileMegabytes: 1.5 });
const soft = fileWith({ rmsDbfs: -30 }, { looks: [{ ...look, places: [] }] });
const broken = fileWith({}, { mistake: 'It is too short.' });
const silent = fileWith({ rmsDbfs: -Infinity, integratedLufs: -Infinity });

test('a file passes when all its limits are met and the file itself is whole', () => {
  expect([good, soft, broken].map(filePasses)).toEqual([true, false, false]);
});

test('the table: numbers as numbers, negative ones too; what is not known or −∞ is empty (RFC 4180)', () => {
  const csv = reportCsv(reportOf(good, soft, broken, silent));
  const { data } = Papa.parse<Record<string, unknown>>(csv.trim(), { header: true, dynamicTyping: true });
  expect(data.map(({ rmsDbfs }) => rmsDbfs)).toEqual([-20.123, -30, -20.123, null]);
  expect(data.map(({ fileMegabytes }) => fileMegabytes)).toEqual([1.5, null, null, null]);
  expect(data.map(({ passes }) => passes)).toEqual([true, false, false, false]);
  expect(data.map(({ faults }) => faults)).toEqual([
    null,
    'RMS −30.0 dBFS is 7.0 dB under the lowest allowed (−23.0 to −18.0 dBFS). A hole.',
    'It is too short.',
    'RMS: there is only silence; −23.0 to −18.0 dBFS wanted.',
  ]);
  expect(csv).not.toMatch(/'-/);
});

test('as data: a distance without end is null, looks without their places', () => {
  const { files } = JSON.parse(reportJson(reportOf(silent, soft, fileWith({}, { format: null })))) as {
    files: { verdicts: object[]; looks: object[]; format: string | null; mistake: null }[];
  };
  expect(files[0].verdicts[0]).toMatchObject({
    measure: 'rmsDbfs',
    value: null,
    distance: null,
    passes: false,
  });
  expect(files[1].looks).toEqual([{ kind: 'silence', message: 'A hole.' }]);
  expect(files.map(({ format }) => format)).toEqual([
    ...['WAV · 24-bit · 48 kHz · mono', 'WAV · 24-bit · 48 kHz · mono', null],
  ]);
});

test('the page: what is limited first, then what is usual; what is wrong in a table of its own, where there is any', () => {
  const page = reportHtml(reportOf(good));
  const heads = [...page.matchAll(/<th>([^<]*)<\/th>/g)].map(([, text]) => text);
  expect(heads).toEqual(['File', 'Verdict', 'RMS', 'Loudness', 'True peak', 'Range', 'Length', 'Size']);
  expect(page).toContain('1 of 1 file passes');
  expect(page).not.toContain('What to look at');
  expect(page).toContain('2026-11-26 10:11 UTC');
  const both = reportHtml(reportOf(good, soft));
  expect(both).toContain('1 of 2 files pass');
  expect(both).toContain('<td class="number out">−30.0 dBFS</td>');
  expect(both).toContain('<td class="number">−20.1 dBFS</td>');
  expect(both).toContain('<td>a.wav</td><td>A hole.</td>');
});

test('what voices went through is told in all three, and nothing is said where they are as recorded', () => {
  const told = 'Ines (“Quiet”): Takes off what is under 80 Hz, 24 dB an octave.';
  const chained = fileWith({}, { fileName: 'b.wav', chains: [told] });
  const report = reportOf(good, chained);
  const read = JSON.parse(reportJson(report)) as { files: { chains: string[] }[] };
  expect(read.files.map(({ chains }) => chains)).toEqual([[], [told]]);
  const { data } = Papa.parse<Record<string, string>>(reportCsv(report).trim(), { header: true });
  expect(data.map(({ chain }) => chain)).toEqual(['', told]);
  expect(reportHtml(report)).toContain('What the voices went through');
  expect(reportHtml(report)).toContain(told);
  expect(reportHtml(reportOf(good))).not.toContain('went through');
});

test('what was noted of sessions with talents far away stands in the report, as text', () => {
  const sessions = [{ at: '2026-11-26T09:00:01.500Z', who: 'Mara <b>', what: 'Consent given.' }];
  const report = { ...reportOf(good), sessions };
  expect(JSON.parse(reportJson(report))).toMatchObject({ sessions });
  expect(reportHtml(report)).toContain(
    '<td>2026-11-26 09:00:01</td><td>Mara &lt;b&gt;</td><td>Consent given.</td>',
  );
  expect(reportHtml(reportOf(good))).not.toContain('far away');
});
