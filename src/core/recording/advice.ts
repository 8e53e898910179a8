import { decimal, say, withinSentence } from '../../texts/say';
import { formatDb } from '../base/units';
import { faintPeakDbfs, type LevelProfile } from './levelProfiles';
import { toneBandsHz, type SoundCheck } from './soundCheck';

/**
 * One thing to know or to do. `fine` needs nothing, `better` would help, `must` has to change before
 * recording.
 */
export interface Advice {
  weight: 'fine' | 'better' | 'must';
  text: string;
}

/** Speech needs to stand this far over the room, and is good from the second value on; *common practice*. */
const leastSpeechToNoiseDb = 15;
const goodSpeechToNoiseDb = 30;
const mostDcOffset = 0.003;
/** Changes smaller than this are not worth touching a knob for. */
const smallestStepDb = 1;

const db = (value: number) => `${Math.round(Math.abs(value))} dB`;

const order = { must: 0, better: 1, fine: 2 };

/** The most pressing first; of the same weight as they were. */
export const byWeight = (advice: readonly Advice[]): Advice[] =>
  [...advice].sort((a, b) => order[a.weight] - order[b.weight]);

/** What to do about a sound check, in numbers, the most pressing first. */
export function adviseOn(check: SoundCheck, profile: LevelProfile): Advice[] {
  const advice = [levelAdvice(check, profile), ...roomAdvice(check, profile), ...faults(check)];
  return byWeight(advice);
}

function levelAdvice(check: SoundCheck, { peakDbfs, name }: LevelProfile): Advice {
  const loudest = check.loudestPeakDbfs;
  const shown = formatDb(loudest, 'dBFS');
  const aim = say`${peakDbfs.min} to ${peakDbfs.max} dBFS, ${withinSentence(name)}`.replaceAll('-', '−');
  const middle = (peakDbfs.min + peakDbfs.max) / 2;
  if (!Number.isFinite(loudest) || loudest < -60) {
    return {
      weight: 'must',
      text: say`Nothing was heard. Is the microphone muted, or is another one chosen?`,
    };
  }
  if (check.clippedSamples > 0) {
    return {
      weight: 'must',
      text: say`The loudest passage clipped: turn the gain down about ${db(Math.max(6, loudest - middle))} and check again.`,
    };
  }
  if (loudest > peakDbfs.max) {
    const much = loudest - middle;
    return {
      weight: loudest > -3 ? 'must' : 'better',
      text: say`The loudest passage peaks at ${shown}: turn the gain down about ${db(much)} (aim: ${aim}).`,
    };
  }
  if (loudest < peakDbfs.min && peakDbfs.min - loudest >= smallestStepDb) {
    return {
      weight: loudest < faintPeakDbfs ? 'must' : 'better',
      text: say`The loudest passage only peaks at ${shown}: turn the gain up about ${db(middle - loudest)} (aim: ${aim}).`,
    };
  }
  return { weight: 'fine', text: say`The loudest passage peaks at ${shown}, on target (${aim}).` };
}

