import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { MemorySource } from './bytes';
import { id3Bytes } from './mp3Decoder';
import { concat, firstDifference, noise, scratchFolder, sine, writeWav } from '../testing/signals';
import { ffmpegChannels, ffprobe, mediainfo, readWhole, sourceOf, writeSound } from '../testing/soundFiles';

const folder = scratchFolder();
const left = noise(40_001, -18, 5);
const right = noise(40_001, -24, 6);
const input = writeWav(`${folder}/in.wav`, 44_100, [left, right]);
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);

/** Our reader against ffmpeg, sample by sample. */
async function expectSameAsFfmpeg(file: string, channels: number) {
  const { audio, sound } = await readWhole(sourceOf(file));
  ffmpegChannels(file, channels).forEach((theirs, channel) =>
    expect(firstDifference(audio[channel], theirs)).toBe(-1),
  );
  return sound;
}

const marks = [
  { at: 0, length: 0, name: 'Arrival' },
  { at: 12_000, length: 4_800, name: 'A note, with “quotes” and ü' },
  { at: 30_000, length: 0, name: 'The lamp' },
];

describe('reading WAV', () => {
  test.each(['pcm_alaw', 'pcm_mulaw'])('%s is what ffmpeg makes of it (ITU-T G.711)', async (codec) => {
    const file = `${folder}/${codec}.wav`;
    ffmpeg('-i', input, '-c:a', codec, file);
    expect(await expectSameAsFfmpeg(file, 2)).toMatchObject({ kind: 'wav', rateHz: 44_100, channels: 2 });
  });

  test('µ-law by sox as well', async () => {
    const file = `${folder}/sox.wav`;
    execFileSync('sox', ['-D', input, '-e', 'mu-law', file]);
    await expectSameAsFfmpeg(file, 2);
  });

  test('24-bit WAVE_FORMAT_EXTENSIBLE and RF64, as ffmpeg writes them', async () => {
    const extensible = `${folder}/extensible.wav`;
    ffmpeg('-i', input, '-c:a', 'pcm_s24le', extensible);
    expect(readFileSync(extensible).readUInt16LE(20)).toBe(0xfffe);
    await expectSameAsFfmpeg(extensible, 2);
    const rf64 = `${folder}/rf64.wav`;
    ffmpeg('-i', input, '-rf64', 'always', '-c:a', 'pcm_s16le', rf64);
    expect(readFileSync(rf64).subarray(0, 4).toString()).toBe('RF64');
    await expectSameAsFfmpeg(rf64, 2);
  });

  test('a Broadcast WAV by ffmpeg: time, date and origin (EBU Tech 3285)', async () => {
    const file = `${folder}/bext.wav`;
    ffmpeg(
      ...['-i', input, '-write_bext', '1', '-metadata', 'time_reference=123456789012'],
      ...['-metadata', 'description=The stair', '-metadata', 'origination_date=2026-11-25', file],
    );
    const { sound } = await readWhole(sourceOf(file));
    expect(sound.origin).toMatchObject({
      timeReference: 123_456_789_012,
      description: 'The stair',
      date: '2026-11-25',
    });
  });
});

describe('marks in a WAV', () => {
  test('come back as they were written, and the audio around them is untouched', async () => {
    const file = await writeSound(
      `${folder}/marks.wav`,
      [left],
      { encoding: 'pcm24', marks: true },
      { marks },
    );
    const { sound, audio } = await readWhole(sourceOf(file));
    expect(sound.marks).toEqual(marks);
    expect(audio[0]).toHaveLength(left.length);
    await expectSameAsFfmpeg(file, 1);
    expect(readFileSync(file).readUInt32LE(4)).toBe(readFileSync(file).length - 8);
  });

  test('are found by sox, at the rate of the file', async () => {
    const file = await writeSound(
      `${folder}/marks-441.wav`,
      [left],
      { encoding: 'pcm16', rateHz: 44_100, marks: true },
      { marks },
    );
    const { sound } = await readWhole(sourceOf(file));
    expect(sound.marks.map(({ at }) => at)).toEqual([0, 11_025, 27_563]);
    expect(sound.marks[1].length).toBe(4410);
    // A chunk that does not fit would be told of.
    expect(execFileSync('sox', ['--i', file], { encoding: 'utf8' })).toContain('Sample Rate    : 44100');
  });
});

