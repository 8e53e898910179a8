import { bandShapes } from '../dsp/cookbook';
import { mostBands, mostSteps, type StepKind } from './chain';
import { chainFormatVersion, otherFields } from './chainFile';
import { roomPlaces } from './roomProfile';
import { bandSettings, choices, highestHarmonic, settings, usualOrder, type Setting } from './settings';
import { stepNames } from './stepText';

/**
 * The JSON schema (2020-12) of chain files, published as public/chain.schema.json; a test keeps the two
 * the same.
 */
export function chainJsonSchema(): object {
  const numeric = ({ from, to, unit, usual }: Setting) => ({
    type: 'number',
    minimum: from,
    maximum: to,
    description: `In ${unit}; usual: ${usual}`,
  });
  const rest: Readonly<Record<string, object>> = {
    harmonics: { type: 'array', items: { type: 'integer', minimum: 1, maximum: highestHarmonic } },
    profile: {
      description: 'What the room sounds like by itself; null while nothing was learned',
      type: ['object', 'null'],
      properties: {
        stepHz: { type: 'number', minimum: 5, maximum: 400 },
        levels: {
          type: 'array',
          items: { type: 'number' },
          minItems: roomPlaces.length,
          maxItems: roomPlaces.length,
        },
      },
    },
    roomDb: { type: ['array', 'null'], items: { type: 'number' }, minItems: 3, maxItems: 3 },
    bands: {
      type: 'array',
      maxItems: mostBands,
      items: {
        type: 'object',
        required: ['shape', 'hertz', 'gainDb', 'q'],
        properties: {
          shape: { enum: bandShapes },
          hertz: numeric(bandSettings.hertz),
          gainDb: numeric(bandSettings.gainDb),
          q: numeric(bandSettings.q),
        },
      },
    },
  };
  const step = (kind: StepKind) => {
    const numbers = Object.entries<Setting>(settings[kind]).map(
      ([name, one]) => [name, numeric(one)] as const,
    );
    const few = Object.entries<readonly unknown[]>(choices[kind]).map(
      ([name, values]) => [name, { enum: values }] as const,
    );
    const more = Object.keys(otherFields[kind]).map((name) => [name, rest[name]] as const);
    const fields = [...numbers, ...few, ...more];
    return {
      title: stepNames[kind],
      type: 'object',
      required: [
        'kind',
        'on',
        ...fields.map(([name]) => name).filter((name) => name !== 'profile' && name !== 'roomDb'),
      ],
      properties: { kind: { const: kind }, on: { type: 'boolean' }, ...Object.fromEntries(fields) },
    };
  };
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Chain of a voice',
    type: 'object',
    required: ['parolaChain', 'steps'],
    properties: {
      parolaChain: { const: chainFormatVersion },
      name: { type: 'string', maxLength: 60, default: '' },
      note: { description: 'What it is for', type: 'string', maxLength: 300, default: '' },
      steps: { type: 'array', maxItems: mostSteps, items: { oneOf: usualOrder.map(step) } },
    },
  };
}
