// Sees that Chromium and Xvfb are there for the browser tests; installs them from Debian's packages
// where that is possible, else says in one line what to install.
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { delimiter, join } from 'node:path';

const has = (name) =>
  (process.env.PATH ?? '').split(delimiter).some((folder) => existsSync(join(folder, name)));
const missing = [];
const hasChromium =
  process.env.UMBER_CHROMIUM ||
  ['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable'].some(has);
if (!hasChromium) missing.push('chromium');
if (process.platform === 'linux' && !has('Xvfb')) missing.push('xvfb');
if (missing.length > 0) {
  const isRoot = process.getuid?.() === 0;
  const prefix = isRoot ? [] : ['sudo', '-n'];
  const mayInstall =
    has('apt-get') && (isRoot || (has('sudo') && spawnSync('sudo', ['-n', 'true']).status === 0));
  if (!mayInstall) fail(missing);
  console.log(`installing ${missing.join(' and ')} from Debian's packages`);
  try {
    const apt = (...args) => {
      const [command, ...rest] = [...prefix, 'apt-get', '-qq', ...args];
      execFileSync(command, rest, {
        stdio: ['ignore', 'ignore', 'inherit'],
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      });
    };
    apt('update');
    apt('install', '-y', '--no-install-recommends', ...missing);
  } catch {
    fail(missing);
  }
}

function fail(names) {
  console.error(
    `The browser tests need ${names.join(' and ')}: install them (on Debian: apt-get install ${names.join(' ')}).`,
  );
  process.exit(1);
}
