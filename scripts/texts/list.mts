import { writeFileSync } from 'node:fs';
import { format, resolveConfig } from 'prettier';
import { textsOfCode } from './extract';

// Lists the texts of the interface in src/texts/en.json, by the files they stand in.
const file = 'src/texts/en.json';
const options = await resolveConfig(file);
writeFileSync(file, await format(JSON.stringify(textsOfCode('.')), { ...options, filepath: file }));
