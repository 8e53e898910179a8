import Sequencer from '@jest/test-sequencer';

const slowest = [
  ...['far', 'modes', 'access', 'guide', 'safety', 'picture', 'takes', 'projects', 'lost'],
  ...['inputs', 'delivery', 'editing', 'import', 'fulldisk', 'proof-export', 'chain', 'packing', 'keep'],
];

/** The slowest first: none of them is left alone at the end, with one core idle. */
export default class SlowestFirst extends Sequencer {
  sort(tests) {
    const rank = ({ path }) => {
      const at = slowest.findIndex((name) => path.endsWith(`/${name}.e2e.ts`));
      return at < 0 ? slowest.length : at;
    };
    return [...tests].sort((a, b) => rank(a) - rank(b) || (a.path < b.path ? -1 : 1));
  }
}
