import { armedTracks, routeOf, unreachableTracks } from './routing';

const tracks = [
  { id: 'a', name: 'Ada' },
  { id: 'b', name: 'Berthe' },
  { id: 'c', name: 'Carl' },
];

test('without routes the first track records the first input, the others wait with theirs', () => {
  expect(armedTracks(tracks, [], 2)).toEqual([{ id: 'a', name: 'Ada', channel: 0 }]);
  expect(routeOf('b', 1, [])).toEqual({ track: 'b', channel: 1, armed: false });
});

test('routes of tracks, in the order of the staves; two may share an input', () => {
  const routes = [
    { track: 'c', channel: 0, armed: true },
    { track: 'a', channel: 0, armed: true },
    { track: 'b', channel: 7, armed: true },
    { track: 'gone', channel: 3, armed: true },
  ];
  expect(armedTracks(tracks, routes, 2).map(({ name }) => name)).toEqual(['Ada', 'Carl']);
  expect(unreachableTracks(tracks, routes, 2)).toEqual([{ id: 'b', name: 'Berthe', channel: 7 }]);
  expect(armedTracks(tracks, routes, 8)).toHaveLength(3);
});
