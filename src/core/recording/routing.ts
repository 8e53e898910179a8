/**
 * The input that a track records where nothing else is said. One is open at a time today; each has an id of
 * its own all the same.
 */
export const mainInput = 'main';

/** Which channel of which input a track records. */
export interface ArmedTrack {
  readonly id: string;
  readonly name: string;
  readonly input: string;
  /** Channel of the input, from 0. */
  readonly channel: number;
}

interface RouteOf {
  readonly track: string;
  /** Id of the input; the main one when missing. */
  readonly input?: string;
  readonly channel: number;
  readonly armed: boolean;
}

/** How many channels each open input has, by its id. */
export type InputChannels = Readonly<Record<string, number>>;

/**
 * The route of a track: as set, or by default channel n of the main input for track n, only the first one
 * armed.
 */
export function routeOf(
  trackId: string,
  index: number,
  routes: readonly RouteOf[],
): RouteOf & { readonly input: string } {
  const set = routes.find(({ track }) => track === trackId);
  return { input: mainInput, ...(set ?? { track: trackId, channel: index, armed: index === 0 }) };
}

/** Every armed track with the channel it wants, in the order of the staves. */
const wanted = (tracks: readonly { id: string; name: string }[], routes: readonly RouteOf[]): ArmedTrack[] =>
  tracks.flatMap(({ id, name }, index) => {
    const { input, channel, armed } = routeOf(id, index, routes);
    return armed ? [{ id, name, input, channel }] : [];
  });

const isReachable = ({ input, channel }: ArmedTrack, inputs: InputChannels) => channel < (inputs[input] ?? 0);

/** The tracks that Record will write. Channels no input has are not recorded. */
export const armedTracks = (
  tracks: readonly { id: string; name: string }[],
  routes: readonly RouteOf[],
  inputs: InputChannels,
) => wanted(tracks, routes).filter((track) => isReachable(track, inputs));

/** Armed tracks whose channel their input does not have. */
export const unreachableTracks = (
  tracks: readonly { id: string; name: string }[],
  routes: readonly RouteOf[],
  inputs: InputChannels,
) => wanted(tracks, routes).filter((track) => !isReachable(track, inputs));
