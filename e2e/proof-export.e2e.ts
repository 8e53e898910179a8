import { request } from 'node:http';
import { execFile, execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';
import type { Page } from 'playwright-core';
import { decode, probe } from './support/audio';
import { choose, download, goTo, openApp, openDemo, saved, type App } from './support/app';
import { baseUrl } from './support/server';
import { findSpec } from '@/core/specs/builtIn';
import { proofFile } from '@/node/proofFile';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-files-'));

const exportTo = (page: Page) =>
  download(page, () => page.getByRole('button', { name: /^Export \d/ }).click(), folder);

/** How many written files stand in the private file system: of exports that ended, until they are old. */
const scratchFiles = (page: Page) =>
  page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    const directory = await root.getDirectoryHandle('exports');
    const names: string[] = [];
    for await (const name of (directory as unknown as { keys(): AsyncIterable<string> }).keys())
      names.push(name);
    return names.length;
  });

describe('Proof and export of the demo', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
    await goTo(page, 'Proof');
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('every part is measured; the verdicts say value, limit and distance; there is a chart', async () => {
    await page.getByText('2 of 8 parts pass').waitFor();
    await expect(page.getByTestId('proof-1').textContent()).resolves.toContain('Passes');
    await expect(page.getByTestId('proof-4').textContent()).resolves.toContain('not recorded');
    await page
      .getByText(/Sample peak −\d\.\d dBFS is \d\.\d dB over the highest allowed \(at most −3\.0 dBFS\)/)
      .waitFor();
    await page.getByText('Head is 0.20 s of room tone; 0.5 to 1 s wanted').waitFor();
    await expect(page.locator('.recharts-line-curve').count()).resolves.toBe(1);
  });

  test('the measured numbers are those of the exported file', async () => {
    await choose(page, 'What', 'The open part');
    await choose(page, 'Format', 'WAV · 32-bit float');
    await choose(page, 'Sample rate', '48 kHz');
    const file = await exportTo(page);
    const spec = findSpec('Audiobook retail');
    if (!spec) throw new Error('no spec');
    const proof = await proofFile(file, spec);
    const row = (await page.getByTestId('proof-3').textContent()) ?? '';
    for (const value of [
      proof.rmsDbfs,
      proof.samplePeakDbfs,
      proof.noiseFloorDbfs,
      proof.integratedLufs,
      proof.truePeakDbtp,
    ]) {
      expect(row).toContain((value ?? NaN).toFixed(1).replace('-', '−'));
    }
  });

  test('all parts as MP3, 192 kbit/s mono at the rate the spec wants, in one archive', async () => {
    await page.reload();
    await page.getByRole('button', { name: 'Export 5 files' }).waitFor();
    const archive = await exportTo(page);
    expect(path.basename(archive)).toBe('The-Lamp-House.zip');
    execFileSync('unzip', ['-q', '-o', archive, '-d', folder]);
    for (const name of [
      '01_Arrival',
      '02_The-boat-house',
      '03_The-stair',
      '05_Keepers-talk',
      '06_The-boat-builder',
    ]) {
      const file = `${folder}/The-Lamp-House_${name}.mp3`;
      expect(probe(file)).toMatchObject({ codec: 'mp3', sampleRate: 44_100, channels: 1, bitRate: 192_000 });
    }
    // To the frame as long as what is heard, converted.
    const heard = decode('public/demo/arrival.mp3').length;
    expect(decode(`${folder}/The-Lamp-House_01_Arrival.mp3`)).toHaveLength(Math.round((heard * 147) / 160));
  });

  test('each voice, all voices and the bed apart: together they are the mix', async () => {
    await page.reload();
    await page.getByRole('button', { name: 'Export 5 files' }).waitFor();
    await choose(page, 'Sound', 'Each voice in a file of its own');
    await choose(page, 'Format', 'WAV · 32-bit float');
    await page.getByRole('button', { name: 'Export 6 files' }).waitFor();
    execFileSync('unzip', ['-q', '-o', await exportTo(page), '-d', folder]);
    const alone = ['Ines', 'Boat-builder'].map((voice) =>
      decode(`${folder}/The-Lamp-House_06_The-boat-builder-${voice}.wav`),
    );
    const mixes: Record<string, Float32Array> = {};
    for (const [sound, end] of [
      ['Voices without the bed', '-voices'],
      ['All voices and beds together', ''],
    ]) {
      await choose(page, 'Sound', sound);
      execFileSync('unzip', ['-q', '-o', await exportTo(page), '-d', folder]);
      mixes[sound] = decode(`${folder}/The-Lamp-House_06_The-boat-builder${end}.wav`);
    }
    await choose(page, 'Sound', 'The bed alone');
    await page.getByRole('button', { name: 'Export 1 file' }).waitFor();
    const bed = decode(await exportTo(page));
    const { 'Voices without the bed': voices, 'All voices and beds together': together } = mixes;
    const off = { voices: 0, mix: 0 };
    for (const [i, sample] of together.entries()) {
      off.voices = Math.max(off.voices, Math.abs(voices[i] - alone[0][i] - alone[1][i]));
      off.mix = Math.max(off.mix, Math.abs(sample - voices[i] - bed[i]));
    }
    // Rounding of three files to 32 bits.
    expect(off.voices).toBeLessThan(1e-6);
    expect(off.mix).toBeLessThan(1e-6);
    expect(bed.some((sample) => Math.abs(sample) > 0.005)).toBe(true);
    await choose(page, 'Sound', 'All voices and beds together');
    expect(alone.every((voice) => voice.some((sample) => Math.abs(sample) > 0.05))).toBe(true);
    await page.getByRole('button', { name: /^As the spec wants it/ }).click();
  });

  test('a selection as 16-bit WAV, with dither or without', async () => {
    await goTo(page, 'Booth');
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press(']');
    await goTo(page, 'Proof');
    await choose(page, 'What', /^The selection/);
    await choose(page, 'Format', 'WAV · 16-bit');
    await choose(page, 'Sample rate', '48 kHz');
    const dithered = await exportTo(page);
    expect(path.basename(dithered)).toBe('The-Lamp-House_03_The-stair-passage.wav');
    expect(probe(dithered)).toMatchObject({ codec: 'pcm_s16le', sampleRate: 48_000 });
    const withDither = decode(dithered);
    expect(withDither).toHaveLength(12 * 48_000);
    await page.getByLabel('Dither (TPDF)').click();
    const plain = decode(await exportTo(page));
    let squares = 0;
    for (let i = 0; i < plain.length; i++) squares += ((plain[i] - withDither[i]) * 32_768) ** 2;
    // Triangular noise of ±1 LSB has a variance of 1/6 LSB²; rounding both adds up to twice 1/12.
    expect(squares / plain.length).toBeGreaterThan(0.1);
    expect(squares / plain.length).toBeLessThan(0.4);
  });

  test('an export can be cancelled, and leaves no half file behind', async () => {
    await page.reload();
    const before = await scratchFiles(page);
    await page.getByRole('button', { name: 'Export 5 files' }).click();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await page.getByRole('progressbar', { name: /^Writing/ }).waitFor({ state: 'detached' });
    await expect(
      page
        .getByRole('alert')
        .filter({ hasText: /is written/ })
        .count(),
    ).resolves.toBe(0);
    expect(await scratchFiles(page)).toBe(before);
    await saved(page);
  });
});

