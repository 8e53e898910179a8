'use client';
import { say } from '@/texts/say';
import Check from '@mui/icons-material/Check';
import Close from '@mui/icons-material/Close';
import Hearing from '@mui/icons-material/Hearing';
import Tune from '@mui/icons-material/Tune';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { formatTime } from '@/core/base/units';
import { findingKinds, type FindingKind } from '@/core/speech/findings';
import { cancelFinding, findAll, findingNames, useFinding, type PlacedProposal } from '@/state/finds/finding';
import {
  acceptAll,
  acceptProposal,
  describeAction,
  goToProposal,
  hearProposal,
  refuseProposal,
} from '@/state/finds/proposals';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { useTransport } from '@/state/hearing/transport';
import { useKeyText } from '../../commands/keys';
import { Contained } from '../../components/Contained';
import { BestReadings } from './BestReadings';
import { FindSettings } from './FindSettings';
import { useOpenProposals } from './useOpenProposals';

function LookingBar() {
  const percent = useFinding((state) => Math.round((state.running ?? 0) * 100));
  return <LinearProgress variant="determinate" value={percent} aria-label={say`Looking through the part`} />;
}

/** What the search proposes: shown with its reason, heard, accepted, changed or refused. */
export function FindPanel() {
  const open = useOpenProposals();
  const running = useFinding((state) => state.running !== null);
  const partId = usePart((state) => state.id);
  const searched = useFinding((state) => state.searched && state.partId === partId);
  const [settings, setSettings] = useState(false);
  const idle = useTransport((state) => state.mode === 'idle');
  const readOnly = useProject((state) => state.readOnly);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: 0, flex: 1 }}>
      <Box sx={{ p: 1.5, display: 'flex', gap: 1, borderBottom: 1, borderColor: 'divider' }}>
        {!running ? (
          <Button
            variant="outlined"
            size="small"
            disabled={!idle || readOnly}
            onClick={() => void findAll()}
            sx={{ flex: 1 }}
          >
            {searched ? say`Look again` : say`Look through the part`}
          </Button>
        ) : (
          <Box sx={{ flex: 1 }}>
            <LookingBar />
            <Button size="small" color="inherit" onClick={cancelFinding}>{say`Stop`}</Button>
          </Box>
        )}
        <IconButton size="small" aria-label={say`What to look for`} onClick={() => setSettings(!settings)}>
          <Tune fontSize="small" />
        </IconButton>
      </Box>
      {settings && <FindSettings />}
      <Box sx={{ overflowY: 'auto', flex: 1 }}>
        {open.length === 0 && (
          <Typography color="text.secondary" sx={{ p: 2.5 }}>
            {searched
              ? say`Nothing is left to decide here.`
              : say`Finds broken-off readings, pauses, clicks, breaths and levels, and proposes what to do. Nothing changes before you accept.`}
          </Typography>
        )}
        {findingKinds.map((kind) => (
          <Kind key={kind} kind={kind} items={open.filter(({ proposal }) => proposal.kind === kind)} />
        ))}
        <BestReadings />
      </Box>
    </Box>
  );
}

/** So many are listed of a kind at first, and with each press of “Show more”. */
const rowsAtOnce = 100;

function Kind({ kind, items }: { kind: FindingKind; items: PlacedProposal[] }) {
  const [shown, setShown] = useState(rowsAtOnce);
  const readOnly = useProject((state) => state.readOnly);
  const keyText = useKeyText();
  if (items.length === 0) return null;
  return (
    <Box component="section" aria-label={findingNames[kind]} sx={{ pb: 1 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', px: 2, pt: 1 }}>
        <Typography variant="h3" component="h2" sx={{ flex: 1, fontSize: 13 }}>
          {findingNames[kind]} {items.length}
        </Typography>
        <Button
          size="small"
          disabled={readOnly}
          onClick={() => acceptAll(kind)}
          title={say`Accept all of this kind · ${keyText('acceptAllLike')}`}
        >{say`Accept all`}</Button>
      </Box>
      {items.slice(0, shown).map((item) => (
        <Contained key={item.proposal.id} what={say`This proposal`}>
          <Row item={item} />
        </Contained>
      ))}
      {items.length > shown && (
        <Button
          size="small"
          color="inherit"
          onClick={() => setShown(shown + rowsAtOnce)}
          sx={{ ml: 1.5 }}
        >{say`Show more (${items.length - shown} are left)`}</Button>
      )}
    </Box>
  );
}

function Row({ item }: { item: PlacedProposal }) {
  const current = useFinding((state) => state.current === item.proposal.id);
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const { proposal, range } = item;
  const keyText = useKeyText();
  const time = formatTime(range.from / rateHz, true);
  return (
    <Box sx={{ bgcolor: current ? 'page.wash' : undefined }}>
      <ButtonBase
        onClick={() => goToProposal(item)}
        onMouseDown={(event) => event.preventDefault()}
        aria-current={current || undefined}
        sx={{ display: 'block', textAlign: 'left', width: '100%', px: 2, py: 0.75, fontFamily: 'inherit' }}
      >
        <Box
          component="span"
          sx={{ fontVariantNumeric: 'tabular-nums', fontSize: 12, color: 'text.secondary' }}
        >
          {time}{' '}
        </Box>
        <Box component="span" sx={{ display: 'block', fontSize: 14, lineHeight: 1.3 }}>
          {proposal.reason}
        </Box>
        {proposal.score < 0.8 && (
          <Box component="span" sx={{ fontSize: 12, color: 'text.secondary' }}>
            {say`${Math.round(proposal.score * 100)} % sure`}
          </Box>
        )}
      </ButtonBase>
      {current && (
        <Box
          sx={{ display: 'flex', px: 1, pb: 0.75, alignItems: 'center' }}
          onMouseDown={(event) => event.preventDefault()}
        >
          <Button
            size="small"
            startIcon={<Check />}
            onClick={acceptProposal}
            title={keyText('acceptProposal')}
            sx={{ textAlign: 'left' }}
          >
            {describeAction(item)}
          </Button>
          <Box sx={{ flex: 1 }} />
          <IconButton
            size="small"
            aria-label={say`Hear it as it will sound`}
            title={keyText('hearProposal')}
            onClick={() => void hearProposal()}
          >
            <Hearing fontSize="small" />
          </IconButton>
          <IconButton
            size="small"
            aria-label={say`Refuse it`}
            title={keyText('refuseProposal')}
            onClick={refuseProposal}
          >
            <Close fontSize="small" />
          </IconButton>
        </Box>
      )}
    </Box>
  );
}