function roomAdvice(check: SoundCheck, { roomDbfs }: LevelProfile): Advice[] {
  const { speechToNoiseDb, hum } = check;
  const advice: Advice[] = [];
  if (Number.isFinite(speechToNoiseDb) && speechToNoiseDb < goodSpeechToNoiseDb) {
    // Half the distance is 6 dB more of the voice and the same room (inverse distance law).
    const halve = speechToNoiseDb < goodSpeechToNoiseDb - 6 ? say` Half the distance gives 6 dB more.` : '';
    advice.push({
      weight: speechToNoiseDb < leastSpeechToNoiseDb ? 'must' : 'better',
      text: say`Move closer or quieten the room: speech is ${db(speechToNoiseDb)} over the room, ${goodSpeechToNoiseDb} dB is good.${halve}`,
    });
  }
  if (check.roomDbfs === -Infinity) {
    advice.push({
      weight: 'must',
      text: say`The silence was digital silence: a muted microphone or a noise gate. Turn it off, so that there is room tone to patch with.`,
    });
  } else if (check.roomDbfs > roomDbfs) {
    advice.push({
      weight: 'better',
      text: say`The room is at ${formatDb(check.roomDbfs, 'dBFS')}, ${db(check.roomDbfs - roomDbfs)} over the ${roomDbfs} dBFS wanted: look for fans, fridges, windows.`.replaceAll(
        '-',
        '−',
      ),
    });
  } else {
    advice.push({
      weight: 'fine',
      text: say`The room is quiet enough: ${formatDb(check.roomDbfs, 'dBFS')}.`,
    });
  }
  if (hum) {
    const multiples = hum.harmonics.map((k) => k * hum.mainsHz).join(', ');
    advice.push({
      weight: hum.levelDbfs > roomDbfs ? 'must' : 'better',
      text: say`There is mains hum at ${multiples} Hz, ${formatDb(hum.levelDbfs, 'dBFS')} together: check cables, dimmers and power supplies near the microphone.`,
    });
  }
  return advice;
}

function faults({ dcOffset }: SoundCheck): Advice[] {
  if (Math.abs(dcOffset) <= mostDcOffset) return [];
  return [
    {
      weight: 'better',
      text: say`The input has a DC offset of ${decimal(dcOffset * 100, 1).replace('-', '−')} %: it costs headroom and clicks at cuts. Another input or driver may be free of it.`,
    },
  ];
}

/** How far a session is from an earlier one: this minus the reference, dB. */
export interface Departure {
  speechDb: number;
  roomDb: number;
  /** The largest difference of the long-term spectrum, at bands where speech has energy, and where it is. */
  tone: { db: number; hertz: number };
}

/** Bands this far under the speech level say nothing about the voice. */
const toneFloorDb = -40;

export function compareChecks(check: SoundCheck, reference: SoundCheck): Departure {
  let tone = { db: 0, hertz: 0 };
  check.tone.forEach((level, band) => {
    const before = reference.tone[band];
    if (!(level > toneFloorDb || before > toneFloorDb)) return;
    const difference = Math.max(level, toneFloorDb) - Math.max(before, toneFloorDb);
    if (Math.abs(difference) > Math.abs(tone.db)) tone = { db: difference, hertz: toneBandsHz[band] };
  });
  return {
    speechDb: check.speechDbfs - reference.speechDbfs,
    roomDb: check.roomDbfs - reference.roomDbfs,
    tone,
  };
}

/** What to do to sound as in the session before. */
export function adviseToMatch({ speechDb, roomDb, tone }: Departure): Advice[] {
  const advice: Advice[] = [];
  const direction = (value: number, more: string, less: string) => (value > 0 ? more : less);
  if (Math.abs(speechDb) >= 1.5) {
    advice.push({
      weight: 'better',
      text: say`Speech is ${db(speechDb)} ${direction(speechDb, say`louder`, say`quieter`)} than in the reference: turn the gain ${direction(speechDb, say`down`, say`up`)} about ${db(speechDb)}.`,
    });
  }
  if (Math.abs(roomDb) >= 3) {
    advice.push({
      weight: 'better',
      text: say`The room is ${db(roomDb)} ${direction(roomDb, say`louder`, say`quieter`)} than in the reference.`,
    });
  }
  if (Math.abs(tone.db) >= 4) {
    const near = tone.hertz < 300 && tone.db > 0 ? say` You may be closer to the microphone.` : '';
    const off = tone.hertz > 4000 && tone.db < 0 ? say` You may be speaking beside the microphone.` : '';
    advice.push({
      weight: 'better',
      text: say`The tone differs: ${db(tone.db)} ${direction(tone.db, say`more`, say`less`)} at ${tone.hertz} Hz.${near}${off}`,
    });
  }
  return advice.length > 0
    ? advice
    : [{ weight: 'fine', text: say`Level, room and tone match the reference session.` }];
}
