import { language, say } from '../../texts/say';
import { escapeHtml } from '../base/text';
import { appName } from '../base/version';
import { formatBytes, formatDb, formatTime } from '../base/units';
import { tableCsv } from '../formats/markFiles';
import { measurementStandard, type Measurement } from '../loudness/measure';
import { describeFile, describeRms, describeSpec } from './describe';
import type { FileFormat } from './fileFormat';
import type { Look } from './looks';
import { measureLabels, measures, type Measure } from './measures';
import type { Spec } from './spec';
import { formatMeasure, valueFor, type Judged, type Verdict } from './verdicts';

/** One file as it was read back, against the spec. */
export interface ReportFile {
  fileName: string;
  part: string;
  format: FileFormat | null;
  bytes: number;
  sha256: string;
  judged: Judged;
  verdicts: Verdict[];
  looks: Look[];
  /** What its voices went through; nothing where they are as they were recorded. */
  chains?: readonly string[];
  /** What is wrong with the file itself; null when it is whole. */
  mistake: string | null;
}

export interface Report {
  project: string;
  spec: Spec;
  /** ISO 8601. */
  madeAt: string;
  files: ReportFile[];
  /** What was noted of sessions with talents far away; nothing where there were none. */
  sessions?: readonly SessionNote[];
}

/** Who came, left, was recorded, with what: `at` in ISO 8601. */
export interface SessionNote {
  readonly at: string;
  readonly who: string;
  readonly what: string;
}

export const filePasses = ({ verdicts, mistake }: Pick<ReportFile, 'verdicts' | 'mistake'>) =>
  mistake === null && verdicts.every((verdict) => verdict.passes);

const finite = (value: number | undefined) => (value !== undefined && Number.isFinite(value) ? value : null);

const valuesOf = (spec: Spec, judged: Judged): Record<Measure, number | null> =>
  Object.fromEntries(measures.map((measure) => [measure, finite(valueFor(spec, measure, judged))])) as Record<
    Measure,
    number | null
  >;

const measuredBy = (spec: Spec) =>
  say`${measurementStandard}. ${describeRms(spec)}; room is the RMS of the pauses.`;

/** The report as data: every value with its unit in its name; −∞ is null. */
export function reportJson({ project, spec, madeAt, files, sessions = [] }: Report): string {
  const data = {
    parolaReport: 1,
    project,
    madeAt,
    madeBy: appName,
    measuredBy: measuredBy(spec),
    spec,
    files: files.map((file) => ({
      fileName: file.fileName,
      part: file.part,
      passes: filePasses(file),
      format: file.format && describeFile(file.format),
      bytes: file.bytes,
      sha256: file.sha256,
      sampleRateHz: file.judged.rateHz,
      channels: file.judged.channels,
      frames: file.judged.frames,
      values: valuesOf(spec, file.judged),
      clippedSamples: file.judged.clippedSamples,
      digitalSilenceSeconds: file.judged.digitalSilenceSeconds,
      verdicts: file.verdicts.map((verdict) => ({
        ...verdict,
        value: finite(verdict.value),
        distance: finite(verdict.distance),
      })),
      looks: file.looks.map(({ kind, message }) => ({ kind, message })),
      chains: file.chains ?? [],
      mistake: file.mistake,
    })),
    sessions,
  };
  return `${JSON.stringify(data, null, 2)}\n`;
}

/** One row a file, all values as numbers; what there is none of, or is −∞, is empty. */
export const reportCsv = ({ spec, files }: Report): string =>
  tableCsv(
    files.map((file) => ({
      file: file.fileName,
      part: file.part,
      passes: filePasses(file),
      bytes: file.bytes,
      sha256: file.sha256,
      rate_hz: file.judged.rateHz,
      channels: file.judged.channels,
      frames: file.judged.frames,
      ...Object.fromEntries(
        Object.entries(valuesOf(spec, file.judged)).map(([measure, value]) => [
          measure,
          value === null || !Number.isFinite(value) ? null : Number(value.toFixed(3)),
        ]),
      ),
      chain: file.chains?.join(' ') || null,
      faults: faultsOf(file).join(' '),
      spec: spec.name,
      measured_by: measurementStandard,
    })),
  );

const faultsOf = ({ verdicts, looks, mistake }: ReportFile): string[] => [
  ...(mistake ? [mistake] : []),
  ...verdicts.filter(({ passes }) => !passes).map(({ message }) => `${message}.`),
  ...looks.map(({ message }) => message),
];

const css = `
body { font: 10pt/1.45 "Atkinson Hyperlegible Next", system-ui, sans-serif; color: #1f2a37; background: #fffdf9; margin: 18mm auto; max-width: 260mm; padding: 0 8mm; }
h1 { font: 650 20pt/1.2 Literata, Georgia, serif; margin: 0; }
p { margin: 2mm 0; } .faint { color: #5f6673; }
table { border-collapse: collapse; width: 100%; margin-top: 5mm; font-size: 9pt; } caption { text-align: left; font-weight: 700; margin-bottom: 1mm; }
th, td { text-align: left; padding: 1.2mm 1.6mm; border-bottom: 0.3mm solid #e4ddd0; vertical-align: top; }
td:first-child { min-width: 45mm; overflow-wrap: anywhere; } th { font-size: 8pt; color: #5f6673; font-weight: 600; } td.number { text-align: right; white-space: nowrap; }
.out { font-weight: 700; text-decoration: underline; } .sum { font: 7.5pt/1.3 ui-monospace, monospace; overflow-wrap: anywhere; }
tr { break-inside: avoid; } @media print { body { margin: 0; } @page { size: A4 landscape; margin: 14mm; } }
`;

