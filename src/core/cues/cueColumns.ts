import { say } from '../../texts/say';
import type { Table } from './readTable';

/** What stands in a column of a cue list. */
export const columnMeanings = [
  'ignored',
  'number',
  'in',
  'out',
  'length',
  'character',
  'text',
  'note',
  'done',
] as const;
export type ColumnMeaning = (typeof columnMeanings)[number];

export const meaningNames: Readonly<Record<ColumnMeaning, string>> = {
  ignored: say`Left out`,
  number: say`Number`,
  in: say`In`,
  out: say`Out`,
  length: say`Length`,
  character: say`Character`,
  text: say`Text`,
  note: say`Note`,
  done: say`Done`,
};

/** How times are written. */
export const timeForms = ['timecode', 'clock', 'seconds'] as const;
export type TimeForm = (typeof timeForms)[number];

export interface ColumnGuess {
  /** The first row names the columns. */
  readonly hasHeader: boolean;
  readonly meanings: readonly ColumnMeaning[];
  readonly times: TimeForm;
}

/** Names columns go by (*common practice*), in English, German, French, Spanish and Italian. */
const namedAs: readonly (readonly [ColumnMeaning, RegExp])[] = [
  [
    'in',
    /^(tc|time ?code|time|cue)?[ _-]*(in|start|begin(ning)?|from|von|anfang|beginn|début|debut|inicio|inizio)([ _-]*(tc|time ?code|time))?$/,
  ],
  [
    'out',
    /^(tc|time ?code|time|cue)?[ _-]*(out|end|ende|to|bis|stop|fin|fine)([ _-]*(tc|time ?code|time))?$/,
  ],
  ['length', /^(length|duration|dur\.?|länge|dauer|durée|duración|durata)$/],
  [
    'number',
    /^(#|no\.?|nr\.?|num\.?|number|nummer|cue|cue ?(no\.?|nr\.?|number|#|id)|id|loop|line ?(no\.?|nr\.?|number|id)|n°|numéro|número|numero)$/,
  ],
  [
    'character',
    /^(character( ?name)?|char\.?|speaker|role|rolle|figur|sprecher(in)?|name|voice|who|wer|personnage|personaje|personaggio)$/,
  ],
  [
    'text',
    /^(text|line|dialogue?|words|content|script|subtitle|caption|zeile|satz|texte|texto|testo|translation|übersetzung|target)$/,
  ],
  ['note', /^(notes?|comments?|remarks?|direction|anmerkung|notiz|bemerkung|kommentar|context|kontext)$/],
  ['done', /^(done|state|status|erledigt|stand)$/],
];

const isTimecode = (cell: string) => /^\d{1,2}:\d{2}:\d{2}[:;]\d{2}$/.test(cell);
const isClock = (cell: string) => /^(\d{1,3}:)?\d{1,3}:\d{2}([.,]\d+)?$/.test(cell);
const isNumber = (cell: string) => /^\d+([.,]\d+)?$/.test(cell);
const isTime = (cell: string) => isTimecode(cell) || isClock(cell);

/** The share of the cells that have anything in them. */
function share(cells: readonly string[], is: (cell: string) => boolean): number {
  const filled = cells.filter((cell) => cell !== '');
  return filled.length === 0 ? 0 : filled.filter(is).length / filled.length;
}

const mostly = 0.8;
const guessedRows = 200;

/** A guess of what stands in each column, from the names of the first row and from what is in the others. */
export function guessColumns({ rows, columns }: Table): ColumnGuess {
  const first = rows[0] ?? [];
  const named = first.map((cell) => namedAs.find(([, name]) => name.test(cell.toLocaleLowerCase('en')))?.[0]);
  const body = rows.slice(1, guessedRows);
  const columnOf = (column: number, from: readonly (readonly string[])[]) => from.map((row) => row[column]);
  const looksNamed = named.filter(Boolean).length >= 2 || (named.some(Boolean) && !first.some(isTime));
  const hasHeader = rows.length > 1 && looksNamed;
  const data = hasHeader ? body : rows.slice(0, guessedRows);
  const meanings: ColumnMeaning[] = Array.from({ length: columns }, () => 'ignored');
  const free = (meaning: ColumnMeaning) => !meanings.includes(meaning);
  const give = (column: number, meaning: ColumnMeaning) => {
    if (column >= 0 && meanings[column] === 'ignored' && free(meaning)) meanings[column] = meaning;
  };
  if (hasHeader) named.forEach((meaning, column) => meaning && give(column, meaning));
  const rest = () => meanings.flatMap((meaning, column) => (meaning === 'ignored' ? [column] : []));
  // Times first: of two that look like it the earlier one is the in.
  const timed = rest().filter((column) => share(columnOf(column, data), isTime) >= mostly);
  const inOrder = timed.sort((a, b) => (columnOf(a, data).join() < columnOf(b, data).join() ? -1 : 1));
  for (const column of inOrder) give(column, free('in') ? 'in' : free('out') ? 'out' : 'length');
  const numeric = rest().filter((column) => share(columnOf(column, data), isNumber) >= mostly);
  const counted = numeric.find((column) => share(columnOf(column, data), (cell) => /^\d+$/.test(cell)) === 1);
  if (free('number')) give(counted ?? -1, 'number');
  for (const column of numeric)
    if (column !== counted) give(column, free('in') ? 'in' : free('out') ? 'out' : 'length');
  const lengthOf = (column: number) => columnOf(column, data).reduce((sum, cell) => sum + cell.length, 0);
  if (free('text')) give([...rest()].sort((a, b) => lengthOf(b) - lengthOf(a))[0] ?? -1, 'text');
  if (free('character')) {
    const distinct = (column: number) => new Set(columnOf(column, data)).size;
    const few = rest().filter(
      (column) => lengthOf(column) > 0 && distinct(column) <= Math.max(2, data.length / 2),
    );
    give(few[0] ?? -1, 'character');
  }
  if (free('note')) give(rest().find((column) => lengthOf(column) > 0) ?? -1, 'note');
  const times = data.flatMap((row) => row.filter((_, column) => ['in', 'out'].includes(meanings[column])));
  const form =
    share(times, isTimecode) >= 0.5 ? 'timecode' : share(times, isClock) >= 0.5 ? 'clock' : 'seconds';
  return { hasHeader, meanings, times: form };
}