describe('the proof from outside', () => {
  const post = (query: string, body: BodyInit | null) =>
    fetch(`${baseUrl}/api/proof?${query}`, { method: 'POST', body });
  const arrival = readFileSync('public/demo/arrival.mp3');

  test('pages are isolated, and may load nothing from anywhere else', async () => {
    const { headers } = await fetch(baseUrl);
    expect(headers.get('cross-origin-opener-policy')).toBe('same-origin');
    expect(headers.get('cross-origin-embedder-policy')).toBe('require-corp');
    const policy = headers.get('content-security-policy') ?? '';
    expect(policy).toContain("default-src 'self'");
    expect(policy).toMatch(/script-src 'self' 'nonce-[A-Za-z0-9+/=]+' 'strict-dynamic' 'wasm-unsafe-eval';/);
    expect(policy).not.toContain("'unsafe-eval'");
    expect(policy).not.toMatch(/https?:/);
    // A nonce serves once.
    expect((await fetch(baseUrl)).headers.get('content-security-policy')).not.toBe(policy);
  });

  test('every answer says who may frame it and that only this application hears; other hosts get none', async () => {
    const report = await post('spec=audiobook-retail&report=html', arrival);
    const pages = ['/', '/nothing', '/icon.svg', '/_next/static/nothing.js', '/api/proof'];
    for (const { headers } of [report, ...(await Promise.all(pages.map((page) => fetch(baseUrl + page))))]) {
      expect(headers.get('content-security-policy')).toContain("frame-ancestors 'none'");
      expect(headers.get('permissions-policy')).toContain('microphone=(self)');
      expect(headers.get('x-content-type-options')).toBe('nosniff');
    }
    // `fetch` names the host by itself; other programs can say what they like.
    const statusOf = (headers: Record<string, string>, method = 'GET') =>
      new Promise<number | undefined>((resolve, reject) =>
        request(baseUrl, { method, headers }, ({ statusCode }) => resolve(statusCode))
          .on('error', reject)
          .end(),
      );
    expect(await statusOf({})).toBe(200);
    expect(await statusOf({ host: 'example.org' })).toBe(421);
    expect(await statusOf({ origin: 'https://example.org' }, 'POST')).toBe(403);
    expect(await statusOf({ 'sec-fetch-site': 'cross-site' }, 'POST')).toBe(403);
  });

  test('the command line and the address answer with the same numbers', async () => {
    // Not while everything here stands still: nobody would notice that a kept connection was closed.
    const { stdout } = await promisify(execFile)(
      'npm',
      ['run', '--silent', 'proof', '--', 'public/demo/arrival.mp3', '--spec', 'Audiobook retail', '--json'],
      { encoding: 'utf8' },
    );
    const [byCommand] = JSON.parse(stdout) as Record<string, unknown>[];
    const response = await post('spec=audiobook-retail&file=public/demo/arrival.mp3', arrival);
    expect(response.status).toBe(200);
    expect(await response.json()).toEqual(byCommand);
    expect(byCommand).toMatchObject({ passes: true, sampleRateHz: 48_000, channels: 1, clippedSamples: 0 });
  });

  test.each([
    ['spec=none', arrival, 400, /There is no spec “none”\. Known: Audiobook retail/],
    ['', arrival, 400, /Add \?spec=NAME/],
    ['spec=dry-voice', Buffer.from('hello, this is not audio at all'), 415, /not a WAV, AIFF, FLAC or MP3/],
    ['spec=dry-voice', Buffer.alloc(0), 415, /empty|Send an audio file/],
    [
      'spec=dry-voice',
      Buffer.from('RIFF\x24\0\0\0WAVEfmt \x10\0\0\0\x01\0\0\0\0\0\0\0'),
      422,
      /cannot be read/,
    ],
  ] as [string, Buffer, number, RegExp][])(
    '%s: a clear refusal (%#)',
    async (query, body, status, message) => {
      const response = await post(query, new Uint8Array(body));
      expect(response.status).toBe(status);
      expect(((await response.json()) as { error: string }).error).toMatch(message);
    },
  );

  test('a body over 500 MB is refused while it streams, whatever it claims', async () => {
    let sent = 0;
    const chunk = new Uint8Array(4_000_000);
    const body = new ReadableStream({
      pull(controller) {
        sent += chunk.length;
        if (sent > 520e6) controller.close();
        else controller.enqueue(chunk);
      },
    });
    const response = await fetch(`${baseUrl}/api/proof?spec=dry-voice`, {
      method: 'POST',
      body,
      duplex: 'half',
    } as RequestInit);
    expect(response.status).toBe(413);
    expect(((await response.json()) as { error: string }).error).toContain('over 500 MB');
  });

  test('exit codes: 0 passes, 1 faults, 2 cannot read', () => {
    const run = (...args: string[]) => {
      try {
        execFileSync('npm', ['run', '--silent', 'proof', '--', ...args], { stdio: 'pipe' });
        return 0;
      } catch (error) {
        return (error as { status: number }).status;
      }
    };
    const letter = path.join(folder, 'letter.wav');
    writeFileSync(letter, 'not audio');
    expect(run('public/demo/arrival.mp3', '--spec', 'Audiobook retail')).toBe(0);
    expect(run('public/demo/stair.mp3', '--spec', 'Audiobook retail')).toBe(1);
    expect(run('public/demo/arrival.mp3', letter, '--spec', 'Audiobook retail', '--json')).toBe(2);
    expect(run('public/demo/arrival.mp3', '--spec', 'none')).toBe(2);
  });
});
