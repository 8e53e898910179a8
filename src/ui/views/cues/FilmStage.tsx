'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useCallback, useRef, useState } from 'react';
import { timecodeAt } from '@/core/cues/cueCsv';
import type { CueSheet } from '@/core/timeline/cues';
import { useFilm, type PartFilm } from '@/state/hearing/film';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { rateOfProject } from '@/state/project/openProject';
import { cueSettings } from '@/state/project/settings';
import { usePart } from '@/state/sheet/part';
import { useKeyText } from '../../commands/keys';
import { run } from '../../commands/registry';
import { useTicks } from '../../hooks/useTicks';
import { lamp } from '../../theme/palette';
import { serif } from '../../theme/theme';
import { CueSweep } from './CueSweep';
import { FilmMissing } from './FilmMissing';
import { FilmPicture } from './FilmPicture';
import { FilmSound } from './FilmSound';
import type { Staged } from './useStaged';

interface FilmStageProps extends Staged {
  film: PartFilm;
  height: string;
  /** In a window of its own, for the talent. */
  alone?: boolean;
}

/** The picture with what the talent needs on it. */
export function FilmStage({ film, cue, running, sheet, height, alone = false }: FilmStageProps) {
  const { source, missing, ...kept } = useFilm();
  const address = source === film.source ? kept.address : null;
  const [broken, setBroken] = useState<string | null>(null);
  const keyText = useKeyText();
  const name = sheet.characters.find(({ id }) => id === cue?.character)?.name;
  return (
    <Box
      component="section"
      aria-label={say`Picture`}
      data-testid="stage"
      sx={{
        flexShrink: 0,
        height,
        display: 'flex',
        justifyContent: 'center',
        bgcolor: alone ? '#000' : 'background.paper',
        py: alone ? 0 : 1.25,
        borderBottom: alone ? 0 : 1,
        borderColor: 'divider',
      }}
    >
      <Box
        sx={{
          position: 'relative',
          height: '100%',
          aspectRatio: `${film.film.width} / ${film.film.height}`,
          maxWidth: alone ? '100%' : 'calc(100% - 156px)',
          overflow: 'hidden',
          borderRadius: alone ? 0 : 1,
          bgcolor: '#000',
          color: '#fff',
          textShadow: '0 1px 4px #000, 0 0 2px #000',
        }}
      >
        {address && broken !== address && (
          <FilmPicture film={film} address={address} onBroken={() => setBroken(address)} />
        )}
        {(missing || broken !== null) && <FilmMissing film={film} broken={!missing} />}
        <Box sx={{ position: 'absolute', right: 14, top: 8, fontSize: 17 }}>
          <StageTimecode sheet={sheet} />
        </Box>
        {cue && (running || alone) && (
          <Box
            sx={{
              position: 'absolute',
              left: '6%',
              right: '6%',
              bottom: '7%',
              textAlign: 'center',
              fontFamily: serif,
              fontSize: alone ? 'clamp(22px, 3.4vw, 44px)' : cue.text.length > 120 ? 17 : 21,
              lineHeight: 1.32,
              maxHeight: '60%',
              overflow: 'hidden',
              overflowWrap: 'anywhere',
            }}
          >
            {alone && name && (
              <Box sx={{ fontStyle: 'italic', fontSize: '0.7em', color: lamp.faintInk }}>{name}</Box>
            )}
            {cue.text}
          </Box>
        )}
        {running && <CueSweep run={running} sweep={cueSettings().sweep} onPicture />}
      </Box>
      {!alone && (
        <Box
          sx={{
            width: 140,
            pl: 1,
            display: 'flex',
            flexDirection: 'column',
            gap: 1,
            alignItems: 'flex-start',
          }}
        >
          <FilmSound film={film} />
          <Button
            size="small"
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => run('filmWindow')}
            title={say`The picture in a window of its own, for a second screen · ${keyText('filmWindow')}`}
            sx={{ fontSize: 12.5, px: 0.5, textAlign: 'left', minWidth: 0 }}
          >{say`Second screen`}</Button>
        </Box>
      )}
    </Box>
  );
}

const timecodeEveryMs = 50;

/** The timecode of what is seen. */
function StageTimecode({ sheet }: { sheet: CueSheet }) {
  const ref = useRef<HTMLSpanElement>(null);
  const caret = usePart((state) => state.caret);
  const scrubbed = useTransport((state) => state.scrubbed);
  const moves = useTransport((state) => state.mode !== 'idle');
  const show = useCallback(() => {
    const frame = headFrame() ?? scrubbed ?? caret;
    if (ref.current) ref.current.textContent = timecodeAt(frame, sheet, rateOfProject());
  }, [caret, scrubbed, sheet]);
  useTicks(timecodeEveryMs, moves, show);
  return <span ref={ref} data-testid="timecode" style={{ fontVariantNumeric: 'tabular-nums' }} />;
}
