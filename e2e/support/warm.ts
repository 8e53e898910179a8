import { cpSync, existsSync, mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { chromium, type Page } from 'playwright-core';
import { baseUrl } from './server';

/** What a browser keeps of an application's files, compiled: nothing of what was done with it. */
const kept = ['Default/Cache', 'Default/Code Cache'];
const warmProfile = '.cache/warm-profile';
/** A script is kept compiled when it has been seen a few times. */
const visits = 3;
/** Tells test files, which run in processes of their own, that there is a warm profile of this build. */
const warm = 'PAROLA_WARM';

async function visit(page: Page): Promise<void> {
  await page.goto(baseUrl);
  await page.getByRole('button', { name: 'New project' }).click();
  await page.getByLabel('Name').fill('Warm');
  await page.getByRole('button', { name: 'Create' }).click();
  await page.waitForURL(/brief$/);
  for (const screen of ['Booth', 'Finish', 'Proof']) {
    await page.getByRole('link', { name: screen }).click();
    await page.waitForURL(new RegExp(`${screen.toLowerCase()}$`));
    await page.waitForTimeout(500);
  }
}

/**
 * Lets a browser see the application a few times, as that of its users has: most of what a fresh one does at
 * each start is compiling the same scripts.
 */
export async function makeWarmProfile(executablePath: string, args: string[]): Promise<void> {
  rmSync(warmProfile, { recursive: true, force: true });
  mkdirSync(warmProfile, { recursive: true });
  for (let i = 0; i < visits; i++) {
    const context = await chromium.launchPersistentContext(path.resolve(warmProfile), {
      executablePath,
      args,
      serviceWorkers: 'block',
    });
    await visit(context.pages()[0] ?? (await context.newPage()));
    await context.close();
  }
  process.env[warm] = 'yes';
}

/** Gives a profile that was never used what a browser would know of the application's files. */
export function warmUp(profile: string): void {
  if (!process.env[warm] || existsSync(path.join(profile, 'Default'))) return;
  for (const folder of kept) {
    const from = path.join(warmProfile, folder);
    if (existsSync(from)) cpSync(from, path.join(profile, folder), { recursive: true });
  }
}
