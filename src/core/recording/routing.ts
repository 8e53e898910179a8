/** Which channel of the input a track records. */
export interface ArmedTrack {
  readonly id: string;
  readonly name: string;
  /** Channel of the input, from 0. */
  readonly channel: number;
}

interface RouteOf {
  readonly track: string;
  readonly channel: number;
  readonly armed: boolean;
}

/** The route of a track: as set, or by default input n for track n, only the first one armed. */
export function routeOf(trackId: string, index: number, routes: readonly RouteOf[]): RouteOf {
  return (
    routes.find(({ track }) => track === trackId) ?? { track: trackId, channel: index, armed: index === 0 }
  );
}

/** Every armed track with the channel it wants, in the order of the staves. */
const wanted = (tracks: readonly { id: string; name: string }[], routes: readonly RouteOf[]): ArmedTrack[] =>
  tracks.flatMap(({ id, name }, index) => {
    const { channel, armed } = routeOf(id, index, routes);
    return armed ? [{ id, name, channel }] : [];
  });

/** The tracks that Record will write. Channels the input does not have are not recorded. */
export const armedTracks = (
  tracks: readonly { id: string; name: string }[],
  routes: readonly RouteOf[],
  inputChannels: number,
) => wanted(tracks, routes).filter(({ channel }) => channel < inputChannels);

/** Armed tracks whose channel the input does not have. */
export const unreachableTracks = (
  tracks: readonly { id: string; name: string }[],
  routes: readonly RouteOf[],
  inputChannels: number,
) => wanted(tracks, routes).filter(({ channel }) => channel >= inputChannels);
