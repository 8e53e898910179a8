/** Paper and ink: the roles every drawing and component takes its colours from. */
export interface InkPalette {
  paper: string;
  sheet: string;
  ink: string;
  faintInk: string;
  rule: string;
  /** Only for recording and strikes. */
  vermilion: string;
  struckInk: string;
  /** Selection and caret. */
  blue: string;
  selection: string;
  /** Flubs. */
  ochre: string;
  /** Within limits. */
  sage: string;
  aim: string;
  /** The line that is being read, the row under the pointer. */
  wash: string;
}

export const light: InkPalette = {
  paper: '#FBF8F2',
  sheet: '#FFFDF9',
  ink: '#1F2A37',
  faintInk: '#5F6673',
  rule: '#E4DDD0',
  vermilion: '#BC3528',
  struckInk: '#DDB9B2',
  blue: '#2F5DA8',
  selection: 'rgba(47, 93, 168, 0.13)',
  ochre: '#96610F',
  sage: '#3F6C54',
  aim: '#DCE7DE',
  wash: '#F3EADC',
};

export const lamp: InkPalette = {
  paper: '#191512',
  sheet: '#1F1A16',
  ink: '#EFE6D8',
  faintInk: '#B3A796',
  rule: '#3C342B',
  vermilion: '#EE7364',
  struckInk: '#7A4A42',
  blue: '#93B6F0',
  selection: 'rgba(147, 182, 240, 0.2)',
  ochre: '#E0AB55',
  sage: '#8FC4A4',
  aim: '#2B3A31',
  wash: '#2E261E',
};
