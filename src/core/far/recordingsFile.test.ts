import { readRecordingsList, writeRecordingsList } from './recordingsFile';

const id = '0b5e4a4e-9c1d-4c3f-8d20-5b1d6f0a9c77';
const recording = {
  id,
  take: id,
  rateHz: 48_000,
  channels: 1,
  frames: 1000,
  closed: true,
  startsAt: 1.5,
  life: id,
  clock: null,
  studioLife: null,
};
const file = { person: id, name: 'Mara', recordings: [recording] };

test('a list of recordings is read as it was written', () => {
  expect(readRecordingsList(writeRecordingsList(file))).toEqual(file);
});

test.each([
  ['', /not a whole file of takes/],
  ['{}', /not a whole file of takes/],
  [writeRecordingsList({ ...file, recordings: [{ ...recording, frames: -1 }] }), /not a whole file of takes/],
  [
    writeRecordingsList({ ...file, recordings: [{ ...recording, id: '../../x' }] }),
    /not a whole file of takes/,
  ],
  [writeRecordingsList(file).replace('"version": 1', '"version": 2'), /later version/],
])('one that is none says so (%#)', (text, message) =>
  expect(() => readRecordingsList(text)).toThrow(message),
);
