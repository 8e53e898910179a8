import { say } from '@/texts/say';
import CheckCircleOutlined from '@mui/icons-material/CheckCircleOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useInput } from '@/state/recording/input';
import {
  leaveFirstVisit,
  skipStep,
  takePracticeReader,
  useFirstVisit,
  visitSteps,
} from '@/state/visit/firstVisit';
import { WithKeys } from '../../commands/WithKeys';
import { useKeyText } from '../../commands/keys';

/** The whole job in five steps, done for real; what is said next is read out. */
export function FirstVisitCard({ projectId }: { projectId: string }) {
  const step = useFirstVisit((state) => state.step);
  useKeyText();
  if (step === null) return null;
  const current = visitSteps.at(step);
  return (
    <Box
      component="section"
      aria-label={say`The whole job in five steps`}
      sx={{
        display: 'flex',
        alignItems: 'center',
        flexWrap: { xs: 'wrap', md: 'nowrap' },
        gap: { xs: 1, md: 2 },
        px: 2,
        py: 1,
        minHeight: 60,
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: 'page.wash',
        flexShrink: 0,
      }}
    >
      <Steps step={step} />
      <Box role="status" sx={{ flex: 1, minWidth: { xs: '100%', md: 0 } }}>
        {current ? (
          <>
            <Typography component="span" sx={{ fontWeight: 700, mr: 1 }}>
              {say`${step + 1} of ${visitSteps.length}: ${current.title}.`}
            </Typography>
            <span>
              <WithKeys text={current.text} />
            </span>
          </>
        ) : (
          <>{say`That was the whole job: recorded, marked, struck, measured, handed over. Everything else is these five in other clothes; the question mark at the top has a page for each screen.`}</>
        )}
      </Box>
      {current && <Way projectId={projectId} screen={current.screen} />}
      {current && <Button color="inherit" size="small" onClick={skipStep}>{say`Leave it out`}</Button>}
      <Button color="inherit" size="small" onClick={leaveFirstVisit}>
        {current ? say`End` : say`Close`}
      </Button>
    </Box>
  );
}

/** How far one has come; for the eye alone, the words say it too. */
function Steps({ step }: { step: number }) {
  return (
    <Box aria-hidden sx={{ display: 'flex', gap: 0.5 }}>
      {visitSteps.map(({ id }, index) => (
        <Box
          key={id}
          sx={{
            width: 22,
            height: 22,
            borderRadius: '50%',
            display: 'grid',
            placeItems: 'center',
            fontSize: 12,
            fontWeight: 700,
            border: index < step ? 0 : 1,
            borderColor: index === step ? 'text.primary' : 'divider',
            color: index === step ? 'text.primary' : 'text.secondary',
          }}
        >
          {index < step ? <CheckCircleOutlined color="success" sx={{ fontSize: 22 }} /> : index + 1}
        </Box>
      ))}
    </Box>
  );
}

/** What the step needs first: an input, or another screen. */
function Way({ projectId, screen }: { projectId: string; screen: 'booth' | 'proof' }) {
  const path = usePathname();
  const status = useInput((state) => state.status);
  if (!path.endsWith(`/${screen}`))
    return (
      <Button size="small" variant="contained" component={Link} href={`/project/${projectId}/${screen}`}>
        {screen === 'proof' ? say`Go to the Proof` : say`Go to the Booth`}
      </Button>
    );
  if (screen === 'booth' && status !== 'open')
    return (
      <Button
        size="small"
        variant="contained"
        disabled={status === 'opening'}
        // The next Enter means record.
        onMouseDown={(event) => event.preventDefault()}
        onClick={({ currentTarget }) => {
          currentTarget.blur();
          takePracticeReader();
        }}
      >{say`Take the practice reader`}</Button>
    );
  return null;
}
