import { useKernels } from '@/core/dsp/kernels';
import { reference } from '@/core/dsp/kernels/reference';
import { useNotices } from './notices';
import { tellSlowKernels } from './slowKernels';

afterEach(() => useKernels(null));

test('a browser without SIMD is told of once, one that has it never', () => {
  tellSlowKernels();
  expect(useNotices.getState().notices).toEqual([]);
  useKernels(reference);
  tellSlowKernels();
  tellSlowKernels();
  expect(useNotices.getState().notices.map(({ severity, text }) => [severity, /SIMD/.test(text)])).toEqual([
    ['info', true],
  ]);
  useNotices.setState({ notices: [] });
  tellSlowKernels();
  expect(useNotices.getState().notices).toEqual([]);
});
