'use client';
import { cueLeft, type CueRun } from '@/state/hearing/transport';
import { Sweep } from '../../components/Sweep';

interface Props {
  run: CueRun;
  sweep: boolean;
  /** It is drawn on a picture and not on paper. */
  onPicture?: boolean;
}

/** Counts the talent into the cue that runs. */
export const CueSweep = ({ run: { cue, dry }, ...props }: Props) => (
  <Sweep key={cue.id} left={cueLeft} dry={dry} {...props} />
);
