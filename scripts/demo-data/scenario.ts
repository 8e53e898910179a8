/**
 * The Lamp House: an audio guide to an invented lighthouse museum. All people, places and words are made up.
 *
 * A reading is a list of what happens in front of the microphone, in order. `line` refers to the part's
 * script, so that every sentence stands here once.
 */
export type Voice = 'ines' | 'tomas' | 'aldo' | 'anders';

export type Event =
  | { kind: 'line'; line: number; voice?: Voice; clippedWord?: boolean }
  /** A false start: the first `words` words of a line, then `slip`; with or without a clap; then a pause. */
  | { kind: 'flub'; line: number; words: number; slip: string; clap: boolean; voice?: Voice }
  /** The line again, read a little differently. */
  | { kind: 'again'; line: number; voice?: Voice }
  | { kind: 'pause'; seconds: number }
  | { kind: 'breath' }
  | { kind: 'door' }
  | { kind: 'click' };

export interface Part {
  id: string;
  name: string;
  script: string[];
  events: Event[];
  voice: Voice;
  /** RMS of the finished file in dBFS. */
  levelDbfs: number;
  headSeconds: number;
  tailSeconds: number;
  /** Mains hum under the whole part, dBFS, or none. */
  humDbfs?: number;
  /** Passages struck already when the demo opens, by event index. */
  struckEvents?: number[];
}

const line = (index: number, more: Partial<Extract<Event, { kind: 'line' }>> = {}): Event => ({
  kind: 'line',
  line: index,
  ...more,
});
const pause = (seconds: number): Event => ({ kind: 'pause', seconds });
const breath: Event = { kind: 'breath' };
const flub = (index: number, words: number, slip: string, clap: boolean): Event => ({
  kind: 'flub',
  line: index,
  words,
  slip,
  clap,
});
const again = (index: number): Event => ({ kind: 'again', line: index });

const arrival = [
  'Welcome to the Lamp House on Corran Rock.',
  'You are standing where the supply boat landed, twice a month, if the sea allowed it.',
  'Turn to your left and look up: the white tower is thirty-one metres high.',
  'The door is always open, and the kettle is usually on.',
  'When you are ready, follow the rope along the wall to the boat house.',
];

const boatHouse = [
  'This was the boat house, and it still smells of tar.',
  'The boat on the trestles is the Patience, built by hand in the winter of eighteen ninety.',
  'She carried coal, lamp oil, letters, and once a piano.',
  'Put your hand on the third plank from the top: you will feel where it was mended.',
  'The keepers rowed her in every weather but one.',
];

const stair = [
  'Welcome to the stair.',
  'Before you climb, look down.',
  'The stair has ninety-four steps, and every keeper counted them in the dark.',
  'In the winter of the long storm, the lamp was lit by hand, every four hours, for eleven nights.',
  'The oil was carried up in cans of twelve litres, two at a time.',
  'Listen. What you hear is the sea working at the rock below you.',
  'It has been at work for longer than the house has stood.',
];

const keepersTalk = [
  'Is that you, Aldo? You are late again.',
  'The fog had the path, and I had only the one match.',
  'One match is enough, if you know where the step is.',
  'I know where the step is. It is the step that forgets where I am.',
  'Sit down and eat. The lamp can wait three minutes.',
  'The lamp can wait. The ships cannot.',
];

const boatBuilder = [
  'You built the new boat here, in this shed. How long did it take?',
  'Two winters. The first one went on looking for the wood.',
  'Looking for the wood?',
  'You cannot order a bend. You walk the valley until a tree has grown it for you.',
  'And what did you do with the second winter?',
  'I took away everything that was not a boat.',
];

const lamp = [
  'You have reached the lamp.',
  'The lens was ground in nineteen hundred and two, and it weighs as much as four horses.',
  'It floats on a ring of mercury, so that one finger can turn it.',
  'Please do not try that today.',
  'On a clear night the light was seen from twenty-six kilometres away.',
  'The keepers were never allowed to look straight into it.',
  'They knew by the colour of the wall behind them that all was well.',
  'From here, the way leads down again, one step at a time.',
];

export const parts: Part[] = [
  {
    id: 'arrival',
    name: 'Arrival',
    script: arrival,
    voice: 'ines',
    levelDbfs: -20.5,
    headSeconds: 0.7,
    tailSeconds: 2,
    events: [
      line(0),
      pause(0.9),
      line(1),
      pause(0.8),
      breath,
      line(2),
      pause(0.8),
      line(3),
      pause(0.7),
      breath,
      line(4),
    ],
  },
  {
    id: 'boat-house',
    name: 'The boat house',
    script: boatHouse,
    voice: 'ines',
    levelDbfs: -20.2,
    headSeconds: 0.7,
    tailSeconds: 2,
    struckEvents: [6, 7],
    events: [
      line(0),
      pause(0.8),
      line(1),
      pause(0.9),
      breath,
      pause(0.15),
      flub(2, 3, 'lamp coal', false),
      pause(1.8),
      again(2),
      pause(0.8),
      line(3),
      pause(0.7),
      breath,
      line(4),
    ],
  },
  {
    id: 'stair',
    name: 'The stair',
    script: stair,
    voice: 'ines',
    levelDbfs: -24.6,
    headSeconds: 0.2,
    tailSeconds: 2,
    events: [
      line(0),
      pause(0.8),
      line(1),
      pause(0.9),
      breath,
      line(2),
      pause(1),
      flub(3, 8, 'the lamb was lit', true),
      pause(2.1),
      again(3),
      pause(0.9),
      breath,
      flub(4, 6, 'in canes', false),
      pause(1.9),
      again(4),
      pause(1.2),
      { kind: 'door' },
      pause(1.1),
      line(5, { clippedWord: true }),
      pause(0.8),
      { kind: 'click' },
      pause(0.3),
      line(6),
    ],
  },
  {
    id: 'keepers-talk',
    name: 'Keepers’ talk',
    script: keepersTalk,
    voice: 'tomas',
    levelDbfs: -20.9,
    headSeconds: 0.7,
    tailSeconds: 2,
    humDbfs: -59,
    events: [
      line(0, { voice: 'tomas' }),
      pause(0.9),
      line(1, { voice: 'aldo' }),
      pause(0.8),
      line(2, { voice: 'tomas' }),
      pause(0.9),
      line(3, { voice: 'aldo' }),
      pause(1),
      line(4, { voice: 'tomas' }),
      pause(0.8),
      line(5, { voice: 'aldo' }),
    ],
  },
];