/**
 * One page for printing: what was delivered, every limited value, what is wrong, and the checksum of each
 * file.
 */
export function reportHtml(report: Report): string {
  const { project, spec, madeAt, files, sessions = [] } = report;
  const limited = measures.filter((measure) => {
    const limit = spec.limits[measure];
    const isLimited = limit && (limit.min !== null || limit.max !== null);
    // Length and size have columns of their own.
    return isLimited && measure !== 'durationSeconds' && measure !== 'fileMegabytes';
  });
  const others = (['integratedLufs', 'truePeakDbtp', 'loudnessRangeLu', 'rmsDbfs'] as const).filter(
    (measure) => !limited.includes(measure),
  );
  const shown: Measure[] = [...limited, ...others];
  const passing = files.filter(filePasses).length;
  const cell = (file: ReportFile, measure: Measure) => {
    const value = valueFor(spec, measure, file.judged);
    const out = file.verdicts.some((verdict) => verdict.measure === measure && !verdict.passes);
    const text = value === undefined ? '' : formatMeasure(measure, value);
    return `<td class="number${out ? ' out' : ''}">${escapeHtml(text)}</td>`;
  };
  const row = (file: ReportFile) =>
    `<tr><td>${escapeHtml(file.fileName)}</td><td>${filePasses(file) ? say`passes` : `<b class="out">${say`faults`}</b>`}</td>${shown
      .map((measure) => cell(file, measure))
      .join(
        '',
      )}<td class="number">${formatTime(file.judged.durationSeconds, true)}</td><td class="number">${formatBytes(file.bytes)}</td></tr>`;
  const chained = files.filter(({ chains }) => chains && chains.length > 0);
  const faults = files.flatMap((file) => faultsOf(file).map((fault) => ({ file, fault })));
  const passingText =
    files.length === 1
      ? say`${passing} of ${files.length} file passes`
      : say`${passing} of ${files.length} files pass`;
  return `<!doctype html>
<html lang="${language}"><head><meta charset="utf-8"><title>${escapeHtml(say`${project}: proof report`)}</title><style>${css}</style></head><body>
<h1>${escapeHtml(project)}</h1>
<p><b>${passingText}</b> ${escapeHtml(say`the spec “${spec.name}”: ${describeSpec(spec)}`)}</p>
<p class="faint">${escapeHtml(say`All values are of the finished files, decoded and measured by ${measuredBy(spec)} ${appName}, ${madeAt.slice(0, 16).replace('T', ' ')} UTC.`)}</p>
<table><caption>${say`Files`}</caption><thead><tr><th>${say`File`}</th><th>${say`Verdict`}</th>${shown
    .map((measure) => `<th>${escapeHtml(measureLabels[measure].name)}</th>`)
    .join(
      '',
    )}<th>${say`Length`}</th><th>${say`Size`}</th></tr></thead><tbody>${files.map(row).join('\n')}</tbody></table>
${
  faults.length === 0
    ? ''
    : `<table><caption>${say`What to look at`}</caption><tbody>${faults
        .map(
          ({ file, fault }) => `<tr><td>${escapeHtml(file.fileName)}</td><td>${escapeHtml(fault)}</td></tr>`,
        )
        .join('\n')}</tbody></table>`
}
${chained.length === 0 ? '' : `<table><caption>${say`What the voices went through`}</caption><tbody>${chained.map(({ fileName, chains }) => `<tr><td>${escapeHtml(fileName)}</td><td>${escapeHtml((chains ?? []).join(' '))}</td></tr>`).join('\n')}</tbody></table>`}
<table><caption>${say`Checksums (SHA-256)`}</caption><tbody>${files
    .map(
      ({ fileName, sha256 }) =>
        `<tr><td>${escapeHtml(fileName)}</td><td class="sum">${escapeHtml(sha256)}</td></tr>`,
    )
    .join('\n')}</tbody></table>
${sessions.length === 0 ? '' : `<table><caption>${say`Sessions with talents far away (UTC)`}</caption><tbody>${sessions.map(({ at, who, what }) => `<tr><td>${escapeHtml(at.slice(0, 19).replace('T', ' '))}</td><td>${escapeHtml(who)}</td><td>${escapeHtml(what)}</td></tr>`).join('\n')}</tbody></table>`}
</body></html>
`;
}

/** “−20.9 dBFS RMS, −4.2 dBFS peak”: a file in one line. */
export const describeMeasured = ({ integratedLufs, rmsDbfs, samplePeakDbfs, truePeakDbtp }: Measurement) =>
  `${formatDb(integratedLufs, 'LUFS')}, RMS ${formatDb(rmsDbfs, 'dBFS')}, peak ${formatDb(samplePeakDbfs, 'dBFS')} / ${formatDb(truePeakDbtp, 'dBTP')}`;