describe('bext of a file that was written', () => {
  test('holds the loudness that was measured, read by mediainfo and ffprobe', async () => {
    const tone = sine(48_000, 20, 1000, -23);
    const broadcast = {
      description: 'Tech 3341, case 1',
      originator: 'Parola',
      originatorReference: 'REF',
      recordedAt: Date.UTC(2026, 10, 25, 9, 30),
      utcOffsetMinutes: 0,
      timeReference: 48_000 * 3600,
      codingHistory: 'A=PCM,F=48000,M=stereo,T=Parola\r\n',
    };
    const file = await writeSound(`${folder}/r128.wav`, [tone, tone], { broadcast: true }, { broadcast });
    // ffmpeg names the fields of the chunk in its own way.
    const { tags } = ffprobe(file).format;
    expect(tags).toMatchObject({
      time_reference: '172800000',
      date: '2026-11-25',
      comment: 'Tech 3341, case 1',
    });
    const bytes = readFileSync(file);
    expect(bytes.subarray(12, 16).toString()).toBe('bext');
    const fields = [0, 1, 2, 3, 4].map((field) => bytes.readInt16LE(20 + 412 + field * 2));
    // EBU Tech 3341 case 1: I, M and S are −23.0 LUFS; the true peak of the tone is its own −23 dBTP.
    expect(fields[0]).toBeCloseTo(-2300, -1);
    expect(fields[1]).toBe(0);
    expect(fields[2]).toBeCloseTo(-2300, -1);
    expect(fields[3]).toBeCloseTo(-2300, -1);
    expect(fields[4]).toBeCloseTo(-2300, -1);
    expect(mediainfo(file, 'General;%Delay/String3%|%OriginalSourceForm/Name%|%Encoded_Date%')).toContain(
      '2026-11-25',
    );
  });
});

describe('AIFF', () => {
  test.each([
    ['pcm_s8', 'aiff'],
    ['pcm_s16be', 'aiff'],
    ['pcm_s24be', 'aiff'],
    ['pcm_s32be', 'aiff'],
    ['pcm_s16le', 'aiff'],
    ['pcm_f32be', 'aiff'],
    ['pcm_f64be', 'aiff'],
    ['pcm_alaw', 'aiff'],
    ['pcm_mulaw', 'aiff'],
  ])('%s is read as ffmpeg reads it', async (codec) => {
    const file = `${folder}/${codec}.aiff`;
    ffmpeg('-i', input, '-c:a', codec, file);
    expect(await expectSameAsFfmpeg(file, 2)).toMatchObject({ kind: 'aiff', rateHz: 44_100, frames: 40_001 });
  });

  test.each([
    ['pcm16', 16],
    ['pcm24', 24],
  ] as const)(
    '%s as it is written is what a WAV of the same holds, by ffmpeg, sox and mediainfo',
    async (encoding, bits) => {
      const format = { encoding, rateHz: 44_100, dither: false } as const;
      const aiff = await writeSound(
        `${folder}/${encoding}.aif`,
        [left, right],
        { ...format, container: 'aiff' },
        { rateHz: 44_100 },
      );
      const wav = await writeSound(`${folder}/${encoding}.wav`, [left, right], format, { rateHz: 44_100 });
      const expected = ffmpegChannels(wav, 2);
      ffmpegChannels(aiff, 2).forEach((samples, channel) =>
        expect(firstDifference(samples, expected[channel])).toBe(-1),
      );
      expect(execFileSync('soxi', ['-s', aiff], { encoding: 'utf8' }).trim()).toBe('40001');
      expect(execFileSync('soxi', ['-r', aiff], { encoding: 'utf8' }).trim()).toBe('44100');
      expect(mediainfo(aiff, 'Audio;%BitDepth%')).toBe(String(bits));
      await expectSameAsFfmpeg(aiff, 2);
      expect(readFileSync(aiff).readUInt32BE(4)).toBe(readFileSync(aiff).length - 8);
    },
  );

  test('one that is cut short gives what is whole, and says so', async () => {
    const bytes = new Uint8Array(readFileSync(`${folder}/pcm_s16be.aiff`));
    const { sound, audio } = await readWhole(new MemorySource(bytes.slice(0, bytes.length - 40_000)));
    expect(sound.truncated).toBe(true);
    expect(audio[0]).toHaveLength(30_001);
  });

  test.each([
    ['a FORM of something else', 'FORM\0\0\0\x04ILBM', /not an AIFF/],
    ['one without audio', 'FORM\0\0\0\x04AIFF', /common chunk is missing/],
  ])('%s is refused with a reason', async (_, text, reason) => {
    const bytes = Uint8Array.from(text, (letter) => letter.charCodeAt(0));
    await expect(readWhole(new MemorySource(bytes))).rejects.toThrow(reason);
  });
});

