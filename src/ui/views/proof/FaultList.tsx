'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useRouter } from 'next/navigation';
import { formatTime } from '@/core/base/units';
import type { Measurement } from '@/core/loudness/measure';
import type { TimeRange } from '@/core/loudness/places';
import type { Judgement } from '@/core/specs/judgeAmong';
import { fixOfLook, fixOfMeasure, type FixKind } from '@/core/specs/fixText';
import { placesOf } from '@/core/specs/looks';
import { measureLabels } from '@/core/specs/measures';
import { applyFixes, type FixPlan } from '@/state/proof/fixing';
import { partClock, select, setCaret } from '@/state/sheet/part';
import { useProject, type PartRecord } from '@/state/project/openProject';

interface Props {
  part: PartRecord;
  judged: Judgement;
  measurement: Measurement;
  plan: FixPlan | null;
}

/**
 * Every limit of the open part, faults first: value, distance, places and the fix. A place opens the Booth
 * there.
 */
export function FaultList({ judged, measurement, plan }: Props) {
  const sorted = [...judged.verdicts].sort((a, b) => Number(a.passes) - Number(b.passes));
  const offered = new Set<FixKind>();
  const fixFor = (kind: FixKind | undefined, isFault: boolean) => {
    if (!plan || !kind || !isFault || !plan.texts[kind]) return null;
    if (offered.has(kind))
      return <Box sx={{ color: 'text.secondary', fontSize: 14 }}>{say`Covered by the fix above`}</Box>;
    offered.add(kind);
    return (
      <Button size="small" color="secondary" onClick={() => applyFixes([kind])} sx={{ textAlign: 'right' }}>
        {plan.texts[kind]}
      </Button>
    );
  };
  return (
    <Box component="ul" sx={{ listStyle: 'none', m: 0, mt: 1, p: 0 }} aria-label={say`Verdicts`}>
      {sorted
        .filter(({ passes }) => !passes)
        .map((verdict) => (
          <Row
            key={verdict.measure}
            word={say`Fault`}
            colour="error.main"
            text={verdict.message}
            label={measureLabels[verdict.measure].name}
            places={placesOf(verdict, measurement)}
            fix={fixFor(fixOfMeasure[verdict.measure], true)}
          />
        ))}
      {judged.looks.map((look) => (
        <Row
          key={look.kind}
          word={say`Look`}
          colour="warning.main"
          text={look.message}
          places={look.places}
          fix={fixFor(fixOfLook[look.kind], true)}
        />
      ))}
      {plan?.problems.map((problem) => (
        <Row key={problem} word={say`Stays`} colour="warning.main" text={problem} places={[]} fix={null} />
      ))}
      {sorted
        .filter(({ passes }) => passes)
        .map(({ measure, message }) => (
          <Row
            key={measure}
            word={say`Passes`}
            colour="success.main"
            text={message}
            label={measureLabels[measure].name}
            places={[]}
            fix={null}
          />
        ))}
    </Box>
  );
}

interface RowProps {
  word: string;
  colour: string;
  text: string;
  label?: string;
  places: readonly TimeRange[];
  fix: React.ReactNode;
}

const mostShown = 4;

function Row({ word, colour, text, label, places, fix }: RowProps) {
  return (
    <Box
      component="li"
      aria-label={label}
      sx={{
        display: 'flex',
        gap: 2,
        py: 0.5,
        fontSize: 14,
        borderBottom: 1,
        borderColor: 'divider',
        alignItems: 'baseline',
      }}
    >
      <Box component="span" sx={{ width: 56, flexShrink: 0, fontWeight: 700, color: colour }}>
        {word}
      </Box>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {text}
        {places.length > 0 && (
          <Box component="span" sx={{ ml: 1, whiteSpace: 'normal' }}>
            {places.slice(0, mostShown).map((place) => (
              <Place key={place.from} place={place} />
            ))}
            {places.length > mostShown && (
              <Box
                component="span"
                sx={{ color: 'text.secondary', fontSize: 13 }}
              >{say`and ${places.length - mostShown} more`}</Box>
            )}
          </Box>
        )}
      </Box>
      <Box sx={{ flexShrink: 0, maxWidth: '45%' }}>{fix}</Box>
    </Box>
  );
}

/** A place as a time: the Booth opens with the caret there, a stretch selected. */
function Place({ place }: { place: TimeRange }) {
  const router = useRouter();
  const project = useProject((state) => state.project);
  const open = () => {
    if (!project) return;
    const clock = partClock();
    const at = (seconds: number) => clock.heardToSheet(Math.round(seconds * project.rateHz));
    setCaret(at(place.from));
    if (place.to > place.from) select(at(place.from), at(place.to));
    router.push(`/project/${project.id}/booth`);
  };
  return (
    <Button
      size="small"
      color="secondary"
      onClick={open}
      aria-label={say`Open the Booth at ${formatTime(place.from, true)}`}
      sx={{ minWidth: 0, px: 0.5, py: 0, fontVariantNumeric: 'tabular-nums' }}
    >
      {formatTime(place.from, true)}
    </Button>
  );
}
