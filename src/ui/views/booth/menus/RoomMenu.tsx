'use client';
import { decimal, say } from '@/texts/say';
import * as editing from '@/state/sheet/editing';
import { usePart } from '@/state/sheet/part';
import { cleanPauses } from '@/state/finds/pauseCleaning';
import { loudestToneDbfs, toneNow } from '@/state/finds/roomTone';
import { useProject } from '@/state/project/openProject';
import { CommandItem } from '../../../commands/CommandItem';
import { useKeyText } from '../../../commands/keys';
import { again, Heading, Item, StripMenu } from './StripMenu';

const pauseChoices = [0.3, 0.5, 0.7, 1, 1.5, 2.5] as const;
const breathChoices = [0, 6, 12] as const;

export function RoomMenu({ disabled }: { disabled: boolean }) {
  const selected = usePart((state) => state.selection !== null);
  // The tone belongs to part and sources; both say when it changes.
  useProject((state) => state.parts);
  useProject((state) => state.sources);
  const tone = toneNow();
  const { pauseSeconds } = editing.useEditSettings();
  const keyText = useKeyText();
  return (
    <StripMenu name={say`Room`} disabled={disabled} title={say`Room tone and pauses`}>
      {(close) => [
        <Heading key="tone">{describeTone(tone)}</Heading>,
        <CommandItem key="where" id="showTone" close={close} disabled={!tone || tone.origin === 'check'} />,
        <CommandItem key="hear" id="hearTone" close={close} />,
        <CommandItem
          key="find"
          id="findTone"
          close={close}
          name={tone ? say`Find room tone again` : say`Find room tone`}
        />,
        <CommandItem key="use" id="selectionIsTone" close={close} disabled={!selected} />,
        <CommandItem key="patch" id="patchTone" close={close} disabled={!selected} />,
        <CommandItem key="silence" id="silence" close={close} disabled={!selected} />,
        <Heading key="all">{say`Room tone in all pauses of the part`}</Heading>,
        ...breathChoices.map((db) => (
          <Item
            key={`breath${db}`}
            name={db === 0 ? say`Keep breaths as they are` : say`Breaths ${db} dB softer`}
            onClick={close(() => void cleanPauses({ breathsLowerDb: db }))}
          />
        )),
        <Heading key="pause">{again(say`Length of the pause at the caret`, keyText('setPause'))}</Heading>,
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
  found: say`found in this part`,
  check: say`from the sound check`,
  chosen: say`your choice`,
} as const;

function describeTone(tone: ReturnType<typeof toneNow>): string {
  if (!tone) return say`Room tone: none yet`;
  const over = tone.levelDbfs - loudestToneDbfs;
  const level = `${decimal(tone.levelDbfs, 1).replace('-', '−')} dBFS`;
  return say`Room tone: ${level}, ${origins[tone.origin]}${over > 0 ? say` — ${decimal(over, 1)} dB over −60` : ''}`;
}
