import type * as Registry from './registry';

jest.mock('@/storage/settings', () => ({
  readSetting: () => Promise.resolve(undefined),
  writeSetting: () => Promise.resolve(),
}));

/** The module as it is where another language is spoken: in a worker the page tells it by the name. */
async function inLanguage(name: string): Promise<typeof Registry> {
  jest.resetModules();
  Object.assign(globalThis, { name });
  try {
    return await import('./registry');
  } finally {
    Object.assign(globalThis, { name: undefined });
  }
}

test('keys mean the same in every language, in each screen', async () => {
  const meant = ({ commandIds, isMeantIn, canShare }: typeof Registry) => ({
    finish: commandIds.filter((id) => isMeantIn('finish', id)),
    booth: commandIds.filter((id) => isMeantIn('booth', id)),
    shared: commandIds.flatMap((a) => commandIds.filter((b) => canShare(a, b)).map((b) => `${a} ${b}`)),
  });
  const english = meant(await inLanguage('en'));
  expect(english.finish).toContain('previousPause');
  const german = await inLanguage('de');
  expect(german.commands.play.label).toBe('Vom Cursor an abspielen, hier anhalten');
  expect(meant(german)).toEqual(english);
});
