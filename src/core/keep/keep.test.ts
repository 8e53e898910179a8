import { hoursOf, newSince } from './backups';
import { audioBytes, copyFolderName, stateName } from './copyFolder';
import { minutesLeft, roughly } from './space';
import { parseSums, sumsText } from './sums';

describe('checksums', () => {
  const sha = (digit: string) => digit.repeat(64);
  test('are the lines that sha256sum writes, and are read as it reads them', () => {
    const files = new Map([
      ['audio/b.wav', { bytes: 1, sha256: sha('b') }],
      ['audio/a.wav', { bytes: 2, sha256: sha('a') }],
    ]);
    const text = sumsText(files);
    // GNU coreutils manual, “md5sum invocation”: the digest, a space, a space or an asterisk, the name.
    expect(text).toBe(`${sha('a')}  audio/a.wav\n${sha('b')}  audio/b.wav\n`);
    expect([...parseSums(text)]).toEqual([
      ['audio/a.wav', sha('a')],
      ['audio/b.wav', sha('b')],
    ]);
    expect([...parseSums(`${sha('C')} *audio/c.wav\r\nnot a line\n${sha('d')}`)]).toEqual([
      ['audio/c.wav', sha('c')],
    ]);
  });
});

describe('room', () => {
  test('an hour of one track at 48 kHz takes 700 MB of 32-bit samples with their peaks', () => {
    // 48,000 × 3,600 × 4 bytes are 691.2 MB; three 32-bit values for each 256 samples are 1.2 % more.
    expect(minutesLeft(691.2e6 * (1 + 3 / 256), 48_000, 1)).toBeCloseTo(60, 1);
    expect(minutesLeft(691.2e6 * (1 + 3 / 256), 48_000, 2)).toBeCloseTo(30, 1);
    expect(minutesLeft(0, 48_000, 1)).toBe(0);
  });

  test.each([
    [0.5, 'less than a minute'],
    [1.4, 'one minute'],
    [29.9, '29 minutes'],
    [89, '89 minutes'],
    [150, '2 hours'],
  ])('%d minutes are “%s”', (minutes, told) => expect(roughly(minutes)).toBe(told));
});

describe('the folder', () => {
  test('a project’s own folder is told apart by its id, whatever it is called', () => {
    expect(copyFolderName('The Lamp House', '12345678-9abc')).toBe('The-Lamp-House-12345678');
    expect(copyFolderName('../../etc', '12345678-9abc')).not.toContain('/');
    expect(copyFolderName('', '12345678-9abc')).toBe('untitled-12345678');
  });

  test('the size of a recording is that of its WAV file, beyond 4 GiB too', () => {
    // RIFF: 12 bytes, fmt 26, fact 12, data 8; EBU Tech 3306: ds64 36 more.
    expect(audioBytes({ id: 'a', rateHz: 48_000, channels: 2, frames: 1000 })).toBe(58 + 8000);
    const frames = 600_000_000;
    expect(audioBytes({ id: 'a', rateHz: 48_000, channels: 2, frames })).toBe(58 + 36 + 8 * frames);
  });

  test('ten states take ten places in turn', () => {
    const names = Array.from({ length: 25 }, (_, sequence) => stateName(sequence));
    expect(new Set(names).size).toBe(10);
    expect(names[24]).toBe(names[14]);
  });
});

describe('what stands in no project file', () => {
  const source = (id: string, more = {}) => ({
    ...{ id, frames: 48_000 * 1800, channels: 2, rateHz: 48_000, state: 'kept' },
    ...more,
  });
  test('is what was kept since, without what is deleted or came over a line; hours do not count twice', () => {
    const sources = [
      source('a'),
      source('b'),
      source('c', { deleted: true }),
      source('d', { state: 'recording' }),
      source('e', { role: 'line' }),
      source('f', { role: 'guide' }),
    ];
    const fresh = newSince(sources, new Set(['a']));
    expect(fresh.map(({ id }) => id)).toEqual(['b', 'f']);
    expect(hoursOf(fresh)).toBeCloseTo(1, 9);
  });
});
