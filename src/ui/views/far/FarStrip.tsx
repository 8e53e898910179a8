'use client';
import { say } from '@/texts/say';
import FiberManualRecord from '@mui/icons-material/FiberManualRecord';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { formatDb } from '@/core/base/units';
import { useFar, type Person } from '@/state/far/far';
import { useTransport } from '@/state/hearing/transport';
import { useProject } from '@/state/project/openProject';
import { useKeyText } from '../../commands/keys';
import { run } from '../../commands/registry';
import { circledNumber } from '../../components/circledNumber';

const words: Record<Person['state'], string> = {
  knocking: say`is at the door`,
  calling: say`line opening …`,
  open: '',
  away: say`away`,
  refused: '',
};

/** Who is in the session, how loud they are where they are, and how much of their takes has come. */
export function FarStrip() {
  const { status, people, ownMicrophone, talking } = useFar();
  const keyText = useKeyText();
  const shown = people.filter(({ state }) => state !== 'refused');
  if (status !== 'open') return null;
  return (
    <Box
      component="section"
      aria-label={say`Far away`}
      onMouseDown={(event) => event.preventDefault()}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 2,
        px: 2,
        minHeight: 36,
        borderTop: 1,
        borderColor: 'divider',
        fontSize: 13.5,
        overflowX: 'auto',
        whiteSpace: 'nowrap',
      }}
    >
      {shown.length === 0 && <span>{say`Nobody has come yet.`}</span>}
      {shown.map((person) => (
        <PersonSign key={person.key} person={person} />
      ))}
      <Arrivals />
      <Box sx={{ flex: 1 }} />
      <Button
        size="small"
        color="inherit"
        aria-pressed={ownMicrophone && talking}
        title={keyText('talk')}
        onClick={() => run('talk')}
      >
        {ownMicrophone && talking ? say`They hear you` : say`Talk`}
      </Button>
      <Button
        size="small"
        color="inherit"
        title={keyText('farSession')}
        onClick={() => run('farSession')}
      >{say`Session …`}</Button>
    </Box>
  );
}

function PersonSign({ person: { name, state, seat, level, trouble } }: { person: Person }) {
  const colour = state === 'open' ? 'success' : state === 'away' ? 'error' : 'warning';
  return (
    <Box
      component="span"
      sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}
      title={trouble || undefined}
    >
      <FiberManualRecord color={colour} sx={{ fontSize: 12 }} />
      <b>{name}</b>
      {words[state] && <span>{words[state]}</span>}
      {state === 'open' && seat !== null && (
        <Box component="span" sx={{ color: 'text.secondary', fontVariantNumeric: 'tabular-nums' }}>
          {say`input ${seat + 1}`}
          {level && ` · ${formatDb(level.peakDb, 'dBFS')}`}
        </Box>
      )}
      {trouble && (
        <Box component="span" sx={{ color: 'warning.main' }}>
          {trouble}
        </Box>
      )}
    </Box>
  );
}

/** Takes of which something is still to come, by their numbers. */
function Arrivals() {
  const arriving = useFar((state) => state.arriving);
  const sources = useProject((state) => state.sources);
  const live = useTransport((state) => state.live);
  return [...arriving].map(([id, { here, of, laying }]) => {
    const take =
      [...sources.values()].find(({ line, role }) => line?.take === id && role !== 'line') ??
      (live?.sourceId === id ? live : null);
    const share = of > 0 ? Math.floor((100 * here) / of) : 0;
    const said = laying ? say`is being laid in its place` : say`${share} % here`;
    return (
      <Box
        component="span"
        key={id}
        role="status"
        data-testid="arriving"
        sx={{ fontVariantNumeric: 'tabular-nums' }}
      >{say`take ${take ? circledNumber(take.take) : ''} ${said}`}</Box>
    );
  });
}
