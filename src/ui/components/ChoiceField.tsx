import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';

interface Props<T extends string> {
  label: string;
  value: T;
  /** What each choice is called, in order. */
  choices: Readonly<Partial<Record<T, string>>>;
  onChange: (value: T) => void;
  disabled?: boolean;
  margin?: 'dense' | 'none';
}

/** A field in which one of a few things is chosen. */
export function ChoiceField<T extends string>({
  label,
  value,
  choices,
  onChange,
  disabled,
  margin,
}: Props<T>) {
  return (
    <TextField
      select
      fullWidth
      label={label}
      value={value}
      disabled={disabled}
      margin={margin}
      onChange={(event) => onChange(event.target.value as T)}
    >
      {(Object.keys(choices) as T[]).map((one) => (
        <MenuItem key={one} value={one}>
          {choices[one]}
        </MenuItem>
      ))}
    </TextField>
  );
}