describe('reading FLAC', () => {
  const voice = concat(sine(44_100, 0.4, 220, -12), noise(30_000, -40, 9), new Float32Array(9_000));
  const flacs: [string, string[], 16 | 24][] = [
    ['fastest', ['-0'], 16],
    ['usual', ['-5'], 16],
    ['slowest', ['-8', '-e', '-p'], 16],
    ['24 bits', ['-8'], 24],
    ['short blocks', ['-5', '-b', '192'], 24],
    ['verbatim and fixed', ['-l', '0', '-r', '0,0'], 16],
  ];

  test.each(flacs)(
    '%s, by flac: sample by sample what flac decodes, checksum and all',
    async (name, args, bits) => {
      const wav = `${folder}/flac-in.wav`;
      writeWav(wav, 44_100, [voice, voice.map((sample) => sample * 0.7)], bits === 16 ? 'pcm16' : 'pcm24');
      const file = `${folder}/${name.replaceAll(' ', '-')}.flac`;
      execFileSync('flac', ['-s', '-f', ...args, '-o', file, wav]);
      const { sound, audio } = await readWhole(sourceOf(file));
      expect(sound).toMatchObject({
        kind: 'flac',
        channels: 2,
        frames: voice.length,
        truncated: false,
        damaged: false,
      });
      const { audio: expected } = await readWhole(sourceOf(wav));
      audio.forEach((samples, channel) => expect(firstDifference(samples, expected[channel])).toBe(-1));
    },
  );

  test('8-bit samples, by ffmpeg’s reading; silence and noise at full scale', async () => {
    const loud = writeWav(
      `${folder}/loud.wav`,
      48_000,
      [concat(new Float32Array(5000), noise(20_000, 0, 3))],
      'pcm16',
    );
    const file = `${folder}/loud.flac`;
    execFileSync('flac', ['-s', '-f', '-o', file, loud]);
    await expectSameAsFfmpeg(file, 1);
  });

  /**
   * Signals that lead the entropy coding to its ends: long runs of zeros, codes of over 25 bits, a word that
   * begins at the last bytes.
   */
  const extremes: [string, Float32Array][] = [
    ['single clicks in silence', new Float32Array(20_000).map((_, i) => (i % 3001 === 7 ? 0.99 : 0))],
    ['noise over all 24 bits', noise(20_000, 0, 21)],
    ['silence, then noise over all 24 bits', concat(new Float32Array(6_000), noise(14_000, 0, 22))],
    ['full scale up and down', new Float32Array(9_000).map((_, i) => (i % 2 ? 0.9999 : -1))],
    ['one frame', Float32Array.of(0.5)],
    ['a last block of three frames', noise(4_099, -3, 23)],
  ];

  test.each(extremes)('%s: sample by sample what flac was given', async (_, samples) => {
    const wav = writeWav(`${folder}/extreme.wav`, 48_000, [samples], 'pcm24');
    for (const level of ['-0', '-5', '-8']) {
      execFileSync('flac', ['-s', '-f', level, '-o', `${folder}/extreme.flac`, wav], { stdio: 'ignore' });
      const { sound, audio } = await readWhole(sourceOf(`${folder}/extreme.flac`));
      expect(sound).toMatchObject({ frames: samples.length, truncated: false, damaged: false });
      const { audio: expected } = await readWhole(sourceOf(wav));
      expect(firstDifference(audio[0], expected[0])).toBe(-1);
    }
  });

  test('damage in the middle becomes silence in its place, and is told', async () => {
    const bytes = new Uint8Array(readFileSync(`${folder}/usual.flac`)).slice();
    const middle = Math.floor(bytes.length * 0.45);
    bytes.fill(0xaa, middle, middle + 40);
    const { sound, audio } = await readWhole(new MemorySource(bytes));
    expect(sound).toMatchObject({ damaged: true, truncated: false });
    expect(audio[0]).toHaveLength(voice.length);
    const { audio: whole } = await readWhole(sourceOf(`${folder}/usual.flac`));
    expect(firstDifference(audio[0].slice(-4096), whole[0].slice(-4096))).toBe(-1);
    expect(firstDifference(audio[0].slice(0, 4096), whole[0].slice(0, 4096))).toBe(-1);
  });

  test('one that is cut short gives what is whole, and says so', async () => {
    const bytes = new Uint8Array(readFileSync(`${folder}/usual.flac`));
    const { sound, audio } = await readWhole(new MemorySource(bytes.slice(0, bytes.length >> 1)));
    expect(sound.truncated).toBe(true);
    expect(audio[0].length).toBeGreaterThan(4000);
    expect(audio[0].length % 4096).toBe(0);
  });
});

