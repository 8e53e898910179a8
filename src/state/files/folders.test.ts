import { useQuestion } from '../page/questions';
import { chooseFolder, namesIn, saveToFolder } from './folders';

const mockContents = new Map<string, Blob>();
jest.mock('@/workers/scratchFile', () => ({
  openScratch: (path: string) => Promise.resolve(mockContents.get(path)),
}));

/** A folder as the File System standard has it: what is written stands apart until it is closed. */
class Folder {
  readonly name = 'Client';
  readonly files = new Map<string, string>();

  async getFileHandle(name: string, { create = false } = {}) {
    if (!this.files.has(name)) {
      if (!create) throw new DOMException('not there', 'NotFoundError');
      this.files.set(name, '');
    }
    const { files } = this;
    return {
      createWritable: async () => {
        let text = '';
        return Object.assign(
          new WritableStream<Uint8Array>({
            write: (bytes) => void (text += Buffer.from(bytes).toString()),
            close: () => void files.set(name, text),
          }),
        );
      },
    };
  }
  async removeEntry(name: string) {
    this.files.delete(name);
  }
  async *entries() {
    yield* this.files.entries();
  }
}

const folderWith = (files: Record<string, string>) => {
  const folder = new Folder();
  for (const [name, text] of Object.entries(files)) folder.files.set(name, text);
  return folder as Folder & FileSystemDirectoryHandle;
};
const contentsOf = (folder: Folder) => Object.fromEntries(folder.files);
const file = (name: string, text: string) => {
  mockContents.set(name, new Blob([text]));
  return { path: name, fileName: name };
};
const job = (signal = new AbortController().signal) => ({ signal, progress: () => undefined });

test('everything stands at once, when all of it has been written', async () => {
  const folder = folderWith({ 'one.wav': 'earlier', 'other.txt': 'mine' });
  await saveToFolder(
    folder,
    [file('one.wav', 'new'), file('two.wav', 'second')],
    [{ fileName: 'r.csv', text: 'a,b' }],
    job(),
  );
  expect(contentsOf(folder)).toEqual({
    'one.wav': 'new',
    'two.wav': 'second',
    'r.csv': 'a,b',
    'other.txt': 'mine',
  });
});

test('cancelled on the way, earlier deliveries are what they were and nothing new is left', async () => {
  const before = { 'one.wav': 'earlier one', 'two.wav': 'earlier two' };
  const folder = folderWith(before);
  const controller = new AbortController();
  const watched = {
    signal: controller.signal,
    progress: (done: number) => void (done > 0.4 && controller.abort()),
  };
  const files = [file('one.wav', 'new'), file('three.wav', 'third'), file('two.wav', 'second')];
  await expect(saveToFolder(folder, files, [], watched)).rejects.toMatchObject({ code: 'cancelled' });
  expect(contentsOf(folder)).toEqual(before);
});

test('failing on the way, the same', async () => {
  const before = { 'one.wav': 'earlier one' };
  const folder = folderWith(before);
  const files = [file('one.wav', 'new'), { path: 'nowhere', fileName: 'two.wav' }];
  await expect(saveToFolder(folder, files, [], job())).rejects.toThrow();
  expect(contentsOf(folder)).toEqual(before);
});

describe('names that are taken', () => {
  const answer = async (choice: string | null) => {
    while (!useQuestion.getState().question) await new Promise((resolve) => setTimeout(resolve, 1));
    const question = useQuestion.getState().question;
    question?.answer(choice);
    return question;
  };

  test('nothing is asked where none is', async () => {
    expect(await namesIn(folderWith({ 'a.wav': '' }), ['b.wav'])).toEqual(['b.wav']);
  });

  test('are asked about, by name; replacing keeps the names, keeping both finds others, closing ends it', async () => {
    const folder = folderWith({ 'a.wav': '1', 'a-2.wav': '2' });
    const replaced = namesIn(folder, ['a.wav', 'b.wav']);
    expect((await answer('replace'))?.text).toContain('a.wav');
    expect(await replaced).toEqual(['a.wav', 'b.wav']);
    const both = namesIn(folder, ['a.wav', 'b.wav']);
    await answer('both');
    expect(await both).toEqual(['a-3.wav', 'b.wav']);
    const none = namesIn(folder, ['a.wav']);
    await answer(null);
    expect(await none).toBeNull();
    expect(contentsOf(folder)).toEqual({ 'a.wav': '1', 'a-2.wav': '2' });
  });

  test('a few are named, more are counted; replacing is marked as what cannot be taken back', async () => {
    const names = Array.from({ length: 8 }, (_, index) => `${index}.wav`);
    const question = async (wanted: readonly string[]) => {
      const asked = namesIn(folderWith(Object.fromEntries(names.map((name) => [name, '']))), wanted);
      const told = await answer(null);
      await asked;
      return told;
    };
    const one = await question(['3.wav', 'new.wav']);
    expect(one).toMatchObject({
      title: 'This file is there already',
      text: 'In the folder “Client”:\n3.wav',
      choices: [
        { id: 'both', label: 'Keep both' },
        { id: 'replace', label: 'Replace', destructive: true },
      ],
    });
    expect((await question(names.slice(0, 6)))?.text).toMatch(/4\.wav\n5\.wav$/);
    const all = await question(names);
    expect(all?.title).toBe('8 files are there already');
    expect(all?.text).toMatch(/5\.wav\nand 2 more$/);
  });
});

test('progress goes from nothing to all, file by file', async () => {
  const told: number[] = [];
  const watched = { ...job(), progress: (done: number) => void told.push(done) };
  await saveToFolder(folderWith({}), [file('one.wav', '1'), file('two.wav', '2')], [], watched);
  expect(told.slice(0, 2)).toEqual([0, 0.5]);
});

test('a folder is chosen by the user, or not at all', async () => {
  const folder = folderWith({});
  const picker = jest.fn(() => Promise.resolve(folder));
  Object.assign(globalThis, { window: { showDirectoryPicker: picker } });
  expect(await chooseFolder()).toBe(folder);
  expect(picker).toHaveBeenCalledWith({ mode: 'readwrite' });
  picker.mockRejectedValueOnce(new DOMException('closed', 'AbortError'));
  expect(await chooseFolder()).toBeNull();
  Object.assign(globalThis, { window: {} });
  expect(await chooseFolder()).toBeNull();
});
