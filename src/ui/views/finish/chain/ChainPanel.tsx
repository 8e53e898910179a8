import { say } from '@/texts/say';
import { movingWords } from '../../../components/movingWords';
import Add from '@mui/icons-material/Add';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Typography from '@mui/material/Typography';
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { useMemo, useState, type ReactNode } from 'react';
import { stepNames, tradeNames } from '@/core/chain/stepText';
import type { Timeline } from '@/core/timeline/timeline';
import { chainOf, chooseChains, kindsToAdd, placeStep, shownVoice, useChains } from '@/state/chain/chains';
import { measuresOf, useChainMeasures } from '@/state/chain/chainMeasures';
import { voiceSounding } from '@/state/chain/chains';
import { addFittedStep } from '@/state/chain/learning';
import { choose, useMixing } from '@/state/mix/strips';
import { useProject } from '@/state/project/openProject';
import { ChainDialog } from './ChainDialog';
import { StepCard } from './StepCard';

/** Steps in the order of their `ids`, which stand in one text: as long as it is the same, so is the list. */
function Sortable({ ids, children }: { ids: string; children: ReactNode }) {
  const items = useMemo(() => ids.split(' ').filter((id) => id !== ''), [ids]);
  return (
    <SortableContext items={items} strategy={verticalListSortingStrategy}>
      {children}
    </SortableContext>
  );
}

/** The chain of the shown voice, step by step. */
export function ChainPanel({ timeline }: { timeline: Timeline }) {
  const chosen = useMixing((state) => state.chosen);
  const choosing = useChains((state) => state.choosing);
  const readOnly = useProject((state) => state.readOnly);
  const rateHz = useProject((state) => state.project?.rateHz ?? 48_000);
  const measured = useChainMeasures((state) => state.measured);
  const voice = shownVoice(timeline, chosen);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  if (voice === null) return null;
  const chain = chainOf(timeline, voice);
  const ids = chain.steps.map(({ id }) => id);
  const known = measuresOf(voiceSounding(timeline, voice), { measured });
  const drop = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) placeStep(voice, String(active.id), ids.indexOf(String(over.id)));
  };
  return (
    <Box
      component="aside"
      aria-label={say`Chain`}
      sx={{
        width: 318,
        flexShrink: 0,
        borderRight: 1,
        borderColor: 'divider',
        overflowY: 'auto',
        px: 1.5,
        pb: 2,
      }}
    >
      <Tabs
        value={voice}
        onChange={(_, id: string) => choose(id)}
        variant="scrollable"
        scrollButtons={false}
        aria-label={say`Voices`}
        sx={{ minHeight: 41, borderBottom: 1, borderColor: 'divider', mx: -1.5, px: 1 }}
      >
        {timeline.tracks.map(({ id, name }) => (
          <Tab
            key={id}
            value={id}
            label={name}
            sx={{ minHeight: 40, minWidth: 0, px: 1.25, textTransform: 'none' }}
          />
        ))}
      </Tabs>
      <Box sx={{ display: 'flex', alignItems: 'center', my: 0.75 }}>
        <Typography variant="body2" color="text.secondary" sx={{ flex: 1, minWidth: 0 }} noWrap>
          {chain.steps.length === 0
            ? say`No chain: as it was recorded`
            : chain.name
              ? say`Chain “${chain.name}”`
              : say`A chain of its own`}
        </Typography>
        <Button size="small" onClick={() => chooseChains()} sx={{ flexShrink: 0 }}>{say`Chains …`}</Button>
      </Box>
      <DndContext
        accessibility={movingWords}
        id="chain"
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={drop}
      >
        <Sortable ids={ids.join(' ')}>
          <Box component="ol" aria-label={say`Steps`} sx={{ m: 0, p: 0 }}>
            {chain.steps.map((step, index) => (
              <StepCard
                key={step.id}
                voice={voice}
                step={step}
                number={index + 1}
                last={index === chain.steps.length - 1}
                work={known?.work.steps.find(({ id }) => id === step.id) ?? null}
                rateHz={rateHz}
                disabled={readOnly}
              />
            ))}
          </Box>
        </Sortable>
      </DndContext>
      <AddStep voice={voice} timeline={timeline} disabled={readOnly} />
      {chain.steps.length === 0 && (
        <Typography
          variant="body2"
          color="text.secondary"
          sx={{ mt: 1.5, px: 1 }}
        >{say`A chain is what this voice goes through before its level: the rumble off, pauses quieter, loud words nearer. Recordings are never changed by it. Begin with a saved chain, or add a step.`}</Typography>
      )}
      {choosing && <ChainDialog voice={voice} timeline={timeline} />}
    </Box>
  );
}

function AddStep({ voice, timeline, disabled }: { voice: string; timeline: Timeline; disabled: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        size="small"
        startIcon={<Add />}
        disabled={disabled}
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ ml: 0.5, mt: 0.5 }}
      >{say`Add a step`}</Button>
      <Menu anchorEl={anchor} open={!!anchor} onClose={() => setAnchor(null)}>
        {kindsToAdd(chainOf(timeline, voice)).map((kind) => (
          <MenuItem
            key={kind}
            dense
            onClick={() => {
              setAnchor(null);
              void addFittedStep(voice, kind);
            }}
          >
            <span>{stepNames[kind]}</span>
            <Typography component="span" variant="body2" color="text.secondary" sx={{ ml: 1.5 }}>
              {tradeNames[kind]}
            </Typography>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
