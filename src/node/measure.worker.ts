import { toParolaError } from '@/core/base/errors';
import { measureFile, type MeasuredFile } from './proofFile';
import type { MeasureTask } from './measuring';

export type Measured = { measured: MeasuredFile } | { code: string; message: string };

/** Measures one file in a thread of its own. An error is an answer: a thread that throws is lost. */
export default async function measure({ file, name, mostChannelHours }: MeasureTask): Promise<Measured> {
  try {
    return { measured: await measureFile(file, { name, mostChannelHours }) };
  } catch (thrown) {
    const { code, message } = toParolaError(thrown);
    return { code, message };
  }
}
