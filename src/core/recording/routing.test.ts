import { armedTracks, mainInput, routeOf, unreachableTracks } from './routing';

const tracks = [
  { id: 'a', name: 'Ada' },
  { id: 'b', name: 'Berthe' },
  { id: 'c', name: 'Carl' },
];
const main = (channels: number) => ({ [mainInput]: channels });

test('without routes the first track records the first channel, the others wait with theirs', () => {
  expect(armedTracks(tracks, [], main(2))).toEqual([{ id: 'a', name: 'Ada', input: mainInput, channel: 0 }]);
  expect(routeOf('b', 1, [])).toEqual({ track: 'b', input: mainInput, channel: 1, armed: false });
});

test('routes of tracks, in the order of the staves; two may share a channel', () => {
  const routes = [
    { track: 'c', channel: 0, armed: true },
    { track: 'a', channel: 0, armed: true },
    { track: 'b', channel: 7, armed: true },
    { track: 'gone', channel: 3, armed: true },
  ];
  expect(armedTracks(tracks, routes, main(2)).map(({ name }) => name)).toEqual(['Ada', 'Carl']);
  expect(unreachableTracks(tracks, routes, main(2))).toEqual([
    { id: 'b', name: 'Berthe', input: mainInput, channel: 7 },
  ]);
  expect(armedTracks(tracks, routes, main(8))).toHaveLength(3);
});

test('a track of an input that is not open cannot be recorded, whatever the others have', () => {
  const routes = [{ track: 'b', input: 'far', channel: 0, armed: true }];
  expect(armedTracks(tracks, routes, main(8)).map(({ id }) => id)).toEqual(['a']);
  expect(unreachableTracks(tracks, routes, main(8)).map(({ input }) => input)).toEqual(['far']);
  expect(armedTracks(tracks, routes, { ...main(1), far: 1 }).map(({ id }) => id)).toEqual(['a', 'b']);
});
