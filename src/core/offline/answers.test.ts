import { answerTo, keptPages, placeholderId } from './answers';

const files = new Set(['/_next/static/a.js', '/worklets/capture.js']);
const id = '3f2b8a51-9d1e-4c57-8a6b-0123456789ab';
const ask = (path: string, more: { method?: string; navigates?: boolean } = {}) =>
  answerTo({ method: 'GET', navigates: false, path, ...more }, files);

describe('what is answered without a server', () => {
  test('pages: the list, and each screen of any project from the one that is kept', () => {
    for (const path of ['/', '/help'])
      expect(ask(path, { navigates: true })).toEqual({ kind: 'page', kept: path, id: null });
    for (const screen of ['brief', 'booth', 'finish', 'proof']) {
      const answer = ask(`/project/${id}/${screen}`, { navigates: true });
      expect(answer).toEqual({ kind: 'page', kept: `/project/${placeholderId}/${screen}`, id });
      expect(keptPages).toContain(answer.kind === 'page' ? answer.kept : '');
    }
  });

  test.each([
    '/project/"><script>/booth',
    '/project/../booth',
    `/project/${id}/elsewhere`,
    `/project/${id}/booth/more`,
    `/project/${id.toUpperCase()}/booth`,
    '/talent',
    '/api/proof',
  ])('%s is no page of it', (path) => expect(ask(path, { navigates: true }).kind).toBe('network'));

  test('files of this version, and the demo once it has been used; nothing that is sent, no part of a page', () => {
    expect(ask('/_next/static/a.js')).toEqual({ kind: 'file', path: '/_next/static/a.js' });
    expect(ask('/_next/static/of-another-version.js').kind).toBe('network');
    expect(ask('/demo/interview.mp3')).toEqual({ kind: 'later', path: '/demo/interview.mp3' });
    expect(ask('/_next/static/a.js', { method: 'POST' }).kind).toBe('network');
    expect(ask('/', { method: 'POST', navigates: true }).kind).toBe('network');
    expect(ask(`/project/${id}/booth`).kind).toBe('network');
  });
});
