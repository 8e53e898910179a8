import { nameFields } from '../formats/fileNames';
import { bitRatesKbps, channelCounts, containers, sampleRatesHz, vbrQualities } from './fileFormat';
import { measureLabels, measures, rmsConventions } from './measures';

const nullable = (type: string, rest: object = {}) => ({ type: [type, 'null'], ...rest });

/**
 * The JSON schema (2020-12) of spec files, published as public/spec.schema.json; a test keeps the two the
 * same.
 */
export function specJsonSchema(): object {
  const limits = Object.fromEntries(
    measures.map((measure) => {
      const { name, unit, low, high, about } = measureLabels[measure];
      const edge = nullable('number', { minimum: low, maximum: high });
      return [
        measure,
        {
          description: `${name} in ${unit}${about ? `: ${about}` : ''}`,
          type: ['object', 'null'],
          properties: { min: edge, max: edge },
        },
      ];
    }),
  );
  const file = {
    type: 'object',
    required: ['container', 'encoding', 'dither', 'bitRateKbps', 'rateHz'],
    properties: {
      container: { enum: containers },
      encoding: { enum: ['pcm16', 'pcm24', 'float32'] },
      dither: { type: 'boolean' },
      bitRateKbps: { enum: bitRatesKbps },
      rateHz: { enum: sampleRatesHz },
      channels: { enum: channelCounts, default: 1 },
      vbrQuality: { enum: [null, ...vbrQualities], default: null },
      broadcast: { type: 'boolean', default: false },
      marks: { type: 'boolean', default: false },
    },
  };
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Delivery specification',
    type: 'object',
    required: ['parolaSpec', 'name', 'limits', 'aimPeakDbfs', 'file', 'channels'],
    properties: {
      parolaSpec: { const: 1 },
      name: { type: 'string', minLength: 1, maxLength: 60 },
      note: { type: 'string', default: '' },
      limits: { type: 'object', properties: limits },
      rmsConvention: { enum: rmsConventions, default: 'full-scale' },
      aimPeakDbfs: {
        type: 'object',
        required: ['min', 'max'],
        properties: {
          min: { type: 'number', minimum: -60, maximum: 0 },
          max: { type: 'number', minimum: -60, maximum: 0 },
        },
      },
      file,
      more: { type: 'array', items: file, maxItems: 6, default: [] },
      channels: { description: 'Channel counts the client takes', type: 'array', items: { type: 'integer' } },
      naming: {
        description: `Template of file names; fields: ${Object.keys(nameFields).join(', ')}`,
        type: 'string',
        maxLength: 200,
      },
      unprocessed: { type: 'boolean', default: false },
    },
  };
}