describe('MP3', () => {
  const format = { container: 'mp3', encoding: 'pcm16', rateHz: 44_100 } as const;
  const speech = concat(noise(20_000, -20, 2), noise(30_000, -60, 4), noise(20_007, -18, 3));

  test.each([128, 192, 320] as const)(
    '%d kbit/s constant, joint stereo: exact length, every frame counted',
    async (bitRateKbps) => {
      const file = await writeSound(
        `${folder}/joint.mp3`,
        [speech, speech],
        { ...format, bitRateKbps },
        { rateHz: 44_100 },
      );
      expect(ffmpegChannels(file, 2)[1]).toHaveLength(speech.length);
      expect(ffprobe(file).streams[0]).toMatchObject({ channels: 2, bit_rate: String(bitRateKbps * 1000) });
      expect(mediainfo(file, 'Audio;%Format_Settings_Mode%|%BitRate_Mode%')).toBe('Joint stereo|CBR');
    },
  );

  test.each([64, 128, 192, 224, 256, 320] as const)(
    'a 1 kHz tone is as loud at %d kbit/s as it was, within 0.05 dB',
    async (bitRateKbps) => {
      const tone = sine(44_100, 2, 1000, -12);
      const file = await writeSound(
        `${folder}/tone.mp3`,
        [tone],
        { ...format, bitRateKbps },
        { rateHz: 44_100 },
      );
      const [decoded] = ffmpegChannels(file, 1);
      let common = 0;
      for (let i = 20_000; i < 60_000; i++) common += decoded[i] * tone[i];
      const power = tone.subarray(20_000, 60_000).reduce((sum, sample) => sum + sample * sample, 0);
      expect(Math.abs(20 * Math.log10(common / power))).toBeLessThan(0.05);
    },
  );

  test.each([0, 4])('variable bit rate of quality %d: exact length, known as such', async (vbrQuality) => {
    const file = await writeSound(
      `${folder}/v${vbrQuality}.mp3`,
      [speech],
      { ...format, vbrQuality: vbrQuality as 0 },
      { rateHz: 44_100 },
    );
    const [decoded] = ffmpegChannels(file, 1);
    expect(decoded).toHaveLength(speech.length);
    expect(mediainfo(file, 'Audio;%BitRate_Mode%')).toBe('VBR');
    // At the right place: a frame late, noise would have nothing in common with itself.
    let common = 0;
    for (let i = 0; i < 20_000; i++) common += decoded[i] * speech[i];
    const power = speech.subarray(0, 20_000).reduce((sum, sample) => sum + sample * sample, 0);
    expect(common / power).toBeGreaterThan(0.5);
    const { audio } = await readWhole(sourceOf(file));
    expect(audio[0]).toHaveLength(speech.length);
  });

  test('tags, cover and chapters are there for ffprobe and mediainfo (ID3v2.4)', async () => {
    const tags = {
      title: 'The stair – “ü”',
      album: 'The Lamp House',
      artist: 'Narrator',
      track: 3,
      tracks: 6,
      date: '2026-11-25',
      comment: '',
    };
    const picture = `${folder}/cover.png`;
    ffmpeg('-f', 'lavfi', '-i', 'color=red:s=64x64', '-frames:v', '1', picture);
    const cover = { mime: 'image/png' as const, bytes: new Uint8Array(readFileSync(picture)) };
    const file = await writeSound(
      `${folder}/tagged.mp3`,
      [speech],
      { ...format, marks: true },
      { rateHz: 44_100, tags, cover, marks },
    );
    const probe = ffprobe(file);
    expect(probe.format.tags).toMatchObject({
      title: tags.title,
      album: tags.album,
      artist: tags.artist,
      track: '3/6',
      date: '2026-11-25',
    });
    expect(probe.chapters.map(({ tags: { title }, start_time }) => [title, Number(start_time)])).toEqual([
      ['Arrival', 0],
      ['A note, with “quotes” and ü', 0.272],
      ['The lamp', 0.68],
    ]);
    expect(Number(probe.chapters[2].end_time)).toBeCloseTo(speech.length / 44_100, 2);
    expect(probe.streams.some(({ codec_name }) => codec_name === 'png')).toBe(true);
    expect(mediainfo(file, 'General;%Cover_Mime%')).toBe('image/png');
    expect(ffmpegChannels(file, 1)[0]).toHaveLength(speech.length);
    const { audio } = await readWhole(sourceOf(file));
    expect(audio[0]).toHaveLength(speech.length);
    expect(id3Bytes(new Uint8Array(readFileSync(file)))).toBeGreaterThan(cover.bytes.length);
  });
});

test('what is neither is refused, whatever it begins like', async () => {
  for (const [name, args] of [
    ['x.ogg', ['-c:a', 'libvorbis']],
    ['x.m4a', ['-c:a', 'aac']],
    ['x.webm', ['-c:a', 'libopus', '-ar', '48000']],
    ['x.aac', ['-c:a', 'aac']],
  ] as const) {
    const file = `${folder}/${name}`;
    ffmpeg('-i', input, ...args, file);
    await expect(readWhole(sourceOf(file))).rejects.toThrow('not a WAV, AIFF, FLAC or MP3');
  }
  writeFileSync(`${folder}/letter.flac`, 'fLaC but not really');
  await expect(readWhole(sourceOf(`${folder}/letter.flac`))).rejects.toThrow('This FLAC file cannot be read');
});
