import { decimal, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { formatTime } from '@/core/base/units';
import type { Clip } from '@/core/timeline/bedClips';
import { overhang, placedClips, type Lost } from '@/core/timeline/bedTime';
import type { Timeline } from '@/core/timeline/timeline';
import {
  holdOn,
  momentChoices,
  momentKey,
  removeClipOf,
  repeatClip,
  setClip,
  setLoop,
} from '@/state/mix/beds';
import { rateOfProject } from '@/state/project/openProject';
import { ChoiceInPlace } from '../../components/ChoiceInPlace';
import { ValueInPlace } from '../../components/ValueInPlace';

interface Props {
  clip: Clip;
  timeline: Timeline;
  /** What the sentence calls it. */
  name: string;
  several: boolean;
  disabled: boolean;
}

const lostNames: Record<Lost, string> = {
  mark: say`The mark it holds on to is gone`,
  line: say`The line it holds on to is gone`,
  clip: say`The sound it holds on to is gone`,
  words: say`Nobody has been heard to speak yet`,
};

const longestFadeSeconds = 60;
const longestApartSeconds = 600;

/** Where a sound begins and ends, how it comes and goes: one sentence whose values are changed in place. */
export function ClipSentence({ clip, timeline, name, several, disabled }: Props) {
  const rate = rateOfProject();
  const placed = placedClips(timeline)
    .flat()
    .find(({ id }) => id === clip.id);
  const { before } = overhang(timeline);
  const begins = edgeOf('begin', clip, timeline, disabled);
  const ends = edgeOf('end', clip, timeline, disabled);
  const fade = (side: 'fadeIn' | 'fadeOut') => (
    <ValueInPlace
      label={side === 'fadeIn' ? say`Fade in` : say`Fade out`}
      value={clip[side] / rate}
      unit="s"
      step={0.1}
      lowest={0}
      highest={longestFadeSeconds}
      disabled={disabled}
      onChange={(seconds) =>
        setClip(clip.id, side === 'fadeIn' ? say`fade in` : say`fade out`, {
          [side]: Math.round(seconds * rate),
        })
      }
    />
  );
  return (
    <Box
      role="group"
      aria-label={say`${name}, a sound of the bed`}
      sx={{ mb: 1.25, lineHeight: 1.75, fontSize: 14 }}
    >
      {say`${name} begins `}
      {begins}
      {say`, comes in over `}
      {fade('fadeIn')}
      {say`, ends `}
      {ends}
      {say`, and fades over `}
      {fade('fadeOut')}.{' '}
      {several && (
        <>
          {say`Level `}
          <ValueInPlace
            label={say`Level of ${name}`}
            value={clip.levelDb}
            unit="dB"
            step={0.5}
            lowest={-60}
            highest={24}
            disabled={disabled}
            onChange={(levelDb) => setClip(clip.id, say`level of a sound`, { levelDb })}
          />
          .{' '}
        </>
      )}
      {clip.end !== 'sound' && (
        <>
          {say`Where it is too short it `}
          <ChoiceInPlace
            label={say`Where it is too short`}
            value={clip.loop ? 'loop' : 'once'}
            choices={[
              { key: 'loop', name: say`goes round` },
              { key: 'once', name: say`ends` },
            ]}
            disabled={disabled}
            onChange={(key) => void setLoop(clip, key === 'loop')}
          />
          .
        </>
      )}
      {placed && (
        <Typography
          variant="body2"
          color="text.secondary"
        >{say`Heard from ${formatTime(Math.max(0, placed.at) / rate, true)} to ${formatTime((placed.at + placed.frames) / rate, true)}${placed.loop ? say`, round and round` : ''}.`}</Typography>
      )}
      {placed?.lost.map((lost) => (
        <Typography key={lost} variant="body2" color="warning.main" role="status">
          {say`${lostNames[lost]}; it stays where that was. Choose anew what it holds on to.`}
        </Typography>
      ))}
      {placed?.struck && (
        <Typography
          variant="body2"
          color="warning.main"
          role="status"
        >{say`What it holds on to is struck; it begins at the joint.`}</Typography>
      )}
      {placed && placed.at < 0 && before > 0 && (
        <Typography variant="body2" color="warning.main" role="status">
          {say`${decimal(-placed.at / rate, 1)} s of it would be before the part begins and are not heard. `}
          <Button
            size="small"
            disabled={disabled}
            onClick={() => setClip(clip.id, say`room for the bed`, {})}
          >{say`Make room`}</Button>
        </Typography>
      )}
      <Box sx={{ display: 'flex', gap: 0.5, ml: -0.75 }}>
        <Button
          size="small"
          color="inherit"
          disabled={disabled}
          onClick={() => repeatClip(clip)}
        >{say`Once more at the caret`}</Button>
        {several && (
          <Button
            size="small"
            color="inherit"
            disabled={disabled}
            onClick={() => removeClipOf(clip.id)}
          >{say`Remove`}</Button>
        )}
      </Box>
    </Box>
  );
}

/** “4.0 s before the first word”: a distance, its direction and what it is from. */
function edgeOf(edge: 'begin' | 'end', clip: Clip, timeline: Timeline, disabled: boolean) {
  const rate = rateOfProject();
  const own = clip[edge];
  const choices = momentChoices(timeline, clip, edge);
  const options = edge === 'end' ? [{ key: 'sound', name: say`with its sound` }, ...choices] : choices;
  const of = edge === 'begin' ? say`begins` : say`ends`;
  const moment = (
    <ChoiceInPlace
      label={say`What it ${of} at`}
      value={own === 'sound' ? 'sound' : momentKey(own.moment)}
      choices={options}
      disabled={disabled}
      onChange={(key) => {
        const chosen = choices.find((choice) => choice.key === key);
        if (chosen) void holdOn(clip, edge, chosen.moment);
        else setClip(clip.id, say`where a sound ends`, { end: 'sound' });
      }}
    />
  );
  if (own === 'sound') return moment;
  const setAfter = (frames: number) =>
    setClip(clip.id, edge === 'begin' ? say`where a sound begins` : say`where a sound ends`, {
      [edge]: { ...own, after: frames },
    });
  const earlier = edge === 'begin' ? own.after <= 0 : own.after < 0;
  return (
    <>
      <ValueInPlace
        label={say`Seconds it ${of} from there`}
        value={Math.abs(own.after) / rate}
        unit="s"
        step={0.1}
        lowest={0}
        highest={longestApartSeconds}
        disabled={disabled}
        onChange={(seconds) => setAfter(Math.round(seconds * rate) * (earlier ? -1 : 1))}
      />{' '}
      <ChoiceInPlace
        label={say`Before or after what it ${of} at`}
        value={earlier ? 'before' : 'after'}
        choices={[
          { key: 'before', name: say`before` },
          { key: 'after', name: say`after` },
        ]}
        disabled={disabled || own.after === 0}
        onChange={() => setAfter(-own.after)}
      />{' '}
      {moment}
    </>
  );
}
