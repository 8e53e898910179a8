'use client';
import { say } from '@/texts/say';
import Close from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import { format } from '@/texts/dates';
import { useCallback, useState, type ReactNode } from 'react';
import type { Advice } from '@/core/recording/advice';
import { formatDb } from '@/core/base/units';
import { useTransport } from '@/state/hearing/transport';
import { useProject } from '@/state/project/openProject';
import { toneSeconds } from '@/state/recording/checking';
import { useInput } from '@/state/recording/input';
import {
  checkAdvice,
  inputAdvice,
  showSessionStart,
  toneOfSession,
  useSessionStart,
} from '@/state/recording/sessionStart';
import { useKeyText } from '../../commands/keys';
import { KeyedButton } from '../../commands/KeyedButton';
import { useTicks } from '../../hooks/useTicks';
import { adviceIcons } from './CheckSteps';

/** Before the first take of a session: the input, the level and the tone, the room; one key for each. */
export function SessionCard() {
  const shown = useSessionStart((state) => state.shown);
  return shown ? <Card /> : null;
}

function Card() {
  const { lastAt, roomSince } = useSessionStart();
  const { status } = useInput();
  useProject((state) => state.sources);
  useProject((state) => state.project?.levels);
  const idle = useTransport((state) => state.mode === 'idle');
  const keyText = useKeyText();
  const input = inputAdvice();
  const { checkedAt, said } = checkAdvice();
  const tone = toneOfSession();
  const isOpen = status === 'open';
  return (
    <Box
      component="section"
      aria-label={say`Before you record`}
      sx={{
        mx: 2,
        mt: 1.5,
        px: 2,
        py: 1.25,
        border: 1,
        borderColor: 'divider',
        borderRadius: 2,
        bgcolor: 'page.wash',
        flexShrink: 0,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5 }}>
        <Typography variant="h3">{say`Before you record`}</Typography>
        <Typography color="text.secondary" sx={{ flex: 1, fontSize: 13 }}>
          {lastAt !== null && say`Last recorded ${format(lastAt, 'd MMM, HH:mm')}`}
        </Typography>
        <IconButton
          size="small"
          aria-label={say`Hide this card`}
          title={keyText('sessionCard')}
          onClick={() => showSessionStart(false)}
          sx={{ alignSelf: 'center' }}
        >
          <Close fontSize="small" />
        </IconButton>
      </Box>
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        <Item advice={input}>
          {input.canOpen && (
            <KeyedButton id="lastInput" disabled={!idle || status === 'opening'} text={say`Open it`} />
          )}
        </Item>
        {said.map((one) => (
          <Item key={one.text} advice={one}>
            {one === said[0] && (
              <KeyedButton
                id="soundCheck"
                disabled={!idle || !isOpen}
                text={checkedAt === null ? say`Sound check` : say`Check again`}
              />
            )}
          </Item>
        ))}
        <Item
          advice={toneAdvice(tone)}
          told={roomSince === null ? undefined : <RoomLeft since={roomSince} />}
        >
          <KeyedButton
            id="recordTone"
            disabled={!idle || !isOpen}
            text={roomSince !== null ? say`Call off` : tone ? say`Record it again` : say`Record the room`}
          />
        </Item>
      </Box>
    </Box>
  );
}

function toneAdvice(tone: ReturnType<typeof toneOfSession>): Advice {
  if (!tone) return { weight: 'better', text: say`No room tone was recorded today.` };
  if (tone.levelDbfs === null)
    return { weight: 'must', text: say`The room tone of today is digital silence.` };
  return { weight: 'fine', text: say`Room tone of today: ${formatDb(tone.levelDbfs, 'dBFS')}.` };
}

function Item({
  advice: { weight, text },
  told,
  children,
}: {
  advice: Advice;
  told?: ReactNode;
  children: ReactNode;
}) {
  return (
    <Box component="li" sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 34 }}>
      {adviceIcons[weight]}
      <Box component="span" sx={{ flex: 1, minWidth: 0 }} role={told ? 'status' : undefined}>
        {told ?? text}
      </Box>
      {children}
    </Box>
  );
}

function RoomLeft({ since }: { since: number }) {
  const [left, setLeft] = useState<number>(toneSeconds);
  const show = useCallback(
    () => setLeft(Math.max(0, Math.ceil(toneSeconds - (performance.now() / 1000 - since)))),
    [since],
  );
  useTicks(250, true, show);
  return <>{say`Be silent: ${left} s`}</>;
}
