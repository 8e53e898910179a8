import { say } from '@/texts/say';
import { toggleFilmWindow } from '@/state/hearing/filmWindow';
import { showKeeping } from '@/state/keep/keeping';
import { saveBackup, useReminding } from '@/state/keep/reminding';
import { setView, useView, zoom } from '@/state/page/view';
import { toggleSessionStart } from '@/state/recording/sessionStart';
import * as actions from '../actions';
import type { Command } from '../command';

/** Keys for what is shown. */
export const looking = {
  saveBackup: {
    label: say`Save a project file; where there is one already, only what is new`,
    group: 'Look',
    keys: ['$'],
    when: 'editing',
    run: () => void saveBackup(useReminding.getState().hasFile),
  },
  sessionCard: {
    label: say`What to look at before recording: show it, hide it`,
    group: 'Look',
    keys: ['!'],
    when: 'editing',
    run: toggleSessionStart,
  },
  film: {
    label: say`The picture, shown or hidden`,
    group: 'Look',
    keys: ['*'],
    when: 'always',
    run: () => setView({ film: !useView.getState().film }),
  },
  filmWindow: {
    label: say`The picture in a window of its own, for a second screen`,
    group: 'Look',
    keys: ['#'],
    when: 'always',
    run: toggleFilmWindow,
  },
  fewerSeconds: {
    label: say`Fewer seconds on a row`,
    group: 'Look',
    keys: ['mod+=', 'mod+plus'],
    when: 'always',
    run: () => zoom(-1),
  },
  moreSeconds: {
    label: say`More seconds on a row`,
    group: 'Look',
    keys: ['mod+-'],
    when: 'always',
    run: () => zoom(1),
  },
  loupe: {
    label: say`Loupe`,
    group: 'Look',
    keys: ['z'],
    when: 'always',
    run: () => setView({ loupe: !useView.getState().loupe }),
  },
  spectrum: {
    label: say`Wave or spectrum`,
    group: 'Look',
    keys: ['q'],
    when: 'always',
    run: () => setView({ picture: useView.getState().picture === 'wave' ? 'spectrum' : 'wave' }),
  },
  prompter: {
    label: say`The script, large and dark`,
    group: 'Look',
    keys: ['b'],
    when: 'always',
    run: () => setView({ prompter: true }),
  },
  largerScript: {
    label: say`Larger script`,
    group: 'Look',
    keys: ['shift+mod+='],
    when: 'always',
    run: () => actions.stepPrompter(1),
  },
  smallerScript: {
    label: say`Smaller script`,
    group: 'Look',
    keys: ['shift+mod+-'],
    when: 'always',
    run: () => actions.stepPrompter(-1),
  },
  allKeys: {
    label: say`All keys`,
    group: 'Look',
    keys: ['?'],
    when: 'always',
    run: () => useView.setState({ keysShown: true }),
  },
  whereKept: {
    label: say`Where the project is kept: room, copy, project files`,
    menu: say`Where it is kept …`,
    group: 'Look',
    keys: ['8'],
    when: 'always',
    run: () => showKeeping(true),
  },
} satisfies Record<string, Command>;
