import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { bandSettings } from '@/core/chain/settings';
import type { Band, BandShape } from '@/core/dsp/cookbook';
import { ChoiceInPlace } from '../../../components/ChoiceInPlace';
import { ValueInPlace } from '../../../components/ValueInPlace';
import { hasGain, shapeNames } from './equaliserGeometry';

interface BandProps {
  band: Band;
  disabled: boolean;
  onDraft: (changes: Partial<Band>) => void;
  onChange: (changes: Partial<Band>) => void;
  onRemove: () => void;
}

/** A band in words, changed where it stands. */
export function BandSentence({ band, disabled, onDraft, onChange, onRemove }: BandProps) {
  const number = (field: 'hertz' | 'gainDb' | 'q', label: string, unit: string, decimals: number) => (
    <ValueInPlace
      label={label}
      value={band[field]}
      unit={unit}
      step={bandSettings[field].by}
      decimals={decimals}
      lowest={bandSettings[field].from}
      highest={bandSettings[field].to}
      disabled={disabled}
      onDraft={(value) => onDraft({ [field]: value })}
      onChange={(value) => onChange({ [field]: value })}
    />
  );
  return (
    <Box>
      <ChoiceInPlace
        label={say`Shape of the band`}
        value={band.shape}
        choices={Object.entries(shapeNames).map(([key, name]) => ({ key, name }))}
        disabled={disabled}
        onChange={(key) => onChange({ shape: key as BandShape })}
      />
      {say` at `}
      {number('hertz', say`Frequency of the band`, 'Hz', 0)}
      {hasGain(band.shape) && <>, {number('gainDb', say`Gain of the band`, 'dB', 1)}</>}, Q{' '}
      {number('q', say`Q of the band`, '', 1)}{' '}
      <Button
        size="small"
        color="inherit"
        disabled={disabled}
        onClick={onRemove}
        sx={{ minWidth: 0, py: 0 }}
      >{say`Remove`}</Button>
    </Box>
  );
}

/** Offers the shapes a band can have. */
export function AddBand({ disabled, onAdd }: { disabled: boolean; onAdd: (shape: BandShape) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        size="small"
        disabled={disabled}
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
      >{say`+ Add a band`}</Button>
      <Menu anchorEl={anchor} open={!!anchor} onClose={() => setAnchor(null)}>
        {(Object.keys(shapeNames) as BandShape[]).map((shape) => (
          <MenuItem
            key={shape}
            dense
            onClick={() => {
              setAnchor(null);
              onAdd(shape);
            }}
          >
            {shapeNames[shape]}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
