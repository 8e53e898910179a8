'use client';
import { yupResolver } from '@hookform/resolvers/yup';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { Controller, useForm, type Control, type FieldErrors, type UseFormRegister } from 'react-hook-form';
import { builtInSpecs, findSpec } from '@/core/specs/builtIn';
import { bitRatesKbps, sampleRatesHz } from '@/core/specs/fileFormat';
import { measureLabels, measures, type Measure } from '@/core/specs/measures';
import { specSchema, type Spec } from '@/core/specs/spec';
import { setSpec } from '@/state/projectActions';
import { useSession } from '@/state/session';

type Errors = FieldErrors<Spec>;

const emptyAsNone = (value: unknown) => {
  if (value === '' || value === null || value === undefined) return null;
  return Number(String(value).replace(',', '.').replace('−', '-'));
};

/** The project's own copy of the specification: changing it here changes nothing but this project. */
export function SpecForm({ spec, rateHz }: { spec: Spec; rateHz: number }) {
  const readOnly = useSession((state) => state.readOnly);
  const form = useForm<Spec>({
    resolver: yupResolver(specSchema) as never,
    defaultValues: filled(spec),
    mode: 'onBlur',
  });
  const { errors, isDirty } = form.formState;
  const submit = form.handleSubmit((changed) => {
    setSpec(changed);
    form.reset(filled(changed));
  });
  const start = (name: string) => {
    const chosen = findSpec(name);
    if (chosen) form.reset(filled(chosen), { keepDefaultValues: true });
  };
  return (
    <Box
      component="form"
      aria-label="Specification"
      onSubmit={(event) => void submit(event)}
      sx={{
        width: 360,
        flexShrink: 0,
        borderLeft: 1,
        borderColor: 'divider',
        p: 2.25,
        overflowY: 'auto',
        display: 'flex',
        flexDirection: 'column',
        gap: 1.5,
      }}
    >
      <Typography variant="h2">Specification</Typography>
      <TextField
        select
        size="small"
        label="Start again from"
        value=""
        onChange={(event) => start(event.target.value)}
        disabled={readOnly}
      >
        {builtInSpecs.map(({ name }) => (
          <MenuItem key={name} value={name}>
            {name}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        {...form.register('name')}
        size="small"
        label="Name"
        error={!!errors.name}
        helperText={errors.name?.message}
      />
      <Typography variant="body2" color="text.secondary">
        {spec.note} Recorded at {rateHz / 1000} kHz.
      </Typography>
      {measures.map((measure) => (
        <LimitRow key={measure} measure={measure} register={form.register} errors={errors} />
      ))}
      <AimRow register={form.register} errors={errors} />
      <FileFields control={form.control} errors={errors} />
      <Box
        sx={{
          position: 'sticky',
          bottom: -18,
          zIndex: 1,
          mx: -2.25,
          px: 2.25,
          borderTop: 1,
          borderColor: 'divider',
          bgcolor: 'background.default',
          py: 1,
          display: 'flex',
          gap: 1,
        }}
      >
        <Button type="submit" variant="contained" disabled={!isDirty || readOnly}>
          Use these limits
        </Button>
        <Button color="inherit" disabled={!isDirty} onClick={() => form.reset()}>
          Undo changes
        </Button>
      </Box>
    </Box>
  );
}

/** Every measure has a pair of fields; none means no limit. */
function filled(spec: Spec): Spec {
  const limits = Object.fromEntries(
    measures.map((measure) => [measure, spec.limits[measure] ?? { min: null, max: null }]),
  );
  return { ...spec, limits: limits as Spec['limits'] };
}

interface EdgePairProps {
  name: string;
  unit: string;
  /** Form field and spoken name of each edge. */
  edges: readonly (readonly [field: EdgeField, spoken: string])[];
  placeholders?: readonly string[];
  message: string | undefined;
  register: UseFormRegister<Spec>;
}

type EdgeField = `limits.${Measure}.${'min' | 'max'}` | `aimPeakDbfs.${'min' | 'max'}`;

/** A measure with its lowest and highest value; what is wrong with them stands under them. */
function EdgePair({ name, unit, edges, placeholders, message, register }: EdgePairProps) {
  return (
    <Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Box sx={{ flex: 1, fontSize: 14 }}>
          {name}{' '}
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {unit}
          </Box>
        </Box>
        {edges.map(([field, spoken], index) => (
          <TextField
            key={field}
            {...register(field, { setValueAs: emptyAsNone })}
            size="small"
            placeholder={placeholders?.[index]}
            error={!!message}
            slotProps={{ htmlInput: { 'aria-label': `${spoken} in ${unit}`, inputMode: 'decimal' } }}
            sx={{ width: 88 }}
          />
        ))}
      </Box>
      {message && (
        <Typography role="alert" color="error" variant="caption">
          {message}
        </Typography>
      )}
    </Box>
  );
}

function LimitRow({
  measure,
  register,
  errors,
}: {
  measure: Measure;
  register: UseFormRegister<Spec>;
  errors: Errors;
}) {
  const { name, unit } = measureLabels[measure];
  const own = errors.limits?.[measure] as
    { min?: { message?: string }; max?: { message?: string } } | undefined;
  return (
    <EdgePair
      name={name}
      unit={unit}
      edges={[
        [`limits.${measure}.min`, `${name}, lowest`],
        [`limits.${measure}.max`, `${name}, highest`],
      ]}
      placeholders={['lowest', 'highest']}
      message={own?.min?.message ?? own?.max?.message}
      register={register}
    />
  );
}

function AimRow({ register, errors }: { register: UseFormRegister<Spec>; errors: Errors }) {
  return (
    <EdgePair
      name="Aim of loud peaks"
      unit="dBFS"
      edges={[
        ['aimPeakDbfs.min', 'Aim, lower edge'],
        ['aimPeakDbfs.max', 'Aim, upper edge'],
      ]}
      message={errors.aimPeakDbfs?.min?.message ?? errors.aimPeakDbfs?.max?.message}
      register={register}
    />
  );
}

function FileFields({ control, errors }: { control: Control<Spec>; errors: Errors }) {
  const choice = (
    name: 'file.container' | 'file.encoding' | 'file.bitRateKbps' | 'file.rateHz',
    label: string,
    options: readonly (readonly [string | number, string])[],
  ) => (
    <Controller
      control={control}
      name={name}
      render={({ field }) => (
        <TextField {...field} select size="small" label={label} sx={{ flex: 1 }}>
          {options.map(([value, text]) => (
            <MenuItem key={value} value={value}>
              {text}
            </MenuItem>
          ))}
        </TextField>
      )}
    />
  );
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        {choice('file.container', 'File', [
          ['wav', 'WAV'],
          ['mp3', 'MP3'],
        ])}
        {choice(
          'file.rateHz',
          'Sample rate',
          sampleRatesHz.map((rate) => [rate, `${rate / 1000} kHz`] as const),
        )}
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        {choice('file.encoding', 'WAV depth', [
          ['pcm16', '16-bit'],
          ['pcm24', '24-bit'],
          ['float32', '32-bit float'],
        ])}
        {choice(
          'file.bitRateKbps',
          'MP3 bit rate',
          bitRatesKbps.map((rate) => [rate, `${rate} kbit/s`] as const),
        )}
      </Box>
      {errors.file?.rateHz?.message && (
        <Typography role="alert" color="error" variant="caption">
          {errors.file.rateHz.message}
        </Typography>
      )}
    </>
  );
}
