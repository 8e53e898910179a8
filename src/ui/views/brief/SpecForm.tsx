'use client';
import { say } from '@/texts/say';
import { specName } from '../../components/specName';
import { yupResolver } from '@hookform/resolvers/yup';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useEffect } from 'react';
import { useDropzone } from 'react-dropzone';
import {
  Controller,
  useFieldArray,
  useForm,
  type Control,
  type FieldErrors,
  type UseFormRegister,
} from 'react-hook-form';
import { nameFields } from '@/core/formats/fileNames';
import { plainFormat } from '@/core/specs/fileFormat';
import { measureLabels, measures, type Measure } from '@/core/specs/measures';
import { specSchema, type Spec } from '@/core/specs/spec';
import { setSpec } from '@/state/project/settings';
import { useProject } from '@/state/project/openProject';
import {
  allSpecs,
  forgetSpec,
  keepSpec,
  openSpecFile,
  readSpecLibrary,
  saveSpecFile,
  specNamed,
  useSpecLibrary,
} from '@/state/project/specLibrary';
import { FormatFields } from '../../components/FormatFields';

type Errors = FieldErrors<Spec>;

const emptyAsNone = (value: unknown) => {
  if (value === '' || value === null || value === undefined) return null;
  return Number(String(value).replace(',', '.').replace('−', '-'));
};

/** The project's own copy of the specification: changing it here changes nothing but this project. */
export function SpecForm({ spec, rateHz }: { spec: Spec; rateHz: number }) {
  const readOnly = useProject((state) => state.readOnly);
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
  const own = useSpecLibrary((state) => state.own);
  useEffect(() => void readSpecLibrary(), []);
  const take = (chosen: Spec | undefined | null) => {
    if (chosen) form.reset(filled(chosen), { keepDefaultValues: true });
  };
  const keep = form.handleSubmit((changed) => keepSpec(changed));
  const save = form.handleSubmit((changed) => saveSpecFile(changed));
  const { getInputProps, open: chooseFile } = useDropzone({
    accept: { 'application/json': ['.json'] },
    multiple: false,
    noClick: true,
    onDrop: ([file]) => void (file && openSpecFile(file).then(take)),
  });
  return (
    <Box
      component="form"
      aria-label={say`Specification`}
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
      <Typography variant="h2">{say`Specification`}</Typography>
      <TextField
        select
        size="small"
        label={say`Start again from`}
        value=""
        onChange={(event) => take(specNamed(event.target.value))}
        disabled={readOnly}
      >
        {allSpecs(own).map(({ name }) => (
          <MenuItem key={name} value={name}>
            {specName(name)}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        {...form.register('name')}
        size="small"
        label={say`Name`}
        error={!!errors.name}
        helperText={errors.name?.message}
      />
      <TextField {...form.register('note')} size="small" label={say`Note`} multiline maxRows={4} />
      <Typography variant="body2" color="text.secondary">{say`Recorded at ${rateHz / 1000} kHz.`}</Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, mx: -0.75 }}>
        <Button size="small" color="secondary" onClick={() => void keep()}>{say`Keep as my own`}</Button>
        <Button size="small" color="secondary" onClick={() => void save()}>{say`To a file`}</Button>
        <Button
          size="small"
          color="secondary"
          disabled={readOnly}
          onClick={chooseFile}
        >{say`From a file`}</Button>
        {own.some(({ name }) => name === spec.name) && (
          <Button
            size="small"
            color="inherit"
            onClick={() => void forgetSpec(spec.name)}
          >{say`Forget mine`}</Button>
        )}
        <input {...getInputProps()} aria-label={say`Spec file`} />
      </Box>
      {measures.map((measure) => (
        <LimitRow key={measure} measure={measure} register={form.register} errors={errors} />
      ))}
      <AimRow register={form.register} errors={errors} />
      <Controller
        control={form.control}
        name="rmsConvention"
        render={({ field }) => (
          <TextField {...field} select size="small" label={say`RMS is against`}>
            <MenuItem value="full-scale">{say`full scale 1.0 (a full-scale sine is −3.01 dBFS)`}</MenuItem>
            <MenuItem value="sine">{say`a full-scale sine (AES17: that is 0 dBFS)`}</MenuItem>
          </TextField>
        )}
      />
      <Controller
        control={form.control}
        name="unprocessed"
        render={({ field: { value, onChange } }) => (
          <FormControlLabel
            control={
              <Switch size="small" checked={value} onChange={(event) => onChange(event.target.checked)} />
            }
            label={say`Unprocessed: no limiter`}
          />
        )}
      />
      <FileFields control={form.control} errors={errors} />
      <TextField
        {...form.register('naming')}
        size="small"
        label={say`Names of the files`}
        error={!!errors.naming}
        helperText={
          errors.naming?.message ??
          say`Fields: ${Object.keys(nameFields)
            .map((field) => `{${field}}`)
            .join(' ')}`
        }
      />
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
        <Button
          type="submit"
          variant="contained"
          disabled={!isDirty || readOnly}
        >{say`Use these limits`}</Button>
        <Button color="inherit" disabled={!isDirty} onClick={() => form.reset()}>{say`Undo changes`}</Button>
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
            slotProps={{ htmlInput: { 'aria-label': say`${spoken} in ${unit}`, inputMode: 'decimal' } }}
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
        [`limits.${measure}.min`, say`${name}, lowest`],
        [`limits.${measure}.max`, say`${name}, highest`],
      ]}
      placeholders={[say`lowest`, say`highest`]}
      message={own?.min?.message ?? own?.max?.message}
      register={register}
    />
  );
}

