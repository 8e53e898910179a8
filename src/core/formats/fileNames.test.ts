import { fillTemplate, safeName, unknownFields, withoutCollisions } from './fileNames';

describe('file names', () => {
  test.each([
    ['The Lamp House', 'The-Lamp-House'],
    ['a/b\\c:d', 'a-b-c-d'],
    ['“Say ‘hi’”', 'Say-hi'],
    ['🎙️ voice?*', '🎙️-voice'],
    ['..', 'untitled'],
    ['CON', 'untitled'],
    ['   ', 'untitled'],
    ['Überfahrt – Stürme', 'Überfahrt-–-Stürme'],
  ])('%s becomes %s', (name, safe) => expect(safeName(name)).toBe(safe));

  test('are numbered with two digits or as many as the parts need, and never too long', () => {
    const name = {
      ...{ project: 'P', number: 7, parts: 9, part: 'Stair', voice: '', take: 'Take 3' },
      ...{ spec: 'Dry voice', date: '2026-11-25', rateHz: 44_100 },
    };
    const template = '{project}_{nn}_{part}';
    expect(fillTemplate(template, name)).toBe('P_07_Stair');
    expect(fillTemplate(template, { ...name, parts: 120 })).toBe('P_007_Stair');
    const long = fillTemplate(template, { ...name, project: 'ß'.repeat(400), part: '語'.repeat(400) });
    expect(Buffer.byteLength(`${long}.flac`)).toBeLessThanOrEqual(255);
    expect(fillTemplate('{spec}: {take} ({rate}) {date}', name)).toBe('Dry-voice-Take-3-(44100)-2026-11-25');
    // A field without a text takes its separator along.
    expect(fillTemplate('{voice}_{part}', name)).toBe('Stair');
    expect(fillTemplate('{project}_{voice}_{n}', name)).toBe('P_7');
    expect(fillTemplate('../{part}/..', { ...name, part: '../../etc' })).toBe('etc');
    expect(fillTemplate('{voice}', name)).toBe('untitled');
    expect(unknownFields('{project}_{chapter}_{nn}')).toEqual(['chapter']);
  });

  test('that would be the same file are made different, whatever the case', () => {
    expect(withoutCollisions(['a.wav', 'A.wav', 'a-2.wav', 'b.mp3'])).toEqual([
      'a.wav',
      'A-2.wav',
      'a-2-2.wav',
      'b.mp3',
    ]);
  });
});