/** What the practice reader reads: the part of the demo that is not recorded yet. */
export const reading: Part = {
  id: 'practice-reader',
  name: 'The lamp',
  script: lamp,
  voice: 'ines',
  levelDbfs: -21,
  headSeconds: 1,
  tailSeconds: 1.5,
  events: [
    line(0),
    pause(0.9),
    line(1),
    pause(0.9),
    breath,
    flub(2, 6, 'of memory', true),
    pause(2),
    again(2),
    pause(0.9),
    line(3),
    pause(1),
    line(4),
    pause(0.8),
    breath,
    flub(5, 5, 'too look', false),
    pause(1.8),
    again(5),
    pause(0.9),
    line(6),
    pause(0.9),
    { kind: 'door' },
    pause(1.2),
    line(7),
  ],
};

/** Two microphones in one room: who asks and who answers, each also heard faintly in the other's. */
export const interview = {
  id: 'boat-builder',
  name: 'The boat builder',
  script: boatBuilder,
  voices: ['ines', 'aldo'] as const,
};

/**
 * A visitor's statement, and what an interpreter makes of it a few seconds behind: each sentence begins so
 * long after the visitor's, or when the one before is said. The one that goes wrong is said again.
 */
export const statement = {
  id: 'visitor',
  name: 'A visitor’s statement',
  voice: 'anders',
  interpreter: 'ines',
  lagSeconds: 2.6,
  sentences: [
    {
      said: 'Good afternoon. My name is Anders, and I come from an island with no lighthouse at all.',
      interpreted: 'Hello. I am Anders, and my island has no lighthouse.',
    },
    {
      said: 'My grandmother was born in your keeper’s house, in the winter of nineteen ten.',
      interpreted: 'My grandmother was born here, in the house of the keeper, in nineteen ten.',
    },
    {
      said: 'She told me about the ninety-four steps, and that she was never allowed to run on them.',
      slip: 'She told me about the ninety steps, and that she ran, no, that she',
      interpreted: 'She told me of the ninety-four steps, on which she must never run.',
    },
    {
      said: 'When she was eight, the family was sent to the mainland, and she never saw the sea again.',
      interpreted: 'At eight she was taken to the mainland, and that was the last of the sea.',
    },
    {
      said: 'I have brought the only thing that she kept: a small key, made of brass.',
      interpreted: 'I bring you what she kept, a little brass key.',
    },
    {
      said: 'It opens nothing that I know. Perhaps one of you can tell me which door it belonged to.',
      interpreted: 'I do not know what it opens. Perhaps you know the door.',
    },
    {
      said: 'Thank you for letting me climb the stair in her place.',
      interpreted: 'Thank you for letting me climb the stair for her.',
    },
  ],
} as const;

/**
 * A short film of two keepers, spoken to picture cue by cue: who says what, after how long a silence. The
 * voices of the film are the guide; those of the practice reader speak the same lines a little off.
 */
export const film = {
  id: 'keepers-film',
  name: 'The keepers’ film',
  rateHz: 25,
  headSeconds: 4,
  tailSeconds: 3,
  characters: [
    { name: 'Old keeper', guide: 'anders', reader: 'aldo' },
    { name: 'Young keeper', guide: 'tomas', reader: 'ines' },
  ],
  lines: [
    { by: 0, after: 0, text: 'Listen. That is not the wind.' },
    { by: 1, after: 0.9, text: 'What is it, then?' },
    { by: 0, after: 1.1, text: 'You felt it before you saw it.' },
    { by: 1, after: 0.9, text: 'Every stone of it.' },
    {
      by: 0,
      after: 1.4,
      text: 'The night the boat came back without a light, I counted to a hundred and started again.',
    },
    { by: 1, after: 0.8, text: 'And then?' },
    { by: 0, after: 1, text: 'Then somebody knocked.' },
    { by: 1, after: 1.2, text: 'Nobody knocks at a lighthouse.' },
    { by: 0, after: 1, text: 'That is what I said.' },
    { by: 1, after: 1.1, text: 'And did you open?' },
    { by: 0, after: 1.3, text: 'I had the lamp to wind. I let it knock.' },
    { by: 1, after: 1, text: 'And in the morning?' },
  ],
  /** The first reading of this line goes wrong. */
  slip: { line: 4, text: 'The night the boat came back without a lamp, no.' },
} as const;