function AimRow({ register, errors }: { register: UseFormRegister<Spec>; errors: Errors }) {
  return (
    <EdgePair
      name={say`Aim of loud peaks`}
      unit="dBFS"
      edges={[
        ['aimPeakDbfs.min', say`Aim, lower edge`],
        ['aimPeakDbfs.max', say`Aim, upper edge`],
      ]}
      message={errors.aimPeakDbfs?.min?.message ?? errors.aimPeakDbfs?.max?.message}
      register={register}
    />
  );
}

/** The file that is measured, and further ones of each part that are written in the same go. */
function FileFields({ control, errors }: { control: Control<Spec>; errors: Errors }) {
  const { fields, append, remove } = useFieldArray({ control, name: 'more' });
  const messages = [errors.file, ...(Array.isArray(errors.more) ? errors.more : [])].flatMap((format) =>
    format ? [format.rateHz?.message, format.bitRateKbps?.message] : [],
  );
  return (
    <>
      <Typography variant="h3" sx={{ mt: 1 }}>{say`The file`}</Typography>
      <Controller
        control={control}
        name="file"
        render={({ field: { value, onChange } }) => <FormatFields format={value} onChange={onChange} />}
      />
      {fields.map(({ id }, index) => (
        <Box key={id} sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
          <Box sx={{ display: 'flex', alignItems: 'baseline', mt: 1 }}>
            <Typography variant="h3" sx={{ flex: 1 }}>{say`Also of each part`}</Typography>
            <Button size="small" color="inherit" onClick={() => remove(index)}>{say`Leave out`}</Button>
          </Box>
          <Controller
            control={control}
            name={`more.${index}`}
            render={({ field: { value, onChange } }) => <FormatFields format={value} onChange={onChange} />}
          />
        </Box>
      ))}
      <Button
        size="small"
        color="secondary"
        sx={{ alignSelf: 'start' }}
        onClick={() => append(plainFormat)}
      >{say`Also deliver another file of each part`}</Button>
      {messages
        .filter((message) => message)
        .map((message) => (
          <Typography key={message} role="alert" color="error" variant="caption">
            {message}
          </Typography>
        ))}
    </>
  );
}
