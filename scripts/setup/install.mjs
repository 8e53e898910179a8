// What demo and verify share: plain JavaScript, since it runs before anything is installed.
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';

process.env.NEXT_TELEMETRY_DISABLED = '1';

/** Runs a command with its output shown; resolves with whether it succeeded. */
export const start = (command, args) =>
  new Promise((resolve) => {
    const child = spawn(command, args, { stdio: 'inherit', env: process.env });
    child.on('error', () => resolve(false));
    child.on('exit', (code) => resolve(code === 0));
  });

/** Installs the npm packages unless the lock file's are there already; rejects where that fails. */
export async function installPackages() {
  const stamp = 'node_modules/.parola-installed';
  const wanted = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  console.log('Installing packages …');
  if (!(await start('npm', ['install', '--no-audit', '--no-fund', '--loglevel=error'])))
    throw new Error('npm install failed');
  writeFileSync(stamp, createHash('sha256').update(readFileSync('package-lock.json')).digest('hex'));
}

const newest = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .reduce((time, entry) => Math.max(time, statSync(path.join(entry.parentPath, entry.name)).mtimeMs), 0);

/** Builds the application unless nothing has changed since the last build. */
export async function buildApplication() {
  const built = existsSync('.next/BUILD_ID') ? statSync('.next/BUILD_ID').mtimeMs : 0;
  const configs = ['package-lock.json', 'next.config.ts', 'tsconfig.json'].map(
    (file) => statSync(file).mtimeMs,
  );
  if (
    built > Math.max(newest('src'), ...configs) &&
    existsSync('public/worklets') &&
    existsSync('public/service-worker.js') &&
    existsSync('build/node')
  )
    return true;
  return start('npm', ['run', '--silent', 'build']);
}

/** Debian packages the checks need, with a file each brings. */
const debianPackages = {
  chromium: '/usr/bin/chromium',
  'chromium-headless-shell': '/usr/bin/chromium-headless-shell',
  python3: '/usr/bin/python3',
  'firefox-esr': '/usr/bin/firefox-esr',
  pulseaudio: '/usr/bin/pulseaudio',
  ffmpeg: '/usr/bin/ffmpeg',
  sox: '/usr/bin/sox',
  procps: '/usr/bin/pkill',
  unzip: '/usr/bin/unzip',
  flac: '/usr/bin/flac',
  mediainfo: '/usr/bin/mediainfo',
  lame: '/usr/bin/lame',
  pandoc: '/usr/bin/pandoc',
  zip: '/usr/bin/zip',
  // Recorded prompts of voice artists, from which readings with known truth are put together.
  'asterisk-core-sounds-en-g722': '/usr/share/asterisk/sounds/en_US_f_Allison',
  'asterisk-core-sounds-fr-g722': '/usr/share/asterisk/sounds/fr_CA_f_June',
  'asterisk-core-sounds-it-g722': '/usr/share/asterisk/sounds/it_IT_m_Carlo',
};

/**
 * Installs the Debian packages that are missing, beside whatever else is done; rejects with what to do where
 * that is not possible.
 */
export async function installDebianPackages() {
  const missing = Object.keys(debianPackages).filter((name) => !existsSync(debianPackages[name]));
  if (missing.length === 0) return;
  console.log(`Installing ${missing.join(', ')} …`);
  process.env.DEBIAN_FRONTEND = 'noninteractive';
  const installed =
    (await start('apt-get', ['update', '-qq'])) &&
    (await start('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing]));
  if (!installed)
    throw new Error(
      `The checks need ${missing.join(', ')}: install them as root (apt-get install ${missing.join(' ')}).`,
    );
}
