'use client';
import * as editing from '@/state/sheet/editing';
import { usePart } from '@/state/sheet/part';
import { cleanPauses } from '@/state/finds/pauseCleaning';
import {
  findTone,
  hearTone,
  loudestToneDbfs,
  patchTone,
  showTone,
  toneNow,
  useSelectionAsTone as keepSelectionAsTone,
} from '@/state/finds/roomTone';
import { useProject } from '@/state/project/openProject';
import { Heading, Item, StripMenu } from './StripMenu';

const pauseChoices = [0.3, 0.5, 0.7, 1, 1.5, 2.5] as const;
const breathChoices = [0, 6, 12] as const;

export function RoomMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  // The tone belongs to part and sources; both say when it changes.
  useProject((state) => state.parts);
  useProject((state) => state.sources);
  const tone = toneNow();
  const { pauseSeconds } = editing.useEditSettings();
  return (
    <StripMenu name="Room" disabled={disabled} title="Room tone and pauses">
      {(close) => [
        <Heading key="tone">{describeTone(tone)}</Heading>,
        <Item
          key="where"
          name="Show where it is from"
          disabled={!tone || tone.origin === 'check'}
          onClick={close(showTone)}
        />,
        <Item key="hear" name="Hear the room tone" keys="Shift T" onClick={close(() => void hearTone())} />,
        <Item
          key="find"
          name={tone ? 'Find room tone again' : 'Find room tone'}
          onClick={close(() => void findTone(true))}
        />,
        <Item
          key="use"
          name="Use the selection as room tone"
          disabled={!selected}
          onClick={close(() => void keepSelectionAsTone())}
        />,
        <Item
          key="patch"
          name="Patch tone over the selection"
          keys="T"
          disabled={!selected}
          onClick={close(() => void patchTone())}
        />,
        <Item
          key="silence"
          name="Silence over the selection"
          keys="Shift X"
          disabled={!selected}
          onClick={close(editing.silenceSelection)}
        />,
        <Heading key="all">Room tone in all pauses of the part</Heading>,
        ...breathChoices.map((db) => (
          <Item
            key={`breath${db}`}
            name={db === 0 ? 'Keep breaths as they are' : `Breaths ${db} dB softer`}
            onClick={close(() => void cleanPauses({ breathsLowerDb: db }))}
          />
        )),
        <Heading key="pause">Length of the pause at the caret (O again)</Heading>,
        ...pauseChoices.map((seconds) => (
          <Item
            key={`pause${seconds}`}
            name={`${seconds} s`}
            selected={seconds === pauseSeconds}
            onClick={close(() => {
              editing.useEditSettings.setState({ pauseSeconds: seconds });
              void editing.setPause(seconds);
            })}
          />
        )),
      ]}
    </StripMenu>
  );
}

const origins = {
  found: 'found in this part',
  check: 'from the sound check',
  chosen: 'your choice',
} as const;

function describeTone(tone: ReturnType<typeof toneNow>): string {
  if (!tone) return 'Room tone: none yet';
  const over = tone.levelDbfs - loudestToneDbfs;
  const level = `${tone.levelDbfs.toFixed(1).replace('-', '−')} dBFS`;
  return `Room tone: ${level}, ${origins[tone.origin]}${over > 0 ? ` — ${over.toFixed(1)} dB over −60` : ''}`;
}
