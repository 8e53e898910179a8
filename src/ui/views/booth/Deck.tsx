'use client';
import { decimal, say } from '@/texts/say';
import FiberManualRecord from '@mui/icons-material/FiberManualRecord';
import Headphones from '@mui/icons-material/Headphones';
import PlayArrow from '@mui/icons-material/PlayArrow';
import Stop from '@mui/icons-material/Stop';
import Theaters from '@mui/icons-material/Theaters';
import Undo from '@mui/icons-material/Undo';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useCallback, useRef, type ReactNode } from 'react';
import { formatTime } from '@/core/base/units';
import { guidesOf } from '@/core/timeline/guides';
import { useLag } from '@/state/finds/lag';
import { useListening, type Hear } from '@/state/hearing/listening';
import { useInput } from '@/state/recording/input';
import { usePart } from '@/state/sheet/part';
import { useCues } from '@/state/cues/cues';
import { modeNames, recordIntent, recordModeNow } from '@/state/recording/recordPlan';
import { rateOfProject, useProject, type RecordMode } from '@/state/project/openProject';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { setMode } from '../../commands/actions';
import { useKeyText } from '../../commands/keys';
import { run, type CommandId } from '../../commands/registry';
import { useTicks } from '../../hooks/useTicks';
import { CueOptions } from '../cues/CueOptions';
import { RecordOptions } from './RecordOptions';

/** A click on the deck leaves the focus where it was: Space and Enter go on meaning play and record. */
const keepFocus = (event: { preventDefault: () => void }) => event.preventDefault();

/** Everything that records and plays; editing has its own strip above the sheet. */
export function Deck() {
  const mode = useTransport((state) => state.mode);
  useProject((state) => state.project?.recording);
  usePart((state) => state.timeline.cueSheet);
  const recording = mode === 'recording' || mode === 'rolling';
  return (
    <Box
      component="footer"
      onMouseDown={keepFocus}
      aria-label={say`Deck`}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.25,
        px: 2,
        height: 76,
        borderTop: 1,
        borderColor: 'divider',
        flexShrink: 0,
      }}
    >
      <RecordButton />
      {recording ? <AgainButton /> : <PlayButton />}
      <DryRunButton />
      <HearButton />
      <FlubButton />
      <Clock />
      <Box sx={{ flex: 1 }} />
      <ModeChoice />
      {recordModeNow() === 'cue' ? <CueOptions /> : <RecordOptions />}
    </Box>
  );
}

/** While recording: again from the start of what is read. */
export function AgainButton({ brief = false }: { brief?: boolean }) {
  const keyText = useKeyText();
  const key = keyText('retakeSentence');
  return (
    <DeckButton
      onClick={() => run('retakeSentence')}
      icon={<Undo />}
      title={say`Again`}
      detail={brief ? key : say`from ${recordModeNow() === 'cue' ? say`its` : say`sentence`} start · ${key}`}
    />
  );
}

export function PlayButton() {
  const mode = useTransport((state) => state.mode);
  const keyText = useKeyText();
  return (
    <DeckButton
      onClick={() => run('play')}
      disabled={mode === 'finishing'}
      icon={mode === 'playing' ? <Stop /> : <PlayArrow />}
      title={mode === 'playing' ? say`Stop` : say`Play`}
      detail={keyText('play')}
    />
  );
}

export function FlubButton() {
  const readOnly = useProject((state) => state.readOnly);
  const keyText = useKeyText();
  return (
    <DeckButton
      onClick={() => run('flub')}
      disabled={readOnly}
      icon={<FlubSign />}
      title={say`Flub`}
      detail={keyText('flub')}
    />
  );
}

/** Where cues are recorded: the chosen one as it will be, without recording. */
function DryRunButton() {
  useProject((state) => state.project?.recording);
  usePart((state) => state.timeline.cueSheet);
  const running = useTransport((state) => state.cueRun?.dry ?? false);
  const mode = useTransport((state) => state.mode);
  const chosen = useCues((state) => state.chosen !== null);
  const keyText = useKeyText();
  if (recordModeNow() !== 'cue' || mode === 'recording' || mode === 'rolling') return null;
  return (
    <DeckButton
      onClick={() => run('dryRun')}
      disabled={mode === 'finishing' || !chosen}
      icon={running ? <Stop /> : <Theaters />}
      title={running ? say`End` : say`Dry run`}
      detail={keyText('dryRun')}
    />
  );
}

const hearNames: Record<Hear, string> = {
  both: say`Hear both`,
  mine: say`Hear mine`,
  guide: say`Hear guide`,
};

/** In a part with a guide: which of the two is heard. What is recorded is the same. */
function HearButton() {
  const guided = usePart((state) => guidesOf(state.timeline).length > 0);
  const hear = useListening((state) => state.hear);
  const lag = useLag((state) => state.summary);
  const keyText = useKeyText();
  if (!guided) return null;
  const behind = lag && say`${decimal(lag.usual, 1)} s behind`;
  return (
    <DeckButton
      onClick={() => run('hear')}
      icon={<Headphones />}
      title={hearNames[hear]}
      detail={[keyText('hear'), behind].filter(Boolean).join(' · ')}
      hint={
        lag
          ? say`Usually ${decimal(lag.usual, 1)} s behind the guide, at most ${decimal(lag.longest, 1)} s`
          : undefined
      }
    />
  );
}

const modeHints: Record<RecordMode, { text: string; id: CommandId }> = {
  continue: { text: say`At the end of the part`, id: 'modeContinue' },
  retake: { text: say`From the caret on, after a run-up (punch-and-roll)`, id: 'modeRetake' },
  insert: { text: say`Into a gap that opens at the caret`, id: 'modeInsert' },
  patch: { text: say`Over the selection`, id: 'modePatch' },
  cue: { text: say`The chosen cue, in its place`, id: 'modeCue' },
};

