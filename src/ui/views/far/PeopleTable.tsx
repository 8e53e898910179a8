'use client';
import { say, written } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { formatDb } from '@/core/base/units';
import type { Person } from '@/state/far/far';
import { admit, refuse } from '@/state/far/session';

const states: Record<Person['state'], string> = {
  knocking: say`at the door`,
  calling: say`opening the line …`,
  open: say`in the session`,
  away: say`away`,
  refused: say`not let in`,
};

/** Who has come: nobody is heard before they are let in, by name. */
export function PeopleTable({ people }: { people: readonly Person[] }) {
  if (people.length === 0)
    return <Typography color="text.secondary" role="status">{say`Nobody has come yet.`}</Typography>;
  return (
    <Box component="ul" aria-label={say`Who has come`} sx={{ listStyle: 'none', p: 0, m: 0 }}>
      {people.map((person) => (
        <PersonRow key={person.key} person={person} />
      ))}
    </Box>
  );
}

/** What is known of somebody's line, in one line. */
function describe({ state, seat, hello, level, delaySeconds, lost }: Person): string {
  return [
    states[state],
    seat === null ? '' : say`input ${seat + 1}`,
    hello ? `${hello.input}, ${written(hello.rateHz / 1000)} kHz` : '',
    state === 'open' && level ? say`peak ${formatDb(level.peakDb, 'dBFS')}` : '',
    state === 'open' ? say`${Math.round(delaySeconds * 1000)} ms on its way` : '',
    state === 'open' && lost !== null && lost > 0.01
      ? say`${Math.round(lost * 100)} % of the sound lost`
      : '',
  ]
    .filter(Boolean)
    .join(' · ');
}

function PersonRow({ person }: { person: Person }) {
  const { key, name, state, trouble } = person;
  return (
    <Box
      component="li"
      sx={{ display: 'flex', alignItems: 'center', gap: 2, py: 1, borderBottom: 1, borderColor: 'divider' }}
    >
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography sx={{ fontWeight: 650 }}>{name}</Typography>
        <Typography variant="body2" color="text.secondary">
          {describe(person)}
        </Typography>
        {trouble && (
          <Typography variant="body2" color="warning.main">
            {trouble}
          </Typography>
        )}
      </Box>
      {state === 'knocking' && (
        <Button variant="contained" size="small" onClick={() => void admit(key)}>{say`Let in`}</Button>
      )}
      {state !== 'refused' && (
        <Button size="small" color="inherit" onClick={() => void refuse(key)}>
          {state === 'knocking' ? say`Do not let in` : say`Send away`}
        </Button>
      )}
    </Box>
  );
}
