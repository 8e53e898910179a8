import Box from '@mui/material/Box';

interface Props {
  label: string;
  value: string;
  choices: readonly { readonly key: string; readonly name: string }[];
  disabled?: boolean;
  onChange: (key: string) => void;
}

/** A word of a sentence that is one of several, chosen where it stands. */
export function ChoiceInPlace({ label, value, choices, disabled, onChange }: Props) {
  const chosen = choices.find(({ key }) => key === value);
  return (
    <Box
      component="select"
      aria-label={label}
      value={value}
      disabled={disabled}
      onChange={(event: { target: { value: string } }) => onChange(event.target.value)}
      sx={{
        // As wide as what is chosen, not as the longest choice.
        fieldSizing: 'content',
        '@supports not (field-sizing: content)': { width: `${(chosen?.name.length ?? 8) - 1}ch` },
        maxWidth: '100%',
        p: 0,
        appearance: 'none',
        border: 0,
        borderBottom: '1px dotted',
        borderColor: 'info.main',
        borderRadius: 0,
        bgcolor: 'transparent',
        color: 'info.main',
        font: 'inherit',
        fontWeight: 600,
        cursor: 'pointer',
        '& option': { color: 'text.primary', bgcolor: 'background.paper' },
      }}
    >
      {choices.map(({ key, name }) => (
        <option key={key} value={key}>
          {name}
        </option>
      ))}
    </Box>
  );
}