function ModeChoice() {
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useProject((state) => state.readOnly);
  useProject((state) => state.project?.recording);
  const hasCues = usePart((state) => (state.timeline.cueSheet?.cues.length ?? 0) > 0);
  const keyText = useKeyText();
  const modes = (Object.keys(modeNames) as RecordMode[]).filter((mode) => mode !== 'cue' || hasCues);
  return (
    <ToggleButtonGroup
      exclusive
      size="small"
      value={recordModeNow()}
      onChange={(_, value: RecordMode | null) => value && setMode(value)}
      disabled={!idle || readOnly}
      aria-label={say`What Record does`}
    >
      {modes.map((mode) => (
        <ToggleButton
          key={mode}
          value={mode}
          title={`${modeHints[mode].text} · ${keyText(modeHints[mode].id)}`}
          sx={{ textTransform: 'none', px: hasCues ? 1.25 : 1.75, height: 36, color: 'text.primary' }}
        >
          {modeNames[mode]}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

function FlubSign() {
  return (
    <Box component="span" sx={{ color: 'warning.main', fontSize: 22, lineHeight: 1, fontWeight: 700 }}>
      ∿
    </Box>
  );
}

interface DeckButtonProps {
  onClick: () => void;
  icon: ReactNode;
  title: string;
  detail: string;
  disabled?: boolean;
  /** More than there is room for. */
  hint?: string;
}

export function DeckButton({ onClick, icon, title, detail, disabled, hint }: DeckButtonProps) {
  return (
    <Button
      onClick={onClick}
      disabled={disabled}
      startIcon={icon}
      aria-label={`${title} ${detail}`}
      title={hint}
      variant="outlined"
      sx={{
        height: 46,
        textAlign: 'left',
        borderColor: 'divider',
        color: 'text.primary',
        bgcolor: 'background.paper',
        px: 2,
        whiteSpace: 'nowrap',
      }}
    >
      <Box sx={{ lineHeight: 1.25 }}>
        {title}{' '}
        <Box
          component="span"
          sx={{ display: 'block', fontSize: 12, fontWeight: 400, color: 'text.secondary' }}
        >
          {detail}
        </Box>
      </Box>
    </Button>
  );
}

function titleOf(chosen: string | null): string {
  const mode = recordModeNow();
  const cue = usePart.getState().timeline.cueSheet?.cues.find(({ id }) => id === chosen);
  return mode === 'cue' && cue ? say`Cue ${cue.number}` : modeNames[mode];
}

/** What Record will write, and where, is on the button before it is pressed. */
export function RecordButton() {
  const mode = useTransport((state) => state.mode);
  // Everything the intent is made of, so that the button says it anew.
  useInput((state) => state.status);
  useInput((state) => state.microphones);
  usePart((state) => state.timeline);
  usePart((state) => state.caret);
  usePart((state) => state.selection);
  useListening();
  useProject((state) => state.sources);
  useProject((state) => state.project);
  useProject((state) => state.readOnly);
  const recording = mode === 'recording';
  const rolling = mode === 'rolling';
  const intent = recordIntent();
  const overruns = useTransport((state) => state.live?.overrunFrames ?? 0);
  const cue = useCues((state) => state.chosen);
  const title = recording ? say`Recording` : rolling ? say`Run-up` : titleOf(cue);
  const keyText = useKeyText();
  const detail = recording
    ? say`${keyText('record')} stops`
    : rolling
      ? say`${keyText('record')} calls it off`
      : intent.label;
  const shown = overruns > 0 ? say`${overruns} frames lost` : detail;
  return (
    <Button
      onClick={() => run('record')}
      disabled={!recording && !rolling && !intent.can}
      aria-label={`${recording ? say`Stop recording` : rolling ? say`Call the run-up off` : say`Record`}: ${title} ${shown}`}
      variant={recording ? 'contained' : 'outlined'}
      color="error"
      startIcon={<FiberManualRecord sx={{ fontSize: '16px !important' }} />}
      sx={{
        height: 46,
        textAlign: 'left',
        px: 2.25,
        minWidth: 148,
        maxWidth: 300,
        bgcolor: recording ? undefined : 'background.paper',
      }}
    >
      <Box sx={{ lineHeight: 1.25, minWidth: 0 }}>
        {title}{' '}
        <Box
          component="span"
          title={detail}
          sx={{
            display: 'block',
            fontSize: 12,
            fontWeight: 400,
            whiteSpace: 'nowrap',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
          }}
        >
          {shown}
        </Box>
      </Box>
    </Button>
  );
}

const clockEveryMs = 100;

/** Where the head is, or the caret; written to the page directly while something moves. */
export function Clock() {
  const ref = useRef<HTMLDivElement>(null);
  const caret = usePart((state) => state.caret);
  const mode = useTransport((state) => state.mode);
  const show = useCallback(() => {
    const rate = rateOfProject();
    if (ref.current) ref.current.textContent = formatTime((headFrame() ?? caret) / rate, true);
  }, [caret]);
  useTicks(clockEveryMs, mode !== 'idle', show);
  return (
    <Box
      ref={ref}
      role="timer"
      aria-label={say`Position on the sheet`}
      data-testid="clock"
      sx={{
        fontSize: 27,
        fontVariantNumeric: 'tabular-nums',
        minWidth: 142,
        ml: 0.5,
        letterSpacing: '0.01em',
        contain: 'layout paint',
      }}
    />
  );
}
