import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { leastMinutes, roughly } from '@/core/keep/space';
import { useCopying } from '@/state/keep/copying';
import { bringBack, damageTold, useDamage } from '@/state/keep/damage';
import { showKeeping } from '@/state/keep/keeping';
import { dismissReminder, isDue, useReminding } from '@/state/keep/reminding';
import { useMinutesLeft } from '@/state/keep/space';
import { isEditable, useTransport } from '@/state/hearing/transport';
import { KeyedButton } from '../../commands/KeyedButton';

/** What endangers the project: little room, audio that is missing, no copy of what was recorded. */
export function KeepBanners({ onRepaired }: { onRepaired: () => void }) {
  return (
    <>
      <SpaceWarning />
      <DamageWarning onRepaired={onRepaired} />
      <Reminder />
    </>
  );
}

function SpaceWarning() {
  const minutes = useMinutesLeft((state) => state.minutes);
  const [dismissed, setDismissed] = useState(false);
  if (minutes === null || minutes >= leastMinutes || dismissed) return null;
  return (
    <Alert
      severity="warning"
      square
      onClose={() => setDismissed(true)}
      action={
        <Button
          color="inherit"
          size="small"
          onClick={() => showKeeping(true)}
        >{say`Where it is kept`}</Button>
      }
    >{say`There is room for ${roughly(minutes)} of recording in this browser. Free space on the disk, or remove what no project uses, before you begin.`}</Alert>
  );
}

function DamageWarning({ onRepaired }: { onRepaired: () => void }) {
  const { found, repairing } = useDamage();
  const copied = useCopying((state) => state.status === 'copied');
  const idle = useTransport(isEditable);
  if (found.length === 0) return null;
  return (
    <Alert
      severity="error"
      square
      action={
        copied && (
          <Button
            color="inherit"
            size="small"
            disabled={repairing || !idle}
            onClick={() => void bringBack().then((whole) => whole && onRepaired())}
          >{say`Bring it back from the copy`}</Button>
        )
      }
    >
      {damageTold(found)}
    </Alert>
  );
}

function Reminder() {
  const reminding = useReminding();
  const copying = useCopying();
  const idle = useTransport(isEditable);
  if (!isDue(reminding, copying) || !idle) return null;
  const { hours, hasFile } = reminding;
  return (
    <Alert
      severity="info"
      square
      onClose={dismissReminder}
      action={
        <>
          <KeyedButton id="saveBackup" text={hasFile ? say`Save what is new` : say`Save a project file`} />
          <Button
            color="inherit"
            size="small"
            onClick={() => showKeeping(true)}
          >{say`A folder instead`}</Button>
          <Button color="inherit" size="small" onClick={dismissReminder}>{say`Later`}</Button>
        </>
      }
    >
      {say`${roughly(hours * 60)} of audio are in this browser alone.`}
    </Alert>
  );
}
