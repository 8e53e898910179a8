import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import Switch from '@mui/material/Switch';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { formatDb } from '@/core/base/units';
import { toggleEqual } from '@/state/chain/chains';
import { setChainHear, useChainHearing, type ChainHear } from '@/state/hearing/chainHearing';

export const hearNames: Readonly<Record<ChainHear, string>> = {
  finished: say`Finished`,
  recorded: say`As recorded`,
  taken: say`What is taken away`,
};

/** How a voice with a chain is heard, and whether the two are heard equally loud. */
export function HearBar() {
  const { hear, equal, equalDb } = useChainHearing();
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.75,
        px: 2,
        height: 40,
        borderBottom: 1,
        borderColor: 'divider',
        flexShrink: 0,
      }}
    >
      <ToggleButtonGroup
        exclusive
        size="small"
        value={hear}
        aria-label={say`How this voice is heard`}
        onChange={(_, next: ChainHear | null) => next && setChainHear(next)}
      >
        {(Object.keys(hearNames) as ChainHear[]).map((key) => (
          <ToggleButton
            key={key}
            value={key}
            sx={{
              textTransform: 'none',
              whiteSpace: 'nowrap',
              py: 0.25,
              px: 1.25,
              color: 'text.primary',
              fontSize: 13,
            }}
          >
            {hearNames[key]}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <FormControlLabel
        control={<Switch size="small" checked={equal} onChange={toggleEqual} />}
        label={<Box sx={{ fontSize: 12.5, whiteSpace: 'nowrap' }}>{say`equally loud`}</Box>}
        sx={{ m: 0 }}
      />
      <Box
        sx={{
          fontSize: 12.5,
          color: 'text.secondary',
          whiteSpace: 'nowrap',
          overflow: 'hidden',
          textOverflow: 'ellipsis',
        }}
      >
        {equal &&
          equalDb !== null &&
          say`as recorded ${equalDb < 0 ? '' : '+'}${formatDb(equalDb)} to compare`}
      </Box>
    </Box>
  );
}
