import Sequencer from '@jest/test-sequencer';

const slowest = [
  ...['far', 'modes', 'visit', 'safety', 'guide', 'takes', 'lost', 'picture', 'projects', 'inputs'],
  ...['editing', 'delivery', 'fulldisk', 'access', 'import', 'keep', 'proof-export', 'finish', 'packing'],
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
