import { say } from '../../texts/say';
import { builtInChains } from '../chain/builtIn';
import type { Chain } from '../chain/chain';
import { defaultCueSettings } from '../recording/cueSettings';
import { findSpec } from '../specs/builtIn';
import { recordDefaults } from '../recording/recordDefaults';
import type { Spec } from '../specs/spec';
import { defaultDucking } from '../timeline/ducking';
import type { Template, TemplateTrack } from './template';

function specNamed(name: string): Spec {
  const spec = findSpec(name);
  if (!spec) throw new Error(`There is no spec ${name}`);
  return spec;
}

function chainNamed(name: string): Chain {
  const chain = builtInChains.find((one) => one.name === name);
  if (!chain) throw new Error(`There is no chain ${name}`);
  return { name: chain.name, steps: chain.steps };
}

const voice = (name: string, channel: number, chain?: string): TemplateTrack => ({
  name,
  channel,
  armed: true,
  ...(chain && { chain: chainNamed(chain) }),
});

/** The templates to begin with; how each is set is common practice of its trade. */
export const builtInTemplates: readonly Template[] = [
  {
    name: say`Audiobook`,
    note: say`One voice, a part a chapter between the credits; the script in sentences; Record goes on from chapter to chapter.`,
    spec: specNamed('Audiobook retail'),
    rateHz: 44_100,
    joinMs: 10,
    parts: [say`Opening credits`, say`Chapter 1`, say`Closing credits`],
    further: say`Chapter {n}`,
    tracks: [voice(say`Voice`, 0, say`Quiet booth, one voice`)],
    beds: [],
    recording: { ...recordDefaults, keepGoing: true },
    split: 'sentences',
  },
  {
    name: say`Interview podcast`,
    note: say`Host and guest, each on an input of their own; recorded in one go, edited afterwards.`,
    spec: specNamed('Podcast stereo'),
    rateHz: 48_000,
    joinMs: 15,
    parts: [say`Episode 1`],
    further: say`Episode {n}`,
    tracks: [voice(say`Host`, 0), voice(say`Guest`, 1)],
    // A usual level under voices and a usual way down; common practice.
    beds: [{ name: say`Music`, levelDb: -12, place: 0, ducking: defaultDucking }],
    recording: recordDefaults,
    split: 'paragraphs',
  },
  {
    name: say`Cue by cue`,
    note: say`Lines to a picture or a list of times: each cue with run-up, beeps and sweep; a line of the script a cue.`,
    spec: specNamed('Dry voice'),
    rateHz: 48_000,
    joinMs: 10,
    parts: [say`Reel 1`],
    further: say`Reel {n}`,
    tracks: [voice(say`Voice`, 0)],
    beds: [],
    recording: { ...recordDefaults, mode: 'cue', cue: { ...defaultCueSettings, then: 'next' } },
    split: 'lines',
  },
];
